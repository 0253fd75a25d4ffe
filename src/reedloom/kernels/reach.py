"""How far the samples of a map of places reach: what each covers of what is read there."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.place_lanes import join_lines, measure_steps, part_pairs
from reedloom.kernels.places import beside, short_way

ENOUGH = 128
"""Samples each way from which the median of a footprint is told."""


def measure_footprint(place: np.ndarray, bands: Callable[..., None], aspect: float = 1.0) -> np.ndarray:
    """How far each sample of a place reaches: (H, W) float32, in widths of a tile `aspect` times as high.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    bands : callable
        Runs band functions to the end.
    aspect : float
        The tile's height in widths.

    Returns
    -------
    (H, W) float32
    """
    return measure_reach(place, bands, aspect).footprint


class Reach(NamedTuple):
    """What each sample covers.

    Attributes
    ----------
    footprint : (H, W) or (1, 1) float32
        In widths.
    ends : (2, H) or (2, 1) float32
        The least and the most that a sample of each row reaches.
    """

    footprint: np.ndarray
    ends: np.ndarray

    @classmethod
    def of(cls, footprint: np.ndarray) -> Reach:
        """With its rows' ends found."""
        return cls(footprint, np.stack([footprint.min(axis=1), footprint.max(axis=1)]))

    @classmethod
    def unmeasured(cls, width: int, height: int) -> Reach:
        """For as many samples, to be measured in bands."""
        return cls(np.empty((height, width), np.float32), np.empty((2, height), np.float32))

    def measure(self, place: np.ndarray, aspect: float, y0: int, y1: int) -> None:
        """Measure some rows.

        Parameters
        ----------
        place : (H, W, 2) float32
            All places, in tiles.
        aspect : float
            The tile's height in widths.
        y0, y1 : int
            Rows y0 to y1 - 1 are measured.
        """
        footprint_rows(place, np.float32(aspect), *self, y0, y1)

    def band(self, y0: int, y1: int) -> tuple[np.ndarray, float, float]:
        """Some rows: what their samples cover, and the least and the most of it."""
        least, most = self.ends[:, y0:y1]
        return self.footprint[y0:y1], float(least.min()), float(most.max())


def measure_reach(place: np.ndarray, bands: Callable[..., None], aspect: float = 1.0) -> Reach:
    """`measure_footprint`, with the ends of each row."""
    reach = Reach.unmeasured(place.shape[1], place.shape[0])
    bands(lambda y0, y1: reach.measure(place, aspect, y0, y1))
    return reach


def usual_reach(footprint: np.ndarray | float) -> float:
    """What most samples cover: the median of a footprint, told from some of its samples."""
    return float(np.median(thinned(np.atleast_2d(np.asarray(footprint)), ENOUGH)))


def thinned(map: np.ndarray, enough: int) -> np.ndarray:
    """Every so many samples of a map, so that from `enough` to twice as many are left each way."""
    rows, columns = (max(1, count // enough) for count in map.shape)
    return map[::rows, ::columns]


@inlined
def lay_steps(places, here, there, aspect, out, count):  # type: ignore[no-untyped-def]
    """How far places are from others, along the axis where that is more.

    Parameters
    ----------
    places : (2 × all,) float32
        In tiles.
    here, there : int
        The first of those, and the first of the others.
    aspect : float32
        The tile's height in widths.
    out : (count or more,) float32
        Filled, in widths.
    count : int
    """
    x = np.int64(measure_steps(places, here, there, out, np.int64(0), np.int64(count), aspect))
    while x < count:
        out[x] = step_between(places, here + x, there + x, aspect)
        x += 1


@inlined
def step_between(places, here, there, aspect):  # type: ignore[no-untyped-def]
    """How far one place is from another, the shorter way around the tile; see `lay_steps`."""
    u = short_way(places[2 * there] - places[2 * here])
    v = short_way(places[2 * there + 1] - places[2 * here + 1])
    return max(abs(u), abs(v) * aspect)


@inlined
def ends_of(bits):  # type: ignore[no-untyped-def]
    """The least and the most of numbers from 0 up, told as bits: (n,) int32, n from 1 up."""
    # They are in the order of their bits, whose ends are found in vectors.
    least = most = bits[0]
    for x in range(bits.shape[0]):
        least, most = min(least, bits[x]), max(most, bits[x])
    return np.int32(least).view(np.float32), np.int32(most).view(np.float32)


@kernel
def footprint_rows(place, aspect, out, ends, y0, y1):  # type: ignore[no-untyped-def]
    """How far one sample reaches, from the distance to its neighbours' places.

    The nearer of the two neighbours counts in each direction, so that a fold or a seam in the place does
    not read as a huge sample.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    aspect : float
        The tile's height in widths.
    out : (H, W) float32
        In widths; rows y0 to y1 are filled.
    ends : (2, H) float32
        Filled: the least and the most in each of these rows.
    """
    height, width = out.shape
    lowest, highest = ends[0], ends[1]
    along, before, after = (
        np.empty(width, np.float32),
        np.empty(width, np.float32),
        np.empty(width, np.float32),
    )
    places = place.reshape(-1)
    up, _ = beside(y0, height)
    lay_steps(places, up * width, y0 * width, aspect, before, width)
    for y in range(y0, y1):
        _, down = beside(y, height)
        here, line = y * width, out[y]
        # Each step is that on from one sample, and back from the next.
        lay_steps(places, here, here + 1, aspect, along, width - 1)
        along[width - 1] = step_between(places, here + width - 1, here, aspect)
        lay_steps(places, here, down * width, aspect, after, width)
        line[0] = max(min(along[width - 1], along[0]), min(before[0], after[0]))
        for x in range(width - 1):
            line[x + 1] = max(min(along[x], along[x + 1]), min(before[x + 1], after[x + 1]))
        before, after = after, before
        lowest[y], highest[y] = ends_of(line.view(np.int32))


@inlined
def part_places(pairs, us, vs):  # type: ignore[no-untyped-def]
    """Lay the numbers of (2 W,) places in lines, (W,) each."""
    x = np.int64(part_pairs(pairs, us, vs, np.int64(0), np.int64(us.shape[0])))
    while x < us.shape[0]:
        us[x], vs[x] = pairs[2 * x], pairs[2 * x + 1]
        x += 1


@inlined
def join_places(us, vs, out):  # type: ignore[no-untyped-def]
    """Lay the numbers of places, (W,) each, beside one another as (2 W,) pairs."""
    x = np.int64(join_lines(us, vs, out, np.int64(0), np.int64(us.shape[0])))
    while x < us.shape[0]:
        out[2 * x], out[2 * x + 1] = us[x], vs[x]
        x += 1
