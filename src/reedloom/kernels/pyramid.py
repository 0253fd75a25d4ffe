"""Reads maps at given places as the mean of all that a sample covers there, however much it shrinks.

A map is averaged once to half, a quarter and so on (L. Williams, *Pyramidal parametrics*, SIGGRAPH 1983); a
sample that covers many of the map's is read in several places within it, more along the way in which it is
longer, at the size that has about one sample for each.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import way
from reedloom.kernels.reach import measure_reach
from reedloom.kernels.reading import read_at
from reedloom.kernels.resize import at_once, halved

MOST = 16
"""Places that a sample is read in along its longer way, and across it."""
BAND = 64
TOGETHER = 4
"""Channels for which it is found once where a place lies between samples."""
LARGE = 2**21
"""Samples above which maps are read one by one."""


class Pyramid(NamedTuple):
    """A map at all its sizes.

    Attributes
    ----------
    values : (n × channels,) float32
        Size after size, row by row.
    starts, widths, heights : (sizes,) int64
        Where each begins, and its samples; the map itself first.
    """

    values: np.ndarray
    starts: np.ndarray
    widths: np.ndarray
    heights: np.ndarray

    @classmethod
    def of(cls, map: np.ndarray, bands: Callable[..., None] = at_once) -> Pyramid:
        """All sizes of a map (h, w, channels); `bands` runs band functions to the end."""
        sizes = [map]
        while sizes[-1].shape[0] * sizes[-1].shape[1] > 1:
            sizes.append(halved(sizes[-1], bands))
        counts = [s.shape[0] * s.shape[1] for s in sizes]
        return cls(
            np.concatenate([s.reshape(-1) for s in sizes]),
            np.cumsum([0, *counts[:-1]]),
            np.array([s.shape[1] for s in sizes]),
            np.array([s.shape[0] for s in sizes]),
        )


def read_as_one(maps: Mapping[str, np.ndarray]) -> list[list[str]]:
    """Names of maps (h, w) or (h, w, 3) in groups for `read_together`, of four channels each.

    Large maps stay by themselves: in groups they would take so much more memory at once.
    """
    if any(map.shape[0] * map.shape[1] > LARGE for map in maps.values()):
        return [[name] for name in maps]
    colours = [name for name, map in maps.items() if map.ndim == 3]
    greys = [name for name, map in maps.items() if map.ndim == 2]
    groups = []
    while colours or greys:
        group = [colours.pop(0)] if colours else []
        taken = 1 if group else TOGETHER
        groups.append(group + greys[:taken])
        del greys[:taken]
    return groups


def read_together(
    bands: Callable[..., None], maps: Sequence[np.ndarray], place: np.ndarray, how: str
) -> list[np.ndarray]:
    """What `read_covered` gives of each of some maps, read as one.

    Parameters
    ----------
    bands, place, how
        As there.
    maps : sequence of (h, w) or (h, w, channels) float32
    """
    if len(maps) == 1:
        return [read_covered(bands, maps[0], place, how)]
    apart = [map if map.ndim == 3 else map[..., None] for map in maps]
    ends = np.cumsum([map.shape[2] for map in apart])
    laid = np.empty((*apart[0].shape[:2], int(ends[-1])), np.float32)

    def lay(y0: int, y1: int) -> None:
        np.concatenate([map[y0:y1] for map in apart], axis=2, out=laid[y0:y1])

    bands(lay, rows=len(laid), band_rows=BAND)
    read = np.split(read_covered(bands, laid, place, how), ends[:-1], axis=2)
    return [
        np.ascontiguousarray(of_one if map.ndim == 3 else of_one[..., 0])
        for map, of_one in zip(maps, read, strict=True)
    ]


def read_covered(bands: Callable[..., None], map: np.ndarray, place: np.ndarray, how: str) -> np.ndarray:
    """A map read at given places: the mean of what each sample covers, where that is more than one sample.

    Parameters
    ----------
    bands : callable
        Runs band functions to the end.
    map : (h, w) or (h, w, channels) float32
    place : (H, W, 2) float32
        In tiles; the border wraps.
    how : str
        "linear" or "cubic", where a sample covers less.

    Returns
    -------
    (H, W) or (H, W, channels) float32
    """
    out = read_at(bands, map, place, how)
    _, most = measure_reach(place, bands).ends
    longest = float(most.max()) * max(map.shape[:2])
    if longest * math.sqrt(2) > 1:  # a way that slants is so much longer than it is across or down
        pyramid = Pyramid.of(map if map.ndim == 3 else map[..., None], bands)
        filled = out if out.ndim == 3 else out[..., None]
        bands(lambda y0, y1: cover_rows(tuple(pyramid), place, filled, y0, y1), band_rows=BAND)
    return out


@inlined
def _ways(place, y, x, width, height):  # type: ignore[no-untyped-def]
    """The ways from a sample's place to the next one's, across and down, in samples of the map."""
    across_u, along_u = way(place, y, x, 0)
    across_v, along_v = way(place, y, x, 1)
    return across_u * width, across_v * height, along_u * width, along_v * height


@kernel
def cover_rows(pyramid, place, out, y0, y1):  # type: ignore[no-untyped-def]
    """Put the mean of what it covers into each sample that covers more than one of the map's.

    Parameters
    ----------
    pyramid : Pyramid
    place : (H, W, 2) float32
        In tiles.
    out : (H, W, channels) float32
        Rows y0 to y1 are filled, where a sample covers more than one.
    """
    values, starts, widths, heights = pyramid
    width, height = np.float32(widths[0]), np.float32(heights[0])
    one, half = np.float32(1), np.float32(0.5)
    channels = out.shape[2]
    for y in range(y0, y1):
        for x in range(place.shape[1]):
            au, av, du, dv = _ways(place, y, x, width, height)
            across, along = math.sqrt(au * au + av * av), math.sqrt(du * du + dv * dv)
            longer, shorter = max(across, along), min(across, along)
            if longer <= one:
                continue
            part = max(one, shorter * half, longer / np.float32(MOST))
            size = min(int(math.log2(part)), starts.shape[0] - 1)
            part = np.float32(2.0**size)
            start = np.uint64(starts[size] * channels)
            wide, high = np.int32(widths[size]), np.int32(heights[size])
            nx, ny = max(1, math.ceil(across / part)), max(1, math.ceil(along / part))
            share_x, share_y = one / np.float32(nx), one / np.float32(ny)
            # From one of the places read to the next, and the first of them.
            step_x, step_y = _step(across, part, nx), _step(along, part, ny)
            au, av = au * (step_x / width), av * (step_x / height)
            du, dv = du * (step_y / width), dv * (step_y / height)
            first_x, first_y = half * np.float32(1 - nx), half * np.float32(1 - ny)
            u = place[y, x, 0] + first_x * au + first_y * du
            v = place[y, x, 1] + first_x * av + first_y * dv
            share = share_x * share_y
            about, steps, reads = (u, v), (au, av, du, dv), (nx, ny)
            map_at_size = values, channels, wide, high
            for c in range(0, channels, TOGETHER):
                sums = _summed(map_at_size, start + np.uint64(c), channels - c, about, steps, reads)
                for k in range(min(TOGETHER, channels - c)):
                    out[y, x, c + k] = sums[k] * share


@inlined
def _summed(map_at_size, first, left, about, steps, reads):  # type: ignore[no-untyped-def]
    """Sums of what is read within a sample: of four channels from `first` on, or of those `left`."""
    values, channels, wide, high = map_at_size
    (u, v), (au, av, du, dv), (nx, ny) = about, steps, reads
    a, b, c, d = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
    one, two, three = np.uint64(1), np.uint64(2), np.uint64(3)
    for j in range(ny):
        at_u, at_v = u + np.float32(j) * du, v + np.float32(j) * dv
        for _ in range(nx):
            corners, parts = _between(channels, wide, high, at_u, at_v)
            if left >= TOGETHER:
                a += _read(values, first, corners, parts)
                b += _read(values, first + one, corners, parts)
                c += _read(values, first + two, corners, parts)
                d += _read(values, first + three, corners, parts)
            else:
                a += _read(values, first, corners, parts)
                if left > 1:
                    b += _read(values, first + one, corners, parts)
                if left > 2:
                    c += _read(values, first + two, corners, parts)
            at_u += au
            at_v += av
    return a, b, c, d


@inlined
def _step(whole, part, count):  # type: ignore[no-untyped-def]
    """How far apart so many places are read, as a share of the way that is covered.

    Such that they and what each reads of itself, a `part`, spread as far as the whole: where a sample covers
    just one of the map's, all are one place, and nothing is blurred.
    """
    if count < 2:
        return np.float32(0)
    spread = max(whole * whole - part * part, np.float32(0)) / np.float32(count * count - 1)
    return np.float32(math.sqrt(spread)) / whole


@inlined
def _between(channels, width, height, u, v):  # type: ignore[no-untyped-def]
    """The four samples about a place in a map of some size, and how far it is from the first of them."""
    x = (u - np.floor(u)) * np.float32(width) - np.float32(0.5)
    y = (v - np.floor(v)) * np.float32(height) - np.float32(0.5)
    column, row = np.floor(x), np.floor(y)
    left, right = _pair(np.int32(column), width)
    upper, lower = _pair(np.int32(row), height)
    step, stride = np.uint64(channels), np.uint64(width) * np.uint64(channels)
    upper, lower, left, right = upper * stride, lower * stride, left * step, right * step
    return (upper + left, upper + right, lower + left, lower + right), (x - column, y - row)


@inlined
def _read(values, start, corners, parts):  # type: ignore[no-untyped-def]
    """One channel of a map, from a start on, read between four samples."""
    (a, b, c, d), (across, down) = corners, parts
    top = values[start + a] + across * (values[start + b] - values[start + a])
    bottom = values[start + c] + across * (values[start + d] - values[start + c])
    return top + down * (bottom - top)


@inlined
def _pair(i, count):  # type: ignore[no-untyped-def]
    """A sample from -1 to count - 1 along an axis and the one after it, around the border."""
    first = i + count if i < 0 else i
    first = max(min(first, count - np.int32(1)), np.int32(0))  # both ends, for places that are no numbers
    after = first + np.int32(1)
    return np.uint64(first), np.uint64(after if after < count else 0)
