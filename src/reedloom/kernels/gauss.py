"""Periodic Gaussian blur of any radius by real Fourier transforms of rows, then of columns."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

BLOCK = 32
"""Rows or columns transformed at once: few enough to cancel fast, enough for the processor's vectors."""

BandRunner = Callable[..., None]


def gaussian_response(samples: int, deviation: float) -> np.ndarray:
    """What a Gaussian of `deviation` (share of the tile) leaves of each frequency of a period.

    Returns (samples // 2 + 1,) float32, the exact transform of the periodic Gaussian.

    Parameters
    ----------
    samples : int
        In a period.
    deviation : float
        As a share of the period, from 0.

    Returns
    -------
    (samples // 2 + 1,) float32, 1 for the mean: the exact transform of the periodic Gaussian
    """
    frequency = np.arange(samples // 2 + 1, dtype=np.float64)
    return np.exp(-2 * (np.pi * deviation * frequency) ** 2).astype(np.float32)


def blur_axis(source: np.ndarray, response: np.ndarray, axis: int, bands: BandRunner) -> np.ndarray:
    """Multiply the spectrum of every row (axis 1) or column (axis 0) by a response.

    Frequencies whose response is below float32's last bit are neither kept nor transformed back.

    Parameters
    ----------
    source : (H, W) float32
    response : (n // 2 + 1,) float32
        For n samples along the axis.
    bands : callable
        ``bands(band, rows=, band_rows=)`` runs a band function to the end.

    Returns
    -------
    (H, W) float32
    """
    import scipy.fft  # its import takes longer than all other kernels', and only blurs need it

    out = np.empty_like(source)
    samples = source.shape[axis]
    shape = (1, -1) if axis == 1 else (-1, 1)
    factors = response.reshape(shape)

    def band(a: int, b: int) -> None:
        block = source[a:b] if axis == 1 else source[:, a:b]
        spectrum = scipy.fft.rfft(block, axis=axis)
        spectrum *= factors
        result = scipy.fft.irfft(spectrum, n=samples, axis=axis, overwrite_x=True)
        if axis == 1:
            out[a:b] = result
        else:
            out[:, a:b] = result

    bands(band, rows=source.shape[1 - axis], band_rows=BLOCK)
    return out


def gaussian_blur(source: np.ndarray, deviation: tuple[float, float], bands: BandRunner) -> np.ndarray:
    """Blur a grey map over the wrapped border.

    Parameters
    ----------
    source : (H, W) float32
    deviation : (float, float)
        Standard deviation along u and v as shares of the tile.
    bands : callable
        The evaluation's band runner.
    """
    height, width = source.shape
    rows = blur_axis(source, gaussian_response(width, deviation[0]), 1, bands)
    return blur_axis(rows, gaussian_response(height, deviation[1]), 0, bands)
