"""Places: the tile's own grid, how far a place is from its neighbours, and reading maps there."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import inlined, kernel


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
        up = y - 1 if y > 0 else height - 1
        down = y + 1 if y < height - 1 else 0
        for x in range(width):
            left = x - 1 if x > 0 else width - 1
            right = x + 1 if x < width - 1 else 0
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
        up = y - 1 if y > 0 else height - 1
        down = y + 1 if y < height - 1 else 0
        for x in range(width):
            left = x - 1 if x > 0 else width - 1
            right = x + 1 if x < width - 1 else 0
            for c in range(2):
                here = place[y, x, c]
                across = quarter * _step(place[y, left, c], here, place[y, right, c])
                along = quarter * _step(place[up, x, c], here, place[down, x, c])
                row = 2 * (y - y0)
                out[row, 2 * x, c] = here - across - along
                out[row, 2 * x + 1, c] = here + across - along
                out[row + 1, 2 * x, c] = here - across + along
                out[row + 1, 2 * x + 1, c] = here + across + along


@kernel
def sample_linear_rows(source, place, out, y0, y1):  # type: ignore[no-untyped-def]
    """Read a map at given places, mixing the four nearest samples; the border wraps.

    source: (h, w, channels); place: (H, W, 2) tile units; out: (H, W, channels).
    """
    height, width, channels = source.shape
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            u = place[y, x, 0] * np.float32(width) - np.float32(0.5)
            v = place[y, x, 1] * np.float32(height) - np.float32(0.5)
            cu = math.floor(u)
            cv = math.floor(v)
            fu = np.float32(u - cu)
            fv = np.float32(v - cv)
            i = wrap(int(cu), width)
            j = wrap(int(cv), height)
            i1 = i + 1 if i < width - 1 else 0
            j1 = j + 1 if j < height - 1 else 0
            for c in range(channels):
                a = source[j, i, c]
                b = source[j1, i, c]
                top = a + fu * (source[j, i1, c] - a)
                bottom = b + fu * (source[j1, i1, c] - b)
                out[y, x, c] = top + fv * (bottom - top)


@kernel
def sample_grey_rows(source, place, out, y0, y1):  # type: ignore[no-untyped-def]
    """`sample_linear_rows` for one channel: source (h, w), out (H, W)."""
    height, width = source.shape
    flat = source.reshape(-1)
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            u = place[y, x, 0] * np.float32(width) - np.float32(0.5)
            v = place[y, x, 1] * np.float32(height) - np.float32(0.5)
            cu = math.floor(u)
            cv = math.floor(v)
            fu = np.float32(u - cu)
            fv = np.float32(v - cv)
            i = wrap(int(cu), width)
            j = wrap(int(cv), height)
            i1 = i + 1 if i < width - 1 else 0
            j1 = j + 1 if j < height - 1 else 0
            a = flat[j * width + i]
            b = flat[j1 * width + i]
            top = a + fu * (flat[j * width + i1] - a)
            bottom = b + fu * (flat[j1 * width + i1] - b)
            out[y, x] = top + fv * (bottom - top)


@inlined
def wrap(i, count):  # type: ignore[no-untyped-def]
    """Fold an index into 0..count-1; nearly always it already is there, so division is the last resort."""
    if i < 0:
        i += count
        if i < 0:
            i %= count
    elif i >= count:
        i -= count
        if i >= count:
            i %= count
    return i


@inlined
def _cubic(a, b, c, d, t):  # type: ignore[no-untyped-def]
    """Catmull-Rom spline from b to c."""
    return b + np.float32(0.5) * t * (
        c
        - a
        + t
        * (
            np.float32(2.0) * a
            - np.float32(5.0) * b
            + np.float32(4.0) * c
            - d
            + t * (np.float32(3.0) * (b - c) + d - a)
        )
    )


@kernel
def sample_cubic_rows(source, place, out, y0, y1):  # type: ignore[no-untyped-def]
    """Read a map at given places through Catmull-Rom splines over 4×4 samples; the border wraps."""
    height, width, channels = source.shape
    columns = np.empty(4, np.int64)
    rows = np.empty(4, np.int64)
    line = np.empty(4, np.float32)
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            u = place[y, x, 0] * np.float32(width) - np.float32(0.5)
            v = place[y, x, 1] * np.float32(height) - np.float32(0.5)
            cu = math.floor(u)
            cv = math.floor(v)
            fu = np.float32(u - cu)
            fv = np.float32(v - cv)
            for k in range(4):
                columns[k] = wrap(int(cu) + k - 1, width)
                rows[k] = wrap(int(cv) + k - 1, height)
            for c in range(channels):
                for k in range(4):
                    j = rows[k]
                    line[k] = _cubic(
                        source[j, columns[0], c],
                        source[j, columns[1], c],
                        source[j, columns[2], c],
                        source[j, columns[3], c],
                        fu,
                    )
                out[y, x, c] = _cubic(line[0], line[1], line[2], line[3], fv)


@kernel
def slope_rows(source, dx, dy, out, y0, y1):  # type: ignore[no-untyped-def]
    """The slope of a map by central differences with the border wrapped.

    `dx`, `dy` are the distances between samples; out (H, W, 2) is the rise per that unit.
    """
    height, width = source.shape
    kx = np.float32(0.5 / dx)
    ky = np.float32(0.5 / dy)
    for y in range(y0, y1):
        up = source[y - 1 if y > 0 else height - 1]
        down = source[y + 1 if y < height - 1 else 0]
        row = source[y]
        for x in range(width):
            left = x - 1 if x > 0 else width - 1
            right = x + 1 if x < width - 1 else 0
            out[y, x, 0] = (row[right] - row[left]) * kx
            out[y, x, 1] = (down[x] - up[x]) * ky
