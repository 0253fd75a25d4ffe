"""Periodic transforms in bands, so that they can be stopped: a map's waves, the surface of given slopes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

BLOCK = 32
"""Rows or columns transformed at once: few enough to cancel fast, enough for the processor's vectors."""


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


def change_waves(
    size: tuple[int, int],
    kept: int,
    rows: Callable[[int, int], np.ndarray],
    change: Callable[[np.ndarray, slice], None],
    put: Callable[[int, int, np.ndarray], None],
    bands: Callable[..., None],
    columns: int = BLOCK // 2,
) -> None:
    """Change the waves of a map around the tile, band by band while the processor's cache holds it.

    Parameters
    ----------
    size : (int, int)
        The map's height and width.
    kept : int
        Of so many waves across; finer ones are lost.
    rows : callable
        Rows y0 to y1 of the map, float32.
    change : callable
        Changes in place these of all waves across, (H, kept) complex64. They are waves along rows only; for
        those along columns too see `in_both_ways`.
    put : callable
        Takes rows y0 to y1 of the result.
    bands : callable
        Runs band functions to the end.
    columns : int
        How many waves across are changed at once.
    """
    import scipy.fft

    height, width = size
    spectrum = np.empty((height, kept), np.complex64)

    def across(y0: int, y1: int) -> None:
        spectrum[y0:y1] = scipy.fft.rfft(rows(y0, y1), axis=1)[:, :kept]

    def back(y0: int, y1: int) -> None:
        put(y0, y1, scipy.fft.irfft(spectrum[y0:y1], n=width, axis=1))

    bands(across, rows=height, band_rows=BLOCK)
    bands(lambda x0, x1: change(spectrum, slice(x0, x1)), rows=kept, band_rows=columns)
    bands(back, rows=height, band_rows=BLOCK)


def in_both_ways(change: Callable[[np.ndarray, slice], np.ndarray]) -> Callable[[np.ndarray, slice], None]:
    """For `change_waves`, what becomes of (H, n) complex64 waves in both directions; it may work in place."""

    def through(spectrum: np.ndarray, which: slice) -> None:
        import scipy.fft

        waves = change(scipy.fft.fft(spectrum[:, which], axis=0), which)
        spectrum[:, which] = scipy.fft.ifft(waves, axis=0, overwrite_x=True)

    return through


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
