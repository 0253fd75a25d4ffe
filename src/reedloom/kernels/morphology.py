"""Grey dilation over the wrapped border by a square, a disc or a diamond.

Each row of the element is a run of samples. The highest value over a run of any length is that of two
overlapping runs of a power of two (after M. van Herk's idea, 1992, in the doubling form), so that a row
of the element costs two comparisons a sample whatever its length, in loops that run in vectors.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.maps import empty_like

SHAPES = ("round", "square", "diamond")


def half_widths(shape: str, radius: int) -> np.ndarray:
    """Half the length of each row of an element of a whole radius, from its top to its bottom."""
    rows = np.arange(-radius, radius + 1)
    if shape == "square":
        return np.full(2 * radius + 1, radius, np.int64)
    if shape == "diamond":
        return radius - np.abs(rows)
    return np.array([math.floor(math.sqrt((radius + 0.5) ** 2 - y * y)) for y in rows], np.int64)


def dilate(map: np.ndarray, shape: str, radius: int, bands: Callable[..., None]) -> np.ndarray:
    """The highest value within an element of a whole radius in samples around each: (H, W).

    Parameters
    ----------
    map : (H, W) float32
    shape : str
        Of the element, one of SHAPES.
    radius : int
        In samples, from 0.
    bands : callable
        Runs band functions to the end.

    Returns
    -------
    (H, W) float32
    """
    height, width = map.shape
    radius = min(radius, (min(height, width) - 1) // 2)
    if radius <= 0:
        return map
    halves = np.minimum(half_widths(shape, radius), (width - 1) // 2)
    levels = int(halves.max() * 2 + 1).bit_length()
    padded = np.concatenate([map[:, -radius:], map, map[:, :radius]], axis=1) if radius else map
    out = empty_like(map)
    if shape == "square":
        across = empty_like(map)
        bands(lambda y0, y1: run_rows(padded, radius, levels, across, y0, y1))
        turned = np.ascontiguousarray(across.T)
        padded_t = np.concatenate([turned[:, -radius:], turned, turned[:, :radius]], axis=1)
        down = empty_like(turned)
        bands(lambda y0, y1: run_rows(padded_t, radius, levels, down, y0, y1), rows=width)
        return np.ascontiguousarray(down.T)
    bands(lambda y0, y1: dilate_rows(padded, halves, radius, levels, out, y0, y1))
    return out


@kernel
def _doubled(row, reach, levels, runs):  # type: ignore[no-untyped-def]
    """runs[k]: the highest of 2^k samples from each on; entries beyond the row's end are not used."""
    n = row.shape[0]
    for x in range(n):
        runs[0, x] = row[x]
    for k in range(1, levels):
        step = 1 << (k - 1)
        below, here = runs[k - 1], runs[k]
        for x in range(n - 2 * step + 1):
            a, b = below[x], below[x + step]
            here[x] = a if a > b else b


@kernel
def _raise(line, first, second):  # type: ignore[no-untyped-def]
    for x in range(line.shape[0]):
        t = first[x] if first[x] > second[x] else second[x]
        line[x] = t if t > line[x] else line[x]


@kernel
def run_rows(padded, radius, levels, out, y0, y1):  # type: ignore[no-untyped-def]
    """The highest of 2 radius + 1 samples along each row; padded: (H, W + 2 radius).

    Parameters
    ----------
    padded : (H, W + 2 radius) float32
        With the wrapped border at both sides.
    levels : int
        How many powers of two runs are made of.
    out : (H, W) float32
        Rows y0 to y1 are filled.
    """
    width = out.shape[1]
    runs = np.empty((levels, padded.shape[1]), np.float32)
    k = 0
    while (2 << k) <= 2 * radius + 1:
        k += 1
    for y in range(y0, y1):
        _doubled(padded[y], radius, levels, runs)
        line = out[y]
        line[:] = np.float32(-3e38)
        last = 2 * radius + 1 - (1 << k)
        _raise(line, runs[k, :width], runs[k, last : last + width])


@kernel
def dilate_rows(padded, halves, radius, levels, out, y0, y1):  # type: ignore[no-untyped-def]
    """Dilation by an element whose rows have the half lengths `halves`.

    Parameters
    ----------
    padded : (H, W + 2 radius) float32
        With the wrapped border at both sides.
    halves : (2 radius + 1,) int64
        Half the length of each of the element's rows.
    out : (H, W) float32
        Rows y0 to y1 are filled.
    """
    height, width = out.shape
    rows = y1 - y0 + 2 * radius
    runs = np.empty((rows, levels, padded.shape[1]), np.float32)
    for r in range(rows):
        _doubled(padded[(y0 - radius + r) % height], radius, levels, runs[r])
    for y in range(y0, y1):
        line = out[y]
        line[:] = np.float32(-3e38)
        for d in range(2 * radius + 1):
            half = halves[d]
            length = 2 * half + 1
            k = 0
            while (2 << k) <= length:
                k += 1
            first = radius - half
            second = first + length - (1 << k)
            row = runs[y - y0 + d, k]
            _raise(line, row[first : first + width], row[second : second + width])
