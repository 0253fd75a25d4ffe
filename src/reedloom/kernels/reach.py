"""How far the samples of a map of places reach: what each covers of what is read there."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.place_lanes import lay_and_measure, lay_within
from reedloom.kernels.places import beside, in_tile, short_way
from reedloom.kernels.vectors import LANES, lined

AHEAD = 2
"""Rows whose places are asked of the memory before they are read."""
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
def lay_run(places, first, ahead, lines, into, n):  # type: ignore[no-untyped-def]
    """Lay where a run of samples is within the tile.

    Parameters
    ----------
    places : (2 × all,) float32
        In tiles.
    first : int
        The first sample.
    ahead : int
        How many further on the memory is asked for of those that come next.
    lines : (m,) float32
        Filled: u of each, and then v of each.
    into : int
        Where in `lines` the first is laid.
    n : int
        Samples of the run.
    """
    x = np.int64(lay_within(places, np.int64(first), np.int64(ahead), lines, np.int64(into), np.int64(n)))
    while x < n:
        _lay_one(places, first + x, lines, into + x, n)
        x += 1


@inlined
def _lay_one(places, sample, lines, at, n):  # type: ignore[no-untyped-def]
    """Lay where one sample is within the tile, as `lay_run` does."""
    lines[at], lines[n + at] = in_tile(places[2 * sample]), in_tile(places[2 * sample + 1])


@inlined
def begin_runs(places, where, lines, size, sides, down, reach, ends):  # type: ignore[no-untyped-def]
    """Lay the first of several runs below one another, and how far its samples are from those above.

    Parameters
    ----------
    places, where, lines, size, sides, down, reach, ends
        As `measure_run` takes them next.
    """
    (y, (height, width), x, turn), n = where, reach.shape[0]
    up, _ = beside(y, height)
    lay_run(places, up * width + x, width, lines, size * (1 - turn), n)
    _measure(places, (y * width + x, width), lines, size, 1 - turn, sides, down, reach, ends)


@inlined
def measure_run(places, where, lines, size, sides, down, reach, ends):  # type: ignore[no-untyped-def]
    """How far the samples of a run reach, which was laid when that above was measured; lays the one below.

    The nearer of the two neighbours counts in each direction, so that a fold or a seam in the place does
    not read as a huge sample.

    Parameters
    ----------
    places : (2 H W,) float32
        In tiles.
    where : (y, (H, W), x, turn)
        The run's first sample, and 0 or 1 in turns from row to row.
    lines : (2 size + 1, or more) float32
        The run, from `lay_run`, from `size` times the turn on; that below is laid in the other place.
    size : int
        2 n or more.
    sides : (3,) float32
        The last is the tile's height in widths; the others are filled.
    down : (2 n,) float32
        How far samples are from those above and below, in turns.
    reach : (n,) float32
        Filled, in widths.
    ends : (2 LANES,) int32
        Scratch.

    Returns
    -------
    float32, float32, the least and the most of them
    """
    (y, (height, width), x, turn), n = where, reach.shape[0]
    row = y * width
    _, low = beside(y, height)
    left, _ = beside(x, width)
    _, after = beside(x + n - 1, width)
    sides[0] = _step(places, row + left, row + x, sides[2])
    sides[1] = _step(places, row + x + n - 1, row + after, sides[2])
    next = low * width + x, AHEAD * width
    return _measure(places, next, lines, size, turn, sides, down, reach, ends)


@inlined
def _measure(places, next, lines, size, turn, sides, down, reach, ends):  # type: ignore[no-untyped-def]
    """`place_lanes.lay_and_measure` of all samples of a run; the least and the most they reach.

    `next` is the first sample of the run below, and how many further on memory is asked for.
    """
    n, first = reach.shape[0], np.int64(next[0])
    here, below, into, sizes = size * turn, size * (1 - turn), n * turn, (np.int64(size), np.int64(turn))
    x = lay_and_measure(
        places, first, np.int64(next[1]), lines, *sizes, sides, down, reach, ends, np.int64(n)
    )
    x = np.int64(x)
    bits = ends[0], ends[LANES]
    for lane in range(LANES):
        bits = min(bits[0], ends[lane]), max(bits[1], ends[LANES + lane])
    least, most = np.int32(bits[0]).view(np.float32), np.int32(bits[1]).view(np.float32)
    left = sides[0] if x == 0 else _way(lines, here + x - 1, here + x, n, sides[2])
    while x < n:
        _lay_one(places, first + x, lines, below + x, n)
        right = sides[1] if x == n - 1 else _way(lines, here + x, here + x + 1, n, sides[2])
        down[into + x] = _way(lines, here + x, below + x, n, sides[2])
        reach[x] = max(min(left, right), min(down[x], down[n + x]))
        least, most = min(least, reach[x]), max(most, reach[x])
        left = right
        x += 1
    return least, most


@inlined
def _way(lines, here, there, n, aspect):  # type: ignore[no-untyped-def]
    """How far a place is from another, both laid in lines."""
    u, v = lines[there] - lines[here], lines[n + there] - lines[n + here]
    return max(abs(short_way(u)), abs(short_way(v)) * aspect)


@inlined
def _step(places, here, there, aspect):  # type: ignore[no-untyped-def]
    """How far one place is from another, the shorter way around the tile."""
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
    """How far each sample reaches; see `measure_run`.

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
    places, shape, n, f = place.reshape(-1), out.shape, out.shape[1], np.float32
    lines, down = lined(4 * n + 1), lined(2 * n)
    sides, least_and_most = np.array([0.0, 0.0, aspect], f), np.empty(2 * LANES, np.int32)
    begin_runs(places, (y0, shape, 0, y0 & 1), lines, 2 * n, sides, down, out[y0], least_and_most)
    for row in range(y1 - y0):
        y = y0 + row
        where = y, shape, 0, y & 1
        ends[0, y], ends[1, y] = measure_run(places, where, lines, 2 * n, sides, down, out[y], least_and_most)
