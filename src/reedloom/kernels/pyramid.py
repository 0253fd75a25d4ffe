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

from reedloom.kernels.cover_lanes import LINES, ONE, SIZES, TOGETHER, mean_covered
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import lay_ways, part_places
from reedloom.kernels.reach import ends_of
from reedloom.kernels.reading import read_at
from reedloom.kernels.resize import at_once, halved
from reedloom.kernels.vectors import LANES

BAND = 64
LARGE = 2**21
"""Samples above which maps are read one by one."""


class Pyramid(NamedTuple):
    """A map at all its sizes.

    Attributes
    ----------
    values : (n × channels + TOGETHER,) float32
        Size after size, row by row; the last ones are read, and left out.
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
            np.concatenate([*(s.reshape(-1) for s in sizes), np.zeros(TOGETHER, np.float32)]),
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
    bands: Callable[..., None], maps: Sequence[np.ndarray], place: np.ndarray, how: str, most: np.ndarray
) -> list[np.ndarray]:
    """What `read_covered` gives of each of some maps, read as one where they shrink.

    Parameters
    ----------
    bands, place, how, most
        As there.
    maps : sequence of (h, w) or (h, w, channels) float32
    """
    if len(maps) == 1 or not _shrinks(most):
        return [read_covered(bands, map, place, how, most) for map in maps]
    apart = [map if map.ndim == 3 else map[..., None] for map in maps]
    ends = np.cumsum([map.shape[2] for map in apart])
    laid = np.empty((*apart[0].shape[:2], int(ends[-1])), np.float32)

    def lay(y0: int, y1: int) -> None:
        np.concatenate([map[y0:y1] for map in apart], axis=2, out=laid[y0:y1])

    bands(lay, rows=len(laid), band_rows=BAND)
    read = np.split(read_covered(bands, laid, place, how, most), ends[:-1], axis=2)
    return [
        np.ascontiguousarray(of_one if map.ndim == 3 else of_one[..., 0])
        for map, of_one in zip(maps, read, strict=True)
    ]


def read_covered(
    bands: Callable[..., None], map: np.ndarray, place: np.ndarray, how: str, most: np.ndarray | None = None
) -> np.ndarray:
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
    most : (H,) float32, optional
        From `most_covered`, if it is known.

    Returns
    -------
    (H, W) or (H, W, channels) float32
    """
    out = read_at(bands, map, place, how)
    most = most_covered(bands, map.shape[:2], place) if most is None else most
    if _shrinks(most):
        pyramid = Pyramid.of(map if map.ndim == 3 else map[..., None], bands)
        filled = out if out.ndim == 3 else out[..., None]
        bands(lambda y0, y1: cover_rows(tuple(pyramid), place, most, filled, y0, y1), band_rows=BAND)
    return out


def most_covered(bands: Callable[..., None], shape: tuple[int, int], place: np.ndarray) -> np.ndarray:
    """How many samples of a map, (h, w) of them, those of each row of places cover at most: (H,) float32."""
    most = np.empty(len(place), np.float32)
    height, width = shape
    bands(lambda y0, y1: most_rows(place, width, height, most, y0, y1), rows=len(place), band_rows=BAND)
    return most


def _shrinks(most: np.ndarray) -> bool:
    """Whether a map shrinks anywhere."""
    return not most.max() <= ONE  # told so that places that are no numbers hide no others


@inlined
def _lay_covered(place, y, width, height, ways, known):  # type: ignore[no-untyped-def]
    """How much of a map of so many samples those of a row cover.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    y : int
        The row.
    width, height : float32
    ways : (6 W,) float32
        Filled as `lay_ways` does.
    known : (LINES, W or more) float32
        Filled, as `cover_lanes.mean_covered` takes it.
    """
    n = place.shape[1]
    lay_ways(place, y, 0, ways)
    for k in range(3):
        part_places(ways[2 * n * k : 2 * n * (k + 1)], known[2 * k, :n], known[2 * k + 1, :n])
    for k in range(2):
        us, vs, squares = known[2 * k + 2], known[2 * k + 3], known[k + 6]
        for x in range(n):
            u, v = us[x] * width, vs[x] * height
            us[x], vs[x], squares[x] = u, v, u * u + v * v


@kernel
def most_rows(place, width, height, out, y0, y1):  # type: ignore[no-untyped-def]
    """How many samples of a map the longest of each row's cover, along the way in which they are longer.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    width, height : int
        The map's samples across and down.
    out : (H,) float32
        Filled for rows y0 to y1.
    """
    n, f = place.shape[1], np.float32
    ways, known = np.empty(6 * n, f), np.empty((LINES, n), f)
    across, along = known[6], known[7]
    for y in range(y0, y1):
        _lay_covered(place, y, f(width), f(height), ways, known)
        for x in range(n):
            across[x] = max(across[x], along[x])
        out[y] = math.sqrt(ends_of(across.view(np.int32))[1])


@kernel
def cover_rows(pyramid, place, most, out, y0, y1):  # type: ignore[no-untyped-def]
    """Put the mean of what it covers into each sample that covers more than one of the map's.

    Parameters
    ----------
    pyramid : Pyramid
    place : (H, W, 2) float32
        In tiles.
    most : (H,) float32
        From `most_rows`.
    out : (H, W, channels) float32
        Rows y0 to y1 are filled, where a sample covers more than one.
    """
    values, starts, widths, heights = pyramid
    n, channels, f = place.shape[1], out.shape[2], np.float32
    sizes, last, many = np.empty((3, SIZES), np.int32), np.int32(starts.shape[0] - 1), np.int32(channels)
    for size in range(SIZES):
        told = min(size, last)
        sizes[0, size], sizes[1, size], sizes[2, size] = starts[told] * channels, widths[told], heights[told]
    stride = n + LANES
    ways, known, means = np.empty(6 * n, f), np.zeros((LINES, stride), f), np.empty((TOGETHER + 1) * LANES, f)
    numbers, told_sizes = known.reshape(-1), sizes.reshape(-1)
    for y in range(y0, y1):
        if most[y] <= f(ONE):
            continue
        _lay_covered(place, y, f(widths[0]), f(heights[0]), ways, known)
        for x in range(0, n, LANES):
            for c in range(0, channels, TOGETHER):
                found = mean_covered(
                    values, np.int64(c), many, told_sizes, last, numbers, np.int64(stride), np.int64(x), means
                )
                if found == 0:
                    break
                for lane in range(min(LANES, n - x)):
                    if means[TOGETHER * LANES + lane] > 0:
                        for k in range(min(TOGETHER, channels - c)):
                            out[y, x + lane, c + k] = means[TOGETHER * lane + k]
