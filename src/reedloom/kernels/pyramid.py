"""Reads maps at given places as the mean of all that a sample covers there, however much it shrinks.

A map is averaged once to half, a quarter and so on (L. Williams, *Pyramidal parametrics*, SIGGRAPH 1983); a
sample that covers many of the map's is read in several places within it, more along the way in which it is
longer, at the size that has about one sample for each.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from reedloom.kernels.cover_lanes import LINES, ONE, SIZES, TOGETHER, mean_covered
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.maps import empty_map
from reedloom.kernels.places import lay_ways, part_places
from reedloom.kernels.reach import ends_of
from reedloom.kernels.reading import read_at
from reedloom.kernels.resize import at_once, half_of, halve
from reedloom.kernels.vectors import LANES

BAND = 64
LARGE = 2**21
"""Samples above which maps are read one by one."""
SURELY = 1.02
"""A little more than `ONE`: what is measured and what is read then may differ by a rounding."""


class Pyramid(NamedTuple):
    """Maps at all their sizes, their channels side by side.

    Attributes
    ----------
    values : (n × channels + TOGETHER,) float32
        Size after size, row by row; the last ones are read, and left out.
    sizes : (3, SIZES) int32
        Where each size begins among the values, and its samples across and down; the maps' own first, and
        the last, of one sample, repeated.
    last : int
        The number of the last one.
    """

    values: np.ndarray
    sizes: np.ndarray
    last: int

    @classmethod
    def of(cls, maps: Sequence[np.ndarray], bands: Callable[..., None] = at_once) -> Pyramid:
        """All sizes of maps (h, w) or (h, w, channels); `bands` runs band functions to the end."""
        layers = [map if map.ndim == 3 else map[..., None] for map in maps]
        channels, shapes = sum(layer.shape[2] for layer in layers), [maps[0].shape[:2]]
        while shapes[-1] != (1, 1):
            shapes.append(half_of(shapes[-1]))
        starts = np.cumsum([0, *(rows * columns * channels for rows, columns in shapes)])
        values = empty_map((int(starts[-1]) + TOGETHER,))
        values[starts[-1] :] = 0
        levels = [
            values[start : start + rows * columns * channels].reshape(rows, columns, channels)
            for start, (rows, columns) in zip(starts[:-1], shapes, strict=True)
        ]

        def lay(y0: int, y1: int) -> None:
            np.concatenate([layer[y0:y1] for layer in layers], axis=2, out=levels[0][y0:y1])

        bands(lay, rows=len(levels[0]), band_rows=BAND)
        for large, small in pairwise(levels):
            halve(large, small, bands)
        last = len(shapes) - 1
        told = np.minimum(np.arange(SIZES), last)
        sizes = np.stack([starts[told], *(np.array(shapes)[told, axis] for axis in (1, 0))])
        return cls(values, sizes.astype(np.int32), last)


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


def read_covered(bands: Callable[..., None], map: np.ndarray, place: np.ndarray, how: str) -> np.ndarray:
    """A map read at given places: the mean of what each sample covers, where that is more than one sample.

    Parameters
    ----------
    bands : callable
        Runs band functions to the end.
    map : (h, w) or (h, w, 3) float32
    place : (H, W, 2) float32
        In tiles; the border wraps.
    how : str
        "linear" or "cubic", where a sample covers less.

    Returns
    -------
    (H, W) or (H, W, 3) float32
    """
    return read_together(bands, [map], place, how, measure_covered(bands, map.shape[:2], place))[0]


def read_together(
    bands: Callable[..., None], maps: Sequence[np.ndarray], place: np.ndarray, how: str, covered: np.ndarray
) -> list[np.ndarray]:
    """What `read_covered` gives of each of some maps, whose means are taken as one.

    Parameters
    ----------
    bands, place, how
        As there.
    maps : sequence of (h, w) or (h, w, 3) float32
        Of `TOGETHER` channels or less.
    covered : (2, H) float32
        From `measure_covered`.
    """
    least, most = covered
    if most.max() <= ONE:
        return [read_at(bands, map, place, how) for map in maps]
    if least.min() > SURELY:
        read = [empty_map((*place.shape[:2], *map.shape[2:])) for map in maps]
    else:
        read = [read_at(bands, map, place, how) for map in maps]
    lines, where = _channels_of(read)
    pyramid = tuple(Pyramid.of(maps, bands))
    bands(lambda y0, y1: cover_rows(pyramid, place, most, lines, where, y0, y1), band_rows=BAND)
    return read


def _channels_of(maps: Sequence[np.ndarray]) -> tuple[tuple[np.ndarray, ...], np.ndarray]:
    """Where the channels of maps lie, as `cover_rows` takes it."""
    lines, where = [], []
    for map in maps:
        channels = map.shape[2] if map.ndim == 3 else 1
        lines += [map.reshape(-1)] * channels
        where += [(channel, channels) for channel in range(channels)]
    return tuple((lines * TOGETHER)[:TOGETHER]), np.array(where)


def measure_covered(bands: Callable[..., None], shape: tuple[int, int], place: np.ndarray) -> np.ndarray:
    """How many samples of a map, (h, w) of them, those of each row of places cover, the longer way.

    Returns
    -------
    (2, H) float32, the least and the most; 0 where a place is no number
    """
    covered = np.empty((2, len(place)), np.float32)
    height, width = shape
    bands(lambda y0, y1: measure_rows(place, width, height, covered, y0, y1), rows=len(place), band_rows=BAND)
    return covered


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
def measure_rows(place, width, height, out, y0, y1):  # type: ignore[no-untyped-def]
    """How many samples of a map those of each row cover, along the way in which they are longer.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    width, height : int
        The map's samples across and down.
    out : (2, H) float32
        Filled for rows y0 to y1: the least and the most; 0 where a place is no number.
    """
    n, f = place.shape[1], np.float32
    ways, known = np.empty(6 * n, f), np.empty((LINES, n), f)
    across, along = known[6], known[7]
    for y in range(y0, y1):
        _lay_covered(place, y, f(width), f(height), ways, known)
        for x in range(n):
            wide, high = across[x], along[x]
            longer = max(wide, high)
            across[x] = longer if wide + high >= 0 else f(0)
        least, most = ends_of(across.view(np.int32))
        out[0, y], out[1, y] = math.sqrt(least), math.sqrt(most)


@kernel
def cover_rows(pyramid, place, most, lines, where, y0, y1):  # type: ignore[no-untyped-def]
    """Put the mean of what it covers into each sample that covers more than one of the map's.

    Parameters
    ----------
    pyramid : Pyramid
        Of maps whose samples those of `most` are.
    place : (H, W, 2) float32
        In tiles.
    most : (H,) float32
        From `measure_rows`.
    lines : tuple of TOGETHER times (n,) float32
        The maps that are filled, where a sample covers more than one: that in which the first channel lies,
        the second and so on; those beyond the channels are left alone.
    where : (channels, 2) int64
        Where in its map each channel begins, and how far apart its values lie.
    """
    values, sizes, last = pyramid
    n, channels, f = place.shape[1], where.shape[0], np.float32
    stride = n + LANES
    ways, known, means = np.empty(6 * n, f), np.zeros((LINES, stride), f), np.empty((TOGETHER + 1) * LANES, f)
    numbers, told_sizes, many, last = known.reshape(-1), sizes.reshape(-1), np.int32(channels), np.int32(last)
    for y in range(y0, y1):
        if most[y] <= f(ONE):
            continue
        _lay_covered(place, y, f(sizes[1, 0]), f(sizes[2, 0]), ways, known)
        for x in range(0, n, LANES):
            found = mean_covered(
                values, told_sizes, many, last, numbers, np.int64(stride), np.int64(x), means
            )
            if found == 0:
                continue
            first, count = y * n + x, min(LANES, n - x)
            for channel in range(channels):
                _put(lines[channel], where[channel], means, channel, first, count)


@inlined
def _put(line, where, means, channel, first, count):  # type: ignore[no-untyped-def]
    """Write a channel of sixteen samples or less, those that `mean_covered` has found.

    Parameters
    ----------
    line : (n,) float32
        The map it is in.
    where : (2,) int64
        Where in it the channel begins, and how far apart its values lie.
    means : (TOGETHER × LANES + LANES,) float32
        From `mean_covered`.
    channel, first, count : int
        Of the means; and the samples.
    """
    begins, apart = where
    for lane in range(count):
        if means[TOGETHER * LANES + lane] > 0:
            line[begins + apart * (first + lane)] = means[TOGETHER * lane + channel]
