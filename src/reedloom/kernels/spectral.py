"""Periodic transforms in bands, so that they can be stopped: the surface that has given slopes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

BLOCK = 32


def transform(source: np.ndarray, axis: int, inverse: bool, bands: Callable[..., None]) -> np.ndarray:
    """The complex Fourier transform of every row (axis 1) or column (axis 0): (H, W) complex64.

    Parameters
    ----------
    source : (H, W) float32 or complex64
    axis : int
        0 or 1.
    inverse : bool
        Whether it is a spectrum that is brought back.
    bands : callable
        Runs band functions to the end.

    Returns
    -------
    (H, W) complex64
    """
    import scipy.fft  # its import takes longer than all other kernels', and only few kinds need it

    work = scipy.fft.ifft if inverse else scipy.fft.fft
    out = np.empty(source.shape, np.complex64)

    def band(a: int, b: int) -> None:
        if axis == 1:
            out[a:b] = work(source[a:b], axis=1)
        else:
            out[:, a:b] = work(source[:, a:b], axis=0)

    bands(band, rows=source.shape[1 - axis], band_rows=BLOCK)
    return out


def integrate_slopes(slope: np.ndarray, dx: float, dy: float, bands: Callable[..., None]) -> np.ndarray:
    """The periodic surface whose central differences come nearest to given slopes, with mean 0.

    Solves Poisson's equation in the frequency domain (R. Frankot and R. Chellappa, 1988).

    Parameters
    ----------
    slope : (H, W, 2) float32
        The rise per unit along columns and rows.
    dx, dy : float
        Between samples, in that unit.
    bands : callable
        Runs band functions to the end.

    Returns
    -------
    (H, W) float32
    """
    height, width = slope.shape[:2]
    across = np.sin(2 * np.pi * np.arange(width) / width) / dx
    down = np.sin(2 * np.pi * np.arange(height) / height) / dy
    spectrum = np.zeros((height, width), np.complex64)
    for channel, response in ((0, across[None, :]), (1, down[:, None])):
        part = transform(np.ascontiguousarray(slope[..., channel]).astype(np.complex64), 1, False, bands)
        part = transform(part, 0, False, bands)
        spectrum += part * (-1j * response).astype(np.complex64)
    power = across[None, :] ** 2 + down[:, None] ** 2
    # Waves that central differences cannot see, the constant among them, stay out.
    seen = power > 1e-6 * max(across.max(initial=0.0), down.max(initial=0.0), 1e-12) ** 2
    spectrum = np.where(seen, spectrum / np.where(seen, power, 1), 0).astype(np.complex64)
    back = transform(transform(spectrum, 0, True, bands), 1, True, bands)
    return np.ascontiguousarray(back.real, np.float32)
