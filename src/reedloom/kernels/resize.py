"""Brings pictures of any size to the tile's: averaged where they shrink, mixed where they grow; wrapped."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

import numpy as np

from reedloom.kernels.jit import inlined, kernel, read_only
from reedloom.kernels.maps import empty_map


def resize_axis(map: np.ndarray, count: int, repeats: float, axis: int) -> np.ndarray:
    """A map repeated along one axis and brought to `count` samples, wrapped at its ends.

    Where a new sample covers one old sample or more it is their average, each by its share; where it
    covers less, it is mixed from the two old samples nearest to it.

    Parameters
    ----------
    map : (h, w, ...) float32
    count : int
        Samples along the axis, after repeating.
    repeats : float
        How many times it is laid side by side, above 0.

    Returns
    -------
    the map with `count` samples along the axis
    """
    before, n, after = math.prod(map.shape[:axis]), map.shape[axis], math.prod(map.shape[axis + 1 :])
    source = np.ascontiguousarray(map, np.float32).reshape(before, n, after)
    out = empty_map((*map.shape[:axis], count, *map.shape[axis + 1 :]))
    resize_lines(source, n * repeats / count, np.empty((n + 1, after)), out.reshape(before, count, after))
    return out


@kernel
def resize_lines(source, covered, summed, out):  # type: ignore[no-untyped-def]
    """Bring the middle axis of (a, n, b) to that of `out`, (a, count, b).

    Parameters
    ----------
    covered : float
        How many old samples a new one covers.
    summed : (n + 1, b) float64
        Room for sums from a line's beginning.
    """
    n = source.shape[1]
    before = np.empty(source.shape[2])
    for line in range(source.shape[0]):
        old, new = source[line], out[line]
        if covered < 1:
            for i in range(new.shape[0]):
                at = (i + 0.5) * covered - 0.5
                first = int(np.floor(at))
                part = np.float32(at - first)
                left, right = old[first % n], old[(first + 1) % n]
                for k in range(left.shape[0]):
                    new[i, k] = left[k] + part * (right[k] - left[k])
            continue
        summed[0] = 0
        for i in range(n):
            for k in range(old.shape[1]):
                summed[i + 1, k] = summed[i, k] + old[i, k]
        before[:] = 0
        for i in range(new.shape[0]):
            end = (i + 1) * covered
            turns = np.floor(end / n)
            whole = min(int(end - turns * n), n - 1)
            part_of_one = end - turns * n - whole
            for k in range(old.shape[1]):
                sum_here = summed[whole, k] + part_of_one * (summed[whole + 1, k] - summed[whole, k])
                sum_here += turns * summed[n, k]
                new[i, k] = (sum_here - before[k]) / covered
                before[k] = sum_here


@kernel
def shrink_rows(source, out, y0, y1):  # type: ignore[no-untyped-def]
    """Average a map down: each new sample is the mean of what it covers of the old ones; rows y0 to y1 of it.

    Parameters
    ----------
    source : (h, w, channels) float32
    out : (H, W, channels) float32
        As many samples each way, or fewer.
    """
    h, w, channels = source.shape
    down, across = h / out.shape[0], w / out.shape[1]
    lines, line = source.reshape(h, w * channels), np.empty(w * channels, np.float32)
    firsts, shares = _covered(across, w, out.shape[1])
    for y in range(y0, y1):
        start, end = y * down, (y + 1) * down
        line[:] = 0
        for i in range(int(start), min(int(np.ceil(end)), h)):
            share, old = np.float32((min(i + 1, end) - max(i, start)) / down), lines[i]
            for k in range(line.shape[0]):
                line[k] += share * old[k]
        new = out[y]
        for x in range(out.shape[1]):
            for c in range(channels):
                total = np.float32(0)
                for n in range(shares.shape[1]):
                    total += shares[x, n] * line[(firsts[x] + n) * channels + c]
                new[x, c] = total


@inlined
def _covered(step, old, new):  # type: ignore[no-untyped-def]
    """The first of the old samples that each new one covers, as many for each; and each one's share."""
    most = min(int(np.ceil(step)) + 1, old)
    firsts, shares = np.empty(new, np.int64), np.zeros((new, most), np.float32)
    for x in range(new):
        start, end = x * step, (x + 1) * step
        firsts[x] = min(int(start), old - most)
        for n in range(most):
            i = firsts[x] + n
            shares[x, n] = max(0.0, min(i + 1, end) - max(i, start)) / step
    return firsts, shares


@kernel
def halve_rows(source, out, y0, y1):  # type: ignore[no-untyped-def]
    """Average a map along the axes that `out` has half as many samples of, or as many: rows y0 to y1 of it.

    Parameters
    ----------
    source : (h, w, channels) float32
    out : (h or h / 2, w or w / 2, channels) float32
    """
    down, across = source.shape[0] // out.shape[0], source.shape[1] // out.shape[1]
    below, right = down - 1, across - 1
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            for c in range(out.shape[2]):
                i, j = down * y, across * x
                upper = source[i, j, c] + source[i, j + right, c]
                lower = source[i + below, j, c] + source[i + below, j + right, c]
                out[y, x, c] = (upper + lower) * np.float32(0.25)


def at_once(band: Callable[[int, int], None], rows: int, band_rows: int) -> None:
    """Runs a band function over all rows in one piece, for what is small or runs in a band itself."""
    band(0, rows)


HALVED_ROWS = 64


def halved(map: np.ndarray, bands: Callable[..., None] = at_once) -> np.ndarray:
    """A map (h, w, channels) of half as many samples each way, but for an axis of one."""
    out = empty_map((*half_of(map.shape[:2]), map.shape[2]))
    halve(map, out, bands)
    return out


def half_of(shape: tuple[int, ...]) -> tuple[int, int]:
    """Half of a map's rows and columns, at least one of each."""
    return max(1, shape[0] // 2), max(1, shape[1] // 2)


def halve(map: np.ndarray, out: np.ndarray, bands: Callable[..., None] = at_once) -> None:
    """`halved`, into memory that is there."""
    h, w = map.shape[:2]
    if (h > 1 and h % 2) or (w > 1 and w % 2):
        out[...] = resize_map(map, out.shape[1], out.shape[0], bands=bands)
    else:
        bands(partial(halve_rows, map, out), rows=len(out), band_rows=HALVED_ROWS)


STRETCH = 2**17
"""Samples that are brought to another size in a band."""


def resize_map(
    map: np.ndarray,
    width: int,
    height: int,
    repeats_u: float = 1,
    repeats_v: float = 1,
    bands: Callable[..., None] = at_once,
) -> np.ndarray:
    """A map (h, w, ...) repeated and brought to (height, width, ...).

    Parameters
    ----------
    map : (h, w, ...) float32
    width, height : int
        Samples, after repeating.
    repeats_u, repeats_v : float
        How many times it is laid side by side, above 0.
    bands : callable
        Runs band functions to the end.

    Returns
    -------
    (height, width, ...) float32
    """
    rows, columns = map.shape[:2]
    more = map.shape[2:]
    if repeats_u == repeats_v == 1 and width <= columns and height <= rows:
        source = read_only(np.ascontiguousarray(map, np.float32).reshape(rows, columns, -1))
        small = empty_map((height, width, source.shape[2]))
        shrink = partial(shrink_rows, source, small)
        bands(shrink, rows=height, band_rows=max(1, STRETCH * height // (rows * columns)))
        return small.reshape(height, width, *more)
    wide = empty_map((rows, width, *more))
    out = empty_map((height, width, *more))

    def across(y0: int, y1: int) -> None:
        wide[y0:y1] = resize_axis(map[y0:y1], width, repeats_u, 1)

    def down(x0: int, x1: int) -> None:
        out[:, x0:x1] = resize_axis(wide[:, x0:x1], height, repeats_v, 0)

    bands(across, rows=rows, band_rows=max(1, STRETCH // max(columns, width)))
    bands(down, rows=width, band_rows=max(1, STRETCH // max(rows, height)))
    return out
