"""A map read at given places: between four samples, or through splines over sixteen, around the tile."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import called, inlined, kernel
from reedloom.kernels.lanes import SAMPLES_AHEAD, read_linear, read_spline
from reedloom.kernels.maps import empty_map
from reedloom.kernels.places import beside, short_way
from reedloom.kernels.vectors import LANES

RowsOfPlaces = Callable[[int, int], np.ndarray]
"""Makes the places of rows y0 to y1 - 1: (y1 - y0, W, 2) tile units."""
WIDE = 128
"""Samples of a row that are read before those of the next one where rows go down the source: what is read for
them is then still in the processor's cache for the row beside."""


def read_at(
    bands: Callable[..., None],
    map: np.ndarray,
    place: np.ndarray | RowsOfPlaces,
    how: str,
    size: tuple[int, int] | None = None,
    out: np.ndarray | None = None,
    then: Callable[[int, int], None] | None = None,
) -> np.ndarray:
    """A map read at given places; the border wraps.

    Parameters
    ----------
    bands : callable
        Runs band functions to the end.
    map : (h, w) or (h, w, channels) float32
    place : (H, W, 2) float32, or callable
        In tiles; or what makes rows of it, so that they are read while the processor's cache still
        holds them.
    how : str
        "nearest", "linear" or "cubic".
    size : (W, H), optional
        Of what is made, where `place` is a function; the map's own by default.
    out : (H, W, channels) float32, optional
        Filled and given back, where new memory for each of many steps would cost more than the reading.
    then : callable, optional
        What more is done with rows y0 to y1 once they are read, while the processor's cache still holds them.

    Returns
    -------
    (H, W) or (H, W, channels) float32
    """
    source = map if map.ndim == 3 else map[..., None]
    shape = map.shape[:2] if size is None else size[::-1]
    band_rows = max(8, 2**16 // shape[1])
    if isinstance(place, np.ndarray):
        shape, band_rows = place.shape[:2], 128
    out = empty_map((*shape, source.shape[2])) if out is None else out

    def band(y0: int, y1: int) -> None:
        rows = place[y0:y1] if isinstance(place, np.ndarray) else place(y0, y1)
        if how == "nearest":
            _read_nearest(source, rows, out[y0:y1])
        else:
            sample_rows(source, rows, out[y0:y1], how == "cubic", 0, y1 - y0)
        if then is not None:
            then(y0, y1)

    bands(band, rows=shape[0], band_rows=band_rows)
    return out if map.ndim == 3 else out[..., 0]


def _read_nearest(map: np.ndarray, place: np.ndarray, out: np.ndarray) -> None:
    height, width = map.shape[:2]
    column = np.floor(place[..., 0] * np.float32(width)).astype(np.int64) % width
    row = np.floor(place[..., 1] * np.float32(height)).astype(np.int64) % height
    out[...] = map[row, column]


@kernel
def sample_rows(source, place, out, spline, y0, y1):  # type: ignore[no-untyped-def]
    """Read a map at given places: between four samples, or through splines over sixteen; the border wraps.

    Splines are held within the four samples about a place, so that no edge rings and nothing grows however
    often a map is read anew.

    Grey and colour maps are read many samples at once, but for those that lie across the source's seam.

    Parameters
    ----------
    source : (h, w, channels) float32
    place : (H, W, 2) float32
        In tiles.
    out : (H, W, channels) float32
        Rows y0 to y1 are filled.
    spline : bool
    """
    n = out.shape[1]
    pairs, line = place[y0:y1].reshape(-1), out[y0:y1].reshape(-1)
    aligned = -(place.ctypes.data // 8) % 8  # from here on no load of places spans two lines of the cache
    wide, ahead = n, SAMPLES_AHEAD
    if n >= 2 * WIDE and _is_steep(pairs, n, source):
        wide, ahead = WIDE, n
    left = 0
    while left < n:
        right = left + wide if left + 2 * wide <= n else n
        for row in range(y1 - y0):
            read_row(source, pairs, line, row * n + left, row * n + right, spline, row == 0, aligned, ahead)
        left = right


@inlined
def _is_steep(pairs, n, source):  # type: ignore[no-untyped-def]
    """Whether the first row of so many places goes down the source more than twice as far as across it."""
    across, down = np.float32(0.0), np.float32(0.0)
    for x in range(n - 1):
        across += abs(short_way(pairs[2 * x + 2] - pairs[2 * x]))
        down += abs(short_way(pairs[2 * x + 3] - pairs[2 * x + 1]))
    return down * source.shape[0] > 2 * across * source.shape[1]


@called
def read_row(source, pairs, line, x, end, spline, opening, aligned, ahead):  # type: ignore[no-untyped-def]
    """`sample_rows` for samples x to end - 1 of one row.

    Parameters
    ----------
    source : (h, w, channels) float32
    pairs : (2 n,) float32
        Places in tiles, u and v of each.
    line : (n × channels,) float32
        Filled.
    x, end : int
    spline : bool
    opening : bool
        Whether no row was read just before.
    aligned : int
        How many samples from 0 to 15 are read before the first sixteen.
    """
    height, width, channels = source.shape
    if not (width > 3 and height > 3 and end - x >= LANES and channels in (1, 3)):
        while x < end:
            _read_one(source, pairs, spline, line, x)
            x += 1
        return
    w, h, c = np.int32(width), np.int32(height), np.int32(channels)
    flat = source.reshape(-1)
    after = x + (aligned or LANES)
    while x < end:
        x = min(x, end - LANES)
        if spline:
            across_seam = read_spline(flat, pairs, line, x, w, h, c, opening, ahead)
        else:
            across_seam = read_linear(flat, pairs, line, x, w, h, c, opening, ahead)
        lane = x
        while across_seam != 0:
            if across_seam & 1:
                _read_one(source, pairs, spline, line, lane)
            across_seam >>= 1
            lane += 1
        x, after = after, after + LANES


@inlined
def _read_one(source, pairs, spline, line, x):  # type: ignore[no-untyped-def]
    """Read all channels of a map at one of some places."""
    height, width, channels = source.shape
    i, fu = _to_sample(pairs[2 * x], width)
    j, fv = _to_sample(pairs[2 * x + 1], height)
    out = line[x * channels : (x + 1) * channels]
    i0, i2, i3 = _neighbours(i, width)
    j0, j2, j3 = _neighbours(j, height)
    if spline:
        across, along = _spline_weights(fu), _spline_weights(fv)
        for c in range(channels):
            total = np.float32(0.0)
            for column, share in zip((i0, i, i2, i3), across):  # noqa: B905 - Numba knows no strict
                down = along[0] * source[j0, column, c] + along[1] * source[j, column, c]
                total += share * (down + along[2] * source[j2, column, c] + along[3] * source[j3, column, c])
            p, q, r, s = source[j, i, c], source[j2, i, c], source[j, i2, c], source[j2, i2, c]
            out[c] = min(max(total, min(p, q, r, s)), max(p, q, r, s))
        return
    for c in range(channels):
        a, b = source[j, i, c], source[j2, i, c]
        top = a + fu * (source[j, i2, c] - a)
        bottom = b + fu * (source[j2, i2, c] - b)
        out[c] = top + fv * (bottom - top)


@inlined
def _to_sample(place, count):  # type: ignore[no-untyped-def]
    """The sample before a place along one axis, and how far beyond it the place is."""
    at = (place - np.floor(place)) * np.float32(count) - np.float32(0.5)
    cell = np.floor(at)
    i = np.int32(cell)
    i = i + np.int32(count) if i < 0 else i
    i = max(min(i, np.int32(count - 1)), np.int32(0))  # both ends, for places that are no numbers
    return i, at - cell


@inlined
def _spline_weights(t):  # type: ignore[no-untyped-def]
    """The shares of four samples in a Catmull-Rom spline between the middle two."""
    h = np.float32(0.5)
    a = h * t * (t * (np.float32(2.0) - t) - np.float32(1.0))
    b = h * (t * t * (np.float32(3.0) * t - np.float32(5.0)) + np.float32(2.0))
    c = h * t * (t * (np.float32(4.0) - np.float32(3.0) * t) + np.float32(1.0))
    return a, b, c, h * t * t * (t - np.float32(1.0))


@inlined
def _neighbours(i, count):  # type: ignore[no-untyped-def]
    """The samples one before, one after and two after, around the border."""
    before, after = beside(i, count)
    return before, after, after + 1 if after < count - 1 else 0
