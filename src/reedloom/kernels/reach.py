"""How far the samples of a map of places reach: what each covers of what is read there."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.place_lanes import LEAST_REACH, join_lines, lean, measure_steps, part_pairs
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
    return measure_reach(place, bands, aspect)[0]


def measure_reach(
    place: np.ndarray, bands: Callable[..., None], aspect: float = 1.0
) -> tuple[np.ndarray, np.ndarray]:
    """`measure_footprint`, and the least and the most of it in each row: (2, H) float32."""
    footprint = np.empty(place.shape[:2], np.float32)
    ends = np.empty((2, len(place)), np.float32)
    bands(lambda y0, y1: footprint_rows(place, np.float32(aspect), footprint, ends, y0, y1))
    return footprint, ends


def usual_reach(footprint: np.ndarray | float) -> float:
    """What most samples cover: the median of a footprint, told from some of its samples."""
    return float(np.median(thinned(np.atleast_2d(np.asarray(footprint)), ENOUGH)))


def thinned(map: np.ndarray, enough: int) -> np.ndarray:
    """Every so many samples of a map, so that from `enough` to twice as many are left each way."""
    rows, columns = (max(1, count // enough) for count in map.shape)
    return map[::rows, ::columns]


@inlined
def _steps(here, there, aspect, out):  # type: ignore[no-untyped-def]
    """How far places (2 W,) are from others, along the axis where that is more: (W,), in widths."""
    x = np.int64(measure_steps(here, there, out, np.int64(0), np.int64(out.shape[0]), aspect))
    while x < out.shape[0]:
        u, v = short_way(there[2 * x] - here[2 * x]), short_way(there[2 * x + 1] - here[2 * x + 1])
        out[x] = max(abs(u), abs(v) * aspect)
        x += 1


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
    up, _ = beside(y0, height)
    _steps(place[up].reshape(-1), place[y0].reshape(-1), aspect, before)
    for y in range(y0, y1):
        _, down = beside(y, height)
        here, line = place[y].reshape(-1), out[y]
        # Each step is that on from one sample, and back from the next.
        _steps(here, here[2:], aspect, along[: width - 1])
        _steps(here[2 * width - 2 :], here, aspect, along[width - 1 :])
        _steps(here, place[down].reshape(-1), aspect, after)
        line[0] = max(min(along[width - 1], along[0]), min(before[0], after[0]))
        for x in range(width - 1):
            line[x + 1] = max(min(along[x], along[x + 1]), min(before[x + 1], after[x + 1]))
        before, after = after, before
        # Numbers from 0 up are in the order of their bits, whose ends are found in vectors.
        bits = line.view(np.int32)
        least = most = bits[0]
        for x in range(width):
            least, most = min(least, bits[x]), max(most, bits[x])
        lowest.view(np.int32)[y], highest.view(np.int32)[y] = least, most


@kernel
def lay_beside(place, reach, across, down, y0, out):  # type: ignore[no-untyped-def]
    """Lay places beside given ones, by a share of how far each reaches.

    Parameters
    ----------
    place : (H, W, 2) float32
        In tiles.
    reach : (H, W) float32
        In widths.
    across, down : float32
        The shares along u and v.
    y0 : int
        The first row, which may lie before the first of all: they go around.
    out : (n, W, 2) float32
        Filled.
    """
    height, width = reach.shape
    for y in range(out.shape[0]):
        row = (y0 + y) % height
        here, line, covered = place[row].reshape(-1), out[y].reshape(-1), reach[row]
        x = np.int64(lean(here, covered, line, np.int64(0), np.int64(width), across, down))
        while x < width:
            step = max(covered[x], np.float32(LEAST_REACH))
            line[2 * x], line[2 * x + 1] = here[2 * x] + step * across, here[2 * x + 1] + step * down
            x += 1


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
