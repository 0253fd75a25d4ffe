"""Places: the tile's own grid, how far a place is from its neighbours, and reading maps there."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.lanes import LANES, read_lanes


@inlined
def beside(i, count):  # type: ignore[no-untyped-def]
    """The samples before and after one along an axis, around the border."""
    return i - 1 if i > 0 else count - 1, i + 1 if i < count - 1 else 0


def tile_places(width: int, height: int, rows: range | None = None) -> np.ndarray:
    """The place of each sample's centre in tile units: (height, width, 2) float32, or just some rows."""
    rows = rows or range(height)
    out = np.empty((len(rows), width, 2), np.float32)
    out[..., 0] = (np.arange(width, dtype=np.float64) + 0.5) / width
    out[..., 1] = ((np.asarray(rows, np.float64) + 0.5) / height)[:, None]
    return out


def measure_footprint(place: np.ndarray, bands: Callable[..., None]) -> np.ndarray:
    """How much of the tile each sample of a place covers: (H, W) float32, tile units."""
    footprint = np.empty(place.shape[:2], np.float32)
    bands(lambda y0, y1: footprint_rows(place, footprint, y0, y1))
    return footprint


@inlined
def _near(d):  # type: ignore[no-untyped-def]
    return abs(d - np.float32(math.floor(d + np.float32(0.5))))


@kernel
def footprint_rows(place, out, y0, y1):  # type: ignore[no-untyped-def]
    """How much of the tile one sample covers, from the distance to its neighbours' places.

    The nearer of the two neighbours counts in each direction, so that a fold or a seam in the place
    does not read as a huge sample. place: (H, W, 2); out: (H, W), tile units.
    """
    height, width = out.shape
    for y in range(y0, y1):
        up, down = beside(y, height)
        for x in range(width):
            left, right = beside(x, width)
            u = place[y, x, 0]
            v = place[y, x, 1]
            across = min(
                max(_near(place[y, left, 0] - u), _near(place[y, left, 1] - v)),
                max(_near(place[y, right, 0] - u), _near(place[y, right, 1] - v)),
            )
            along = min(
                max(_near(place[up, x, 0] - u), _near(place[up, x, 1] - v)),
                max(_near(place[down, x, 0] - u), _near(place[down, x, 1] - v)),
            )
            out[y, x] = max(across, along)


def split_places(place: np.ndarray, y0: int, y1: int) -> np.ndarray:
    """The places of the four quarters of each sample in rows y0..y1: (2n, 2W, 2) float32."""
    out = np.empty((2 * (y1 - y0), 2 * place.shape[1], 2), np.float32)
    split_place_rows(place, out, y0, y1)
    return out


@inlined
def _step(before, here, after):  # type: ignore[no-untyped-def]
    """The change from one sample to the next, from the nearer of both neighbours, the short way."""
    back = here - before
    back -= np.float32(math.floor(back + np.float32(0.5)))
    on = after - here
    on -= np.float32(math.floor(on + np.float32(0.5)))
    return back if abs(back) < abs(on) else on


@kernel
def split_place_rows(place, out, y0, y1):  # type: ignore[no-untyped-def]
    """Fill rows of quarter places; see `split_places`."""
    height, width = place.shape[0], place.shape[1]
    quarter = np.float32(0.25)
    for y in range(y0, y1):
        up, down = beside(y, height)
        for x in range(width):
            left, right = beside(x, width)
            for c in range(2):
                here = place[y, x, c]
                across = quarter * _step(place[y, left, c], here, place[y, right, c])
                along = quarter * _step(place[up, x, c], here, place[down, x, c])
                row = 2 * (y - y0)
                out[row, 2 * x, c] = here - across - along
                out[row, 2 * x + 1, c] = here + across - along
                out[row + 1, 2 * x, c] = here - across + along
                out[row + 1, 2 * x + 1, c] = here + across + along


def read_at(bands: Callable[..., None], map: np.ndarray, place: np.ndarray, how: str) -> np.ndarray:
    """A map read at given places: "nearest", "linear" or "cubic"; the border wraps.

    map : (h, w) or (h, w, channels); place : (H, W, 2) tile units.
    """
    out = np.empty((*place.shape[:2], *map.shape[2:]), np.float32)
    if how == "nearest":
        bands(lambda y0, y1: _read_nearest(map, place, out, y0, y1))
    elif how == "linear" and map.ndim == 2:
        bands(lambda y0, y1: sample_grey_rows(map, place, out, y0, y1), band_rows=128)
    else:
        source, target = (map, out) if map.ndim == 3 else (map[..., None], out[..., None])
        rows = sample_linear_rows if how == "linear" else sample_cubic_rows
        bands(lambda y0, y1: rows(source, place, target, y0, y1))
    return out


def _read_nearest(map: np.ndarray, place: np.ndarray, out: np.ndarray, y0: int, y1: int) -> None:
    height, width = map.shape[:2]
    column = np.floor(place[y0:y1, :, 0] * np.float32(width)).astype(np.int64) % width
    row = np.floor(place[y0:y1, :, 1] * np.float32(height)).astype(np.int64) % height
    out[y0:y1] = map[row, column]


@kernel
def sample_linear_rows(source, place, out, y0, y1):  # type: ignore[no-untyped-def]
    """Read a map at given places, mixing the four nearest samples; the border wraps.

    source: (h, w, channels); place: (H, W, 2) tile units; out: (H, W, channels).
    """
    height, width, channels = source.shape
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            i, fu = _to_sample(place[y, x, 0], width)
            j, fv = _to_sample(place[y, x, 1], height)
            i1 = i + 1 if i < width - 1 else 0
            j1 = j + 1 if j < height - 1 else 0
            for c in range(channels):
                a = source[j, i, c]
                b = source[j1, i, c]
                top = a + fu * (source[j, i1, c] - a)
                bottom = b + fu * (source[j1, i1, c] - b)
                out[y, x, c] = top + fv * (bottom - top)


@inlined
def _to_sample(place, count):  # type: ignore[no-untyped-def]
    """The sample before a place along one axis, and how far beyond it the place is.

    Written without branches or library calls: the loops over it then run through fastest.
    """
    whole = np.int32(place)
    whole = whole - np.int32(1) if place < np.float32(whole) else whole
    at = (place - np.float32(whole)) * np.float32(count) - np.float32(0.5)
    cell = np.int32(at + np.float32(1.0)) - np.int32(1)
    part = at - np.float32(cell)
    cell = cell + np.int32(count) if cell < 0 else cell
    return max(min(cell, np.int32(count - 1)), np.int32(0)), part  # both ends for places that are no numbers


@kernel
def sample_grey_rows(source, place, out, y0, y1):  # type: ignore[no-untyped-def]
    """`sample_linear_rows` for one channel: source (h, w), out (H, W).

    Samples are read many at once, but for those that lie across the source's seam, which are read anew.
    """
    height, width = source.shape
    n = out.shape[1]
    flat = source.reshape(-1)
    w, h = np.int32(width), np.int32(height)
    aligned = -(place.ctypes.data // 8) % 8  # from here on no load of places spans two lines of the cache
    for y in range(y0, y1):
        pairs = place[y].reshape(-1)
        line = out[y]
        if width < 2 or height < 2 or n < LANES:
            for x in range(n):
                line[x] = _read_linear(source, pairs[2 * x], pairs[2 * x + 1])
            continue
        x, after = 0, aligned or LANES
        while x < n:
            x = min(x, n - LANES)
            across_seam = read_lanes(flat, pairs, line, x, w, h, y == y0)
            lane = x
            while across_seam != 0:
                if across_seam & 1:
                    line[lane] = _read_linear(source, pairs[2 * lane], pairs[2 * lane + 1])
                across_seam >>= 1
                lane += 1
            x, after = after, after + LANES


@inlined
def _read_linear(source, u, v):  # type: ignore[no-untyped-def]
    """A map between its four samples about a place; the border wraps."""
    height, width = source.shape
    i, fu = _to_sample(u, width)
    j, fv = _to_sample(v, height)
    i1 = i + 1 if i < width - 1 else 0
    j1 = j + 1 if j < height - 1 else 0
    top = source[j, i] + fu * (source[j, i1] - source[j, i])
    bottom = source[j1, i] + fu * (source[j1, i1] - source[j1, i])
    return top + fv * (bottom - top)


@inlined
def _spline_weights(t):  # type: ignore[no-untyped-def]
    """The shares of four samples in a Catmull-Rom spline between the middle two."""
    h = np.float32(0.5)
    a = h * t * (t * (np.float32(2.0) - t) - np.float32(1.0))
    b = h * (t * t * (np.float32(3.0) * t - np.float32(5.0)) + np.float32(2.0))
    c = h * t * (t * (np.float32(4.0) - np.float32(3.0) * t) + np.float32(1.0))
    return a, b, c, h * t * t * (t - np.float32(1.0))


@kernel
def sample_cubic_rows(source, place, out, y0, y1):  # type: ignore[no-untyped-def]
    """Read a map at given places through Catmull-Rom splines over 4×4 samples; the border wraps."""
    height, width, channels = source.shape
    flat = source.reshape(-1)
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            i1, fu = _to_sample(place[y, x, 0], width)
            j1, fv = _to_sample(place[y, x, 1], height)
            i0, i2, i3 = _neighbours(i1, width)
            j0, j2, j3 = _neighbours(j1, height)
            ua, ub, uc, ud = _spline_weights(fu)
            va, vb, vc, vd = _spline_weights(fv)
            for c in range(channels):
                total = np.float32(0.0)
                for j, share in ((j0, va), (j1, vb), (j2, vc), (j3, vd)):
                    row = j * width
                    total += share * (
                        ua * flat[np.uint32((row + i0) * channels + c)]
                        + ub * flat[np.uint32((row + i1) * channels + c)]
                        + uc * flat[np.uint32((row + i2) * channels + c)]
                        + ud * flat[np.uint32((row + i3) * channels + c)]
                    )
                out[y, x, c] = total


@inlined
def _neighbours(i, count):  # type: ignore[no-untyped-def]
    """The samples one before, one after and two after, around the border."""
    before, after = beside(i, count)
    return before, after, after + 1 if after < count - 1 else 0


@kernel
def slope_rows(source, dx, dy, out, y0, y1):  # type: ignore[no-untyped-def]
    """The slope of a map by central differences with the border wrapped.

    `dx`, `dy` are the distances between samples; out (H, W, 2) is the rise per that unit.
    """
    height, width = source.shape
    kx = np.float32(0.5 / dx)
    ky = np.float32(0.5 / dy)
    for y in range(y0, y1):
        before, after = beside(y, height)
        up, down = source[before], source[after]
        row = source[y]
        for x in range(width):
            left, right = beside(x, width)
            out[y, x, 0] = (row[right] - row[left]) * kx
            out[y, x, 1] = (down[x] - up[x]) * ky
