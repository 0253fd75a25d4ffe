"""Periodic Gaussian blur of any radius by real Fourier transforms of rows, then of columns."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

BLOCK = 32
"""Rows or columns transformed at once: few enough to cancel fast, enough for the processor's vectors."""

FAINTEST = 2.0**-25
"""Frequencies of which less is left lie below float32's last bit."""

BandRunner = Callable[..., None]


def gaussian_response(samples: int, deviation: float) -> np.ndarray:
    """What a Gaussian of `deviation` (share of the tile) leaves of each frequency of a period.

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

    Where few frequencies across are left, only those are kept between the two ways, which halves the work.

    Parameters
    ----------
    source : (H, W) float32
    deviation : (float, float)
        Standard deviation along u and v as shares of the tile.
    bands : callable
        The evaluation's band runner.

    Returns
    -------
    (H, W) float32
    """
    height, width = source.shape
    across, down = gaussian_response(width, deviation[0]), gaussian_response(height, deviation[1])
    kept = int(np.count_nonzero(across > FAINTEST))
    if kept > width // 5:
        return blur_axis(blur_axis(source, across, 1, bands), down, 0, bands)
    import scipy.fft

    spectrum = np.empty((height, kept), np.complex64)
    out = np.empty_like(source)
    both = np.concatenate([down, down[1 : (height + 1) // 2][::-1]])[:, None]

    def rows(y0: int, y1: int) -> None:
        spectrum[y0:y1] = scipy.fft.rfft(source[y0:y1], axis=1)[:, :kept] * across[:kept]

    def columns(x0: int, x1: int) -> None:
        block = scipy.fft.fft(spectrum[:, x0:x1], axis=0) * both
        spectrum[:, x0:x1] = scipy.fft.ifft(block, axis=0, overwrite_x=True)

    def back(y0: int, y1: int) -> None:
        out[y0:y1] = scipy.fft.irfft(spectrum[y0:y1], n=width, axis=1)

    bands(rows, rows=height, band_rows=BLOCK)
    bands(columns, rows=kept, band_rows=BLOCK // 2)
    bands(back, rows=height, band_rows=BLOCK)
    return out
