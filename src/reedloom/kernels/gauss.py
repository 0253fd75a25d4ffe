"""Periodic Gaussian blur of any radius: of few samples by weighted sums, of more by Fourier transforms.

Both have the same exact response, that of the periodic Gaussian; which is faster depends on the radius alone.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np

from reedloom.kernels.jit import inlined, kernel, read_only
from reedloom.kernels.maps import empty_like
from reedloom.kernels.places import around, wrap_row
from reedloom.kernels.spectral import BLOCK, change_waves, in_both_ways

FAINTEST = 2.0**-25
"""Frequencies of which less is left lie below float32's last bit."""

MOST_TAPS = 34
"""Weights to one side up to which sums are faster than transforms."""
LEFT_OUT = 1e-6
"""Sum of the weights beyond those taken."""

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
    return _exact_response(samples, deviation).astype(np.float32)


def _exact_response(samples: int, deviation: float) -> np.ndarray:
    frequency = np.arange(samples // 2 + 1, dtype=np.float64)
    response: np.ndarray = np.exp(-2 * (np.pi * deviation * frequency) ** 2)
    return response


@lru_cache(64)
def gaussian_taps(samples: int, deviation: float) -> np.ndarray | None:
    """The weights of a blur's neighbours, those of both sides as one, from the sample itself outwards.

    Parameters
    ----------
    samples : int
        In a period.
    deviation : float
        As a share of the period, from 0.

    Returns
    -------
    (n,) float32, read-only
        With a sum, each but the first counted twice, of 1; or None if they are too many, because the Gaussian
        is wide, or so narrow that it rings.
    """
    weights = np.fft.irfft(_exact_response(samples, deviation), samples)
    weights = weights[: (samples + 1) // 2]
    beyond = 2 * np.cumsum(np.abs(weights[::-1]))[::-1]
    count = int(np.count_nonzero(beyond > LEFT_OUT))
    if count > MOST_TAPS or count == len(weights):
        return None
    taps = weights[:count]
    return read_only((taps / (2 * taps.sum() - taps[0])).astype(np.float32))


@kernel
def sum_rows(source, taps, out, y0, y1):  # type: ignore[no-untyped-def]
    """Blur rows of a map across by weighted sums.

    Parameters
    ----------
    source : (H, W) float32
    taps : (n,) float32
        From `gaussian_taps`.
    out : (H, W) float32
        Rows y0 to y1 are filled.
    """
    width, reach = source.shape[1], len(taps) - 1
    padded = np.empty(width + 2 * reach, np.float32)
    for y in range(y0, y1):
        wrap_row(source[y], reach, padded)
        _weigh(padded, reach, taps[0], out[y])
        k = 1
        while k + 3 <= reach:
            at = (reach - k, reach - k - 1, reach - k - 2, reach - k - 3,
                  reach + k, reach + k + 1, reach + k + 2, reach + k + 3)  # fmt: skip
            _add_pairs(padded, at, (taps[k], taps[k + 1], taps[k + 2], taps[k + 3]), out[y])
            k += 4
        while k <= reach:
            _add_pair(padded, reach - k, reach + k, taps[k], out[y])
            k += 1


@kernel
def sum_columns(source, taps, out, y0, y1):  # type: ignore[no-untyped-def]
    """Blur rows of a map down by weighted sums.

    Parameters
    ----------
    source : (H, W) float32
        Contiguous.
    taps : (n,) float32
        From `gaussian_taps`.
    out : (H, W) float32
        Rows y0 to y1 are filled.
    """
    height, width = source.shape
    flat, reach = source.reshape(-1), len(taps) - 1
    for y in range(y0, y1):
        _weigh(flat, y * width, taps[0], out[y])
        k = 1
        while k + 3 <= reach:
            at = (around(y - k, height) * width, around(y - k - 1, height) * width,
                  around(y - k - 2, height) * width, around(y - k - 3, height) * width,
                  around(y + k, height) * width, around(y + k + 1, height) * width,
                  around(y + k + 2, height) * width, around(y + k + 3, height) * width)  # fmt: skip
            _add_pairs(flat, at, (taps[k], taps[k + 1], taps[k + 2], taps[k + 3]), out[y])
            k += 4
        while k <= reach:
            _add_pair(flat, around(y - k, height) * width, around(y + k, height) * width, taps[k], out[y])
            k += 1


@inlined
def _weigh(flat, at, weight, line):  # type: ignore[no-untyped-def]
    start = np.uint64(at)
    for x in range(np.uint64(line.shape[0])):
        line[x] = weight * flat[start + x]


@inlined
def _add_pair(flat, before, after, weight, line):  # type: ignore[no-untyped-def]
    """Add the weighted sum of two stretches of an array to a line."""
    a, b = np.uint64(before), np.uint64(after)
    for x in range(np.uint64(line.shape[0])):
        line[x] += weight * (flat[a + x] + flat[b + x])


@inlined
def _add_pairs(flat, at, weights, line):  # type: ignore[no-untyped-def]
    """`_add_pair` of four pairs at once, all of one array, so that the line is read and written but once.

    at : where the four before begin, and the four after.
    """
    a, b, c, d = np.uint64(at[0]), np.uint64(at[1]), np.uint64(at[2]), np.uint64(at[3])
    e, f, g, h = np.uint64(at[4]), np.uint64(at[5]), np.uint64(at[6]), np.uint64(at[7])
    p, q, r, s = weights
    for x in range(np.uint64(line.shape[0])):
        near = p * (flat[a + x] + flat[e + x]) + q * (flat[b + x] + flat[f + x])
        far = r * (flat[c + x] + flat[g + x]) + s * (flat[d + x] + flat[h + x])
        line[x] += near + far


def sum_axis(source: np.ndarray, taps: np.ndarray, axis: int, bands: BandRunner) -> np.ndarray:
    """Blur along every row (axis 1) or column (axis 0) by weighted sums.

    Parameters
    ----------
    source : (H, W) float32
        Contiguous.
    taps : (n,) float32
        From `gaussian_taps`.
    axis : int
        0 or 1.
    bands : callable
        ``bands(band, rows=)`` runs a band function to the end.

    Returns
    -------
    (H, W) float32
    """
    out = empty_like(source)
    sums = sum_rows if axis == 1 else sum_columns
    bands(lambda y0, y1: sums(read_only(source), taps, out, y0, y1), rows=len(source))
    return out


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

    out = empty_like(source)
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
    taps = [gaussian_taps(width, deviation[0]), gaussian_taps(height, deviation[1])]
    if any(few is not None for few in taps):
        for axis, few, response in ((1, taps[0], across), (0, taps[1], down)):
            source = (
                blur_axis(source, response, axis, bands)
                if few is None
                else sum_axis(np.ascontiguousarray(source), few, axis, bands)
            )
        return source
    kept = int(np.count_nonzero(across > FAINTEST))
    if kept > width // 5:
        return blur_axis(blur_axis(source, across, 1, bands), down, 0, bands)
    out = empty_like(source)
    both = np.concatenate([down, down[1 : (height + 1) // 2][::-1]])[:, None]

    def weaken(waves: np.ndarray, which: slice) -> np.ndarray:
        return np.multiply(waves, both * across[which], out=waves)

    def put(y0: int, y1: int, rows: np.ndarray) -> None:
        out[y0:y1] = rows

    change_waves((height, width), kept, lambda y0, y1: source[y0:y1], in_both_ways(weaken), put, bands)
    return out
