"""Elements of patterns: what was found of them at places, and the maps that come of it."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.forms import cover, heights
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import around, beside, join_places


class Elements(NamedTuple):
    """The element at each of some places; every array is (n,).

    Attributes
    ----------
    inward : float32
        Distance to the element's edge without the gap, in widths; below 0 where there is none.
    number : int32
        The element's, from 0.
    u, v : float32
        The place within the element, 0 to 1.
    raised : float32
        A height that multiplies the profile, for elements that lie over or under others; else 1.
    beneath : float32
        The height on which an element lies, to which its edge goes down; else 0.
    """

    inward: np.ndarray
    number: np.ndarray
    u: np.ndarray
    v: np.ndarray
    raised: np.ndarray
    beneath: np.ndarray

    @classmethod
    def level(cls, count: int) -> Elements:
        """Room for so many places, with elements that lie beside one another."""
        inward, u, v = (np.empty(count, np.float32) for _ in range(3))
        raised, beneath = np.ones(count, np.float32), np.zeros(count, np.float32)
        return cls(inward, np.empty(count, np.int32), u, v, raised, beneath)

    def part(self, first: int, last: int) -> Elements:
        """Those at some of the places only."""
        return Elements(*(array[first:last] for array in self))


class Edge(NamedTuple):
    """How the elements of a pattern are parted and rise.

    Attributes
    ----------
    gap, bevel : float32
        Between neighbours, and from the edge to the full height, in widths.
    profile : int
        One of `forms`, FLAT to CUSTOM.
    table : (m,) float32
        The custom profile from the edge inward.
    """

    gap: np.float32
    bevel: np.float32
    profile: int
    table: np.ndarray


class Seen(NamedTuple):
    """Profile, mask and distance to the edge, less half the gap, at each of some places: (n,) float32."""

    profile: np.ndarray
    mask: np.ndarray
    edge: np.ndarray

    @classmethod
    def empty(cls, count: int) -> Seen:
        """Room for so many places."""
        return cls(*(np.empty(count, np.float32) for _ in range(3)))


@inlined
def within_box(left, right, top, bottom, corner):  # type: ignore[no-untyped-def]
    """Distance inward to the edge of a box with corners of some radius, from those to its four sides."""
    u, v = min(left, right), min(top, bottom)
    if u < corner and v < corner:
        return np.float32(corner - math.sqrt((corner - u) * (corner - u) + (corner - v) * (corner - v)))
    return np.float32(min(u, v))


def corner_of(corner: float, gap: float) -> float:
    """The radius of a corner before the gap is taken away, which leaves it the radius that was asked for."""
    return corner + gap / 2 if corner > 0 else 0.0


@kernel
def look_at(found, covered, edge, seen):  # type: ignore[no-untyped-def]
    """Profile, mask and edge of elements.

    Parameters
    ----------
    found : Elements
    covered : (n,) or (1,) float32
        How far each sample reaches, in widths.
    edge : Edge
    seen : Seen
        Filled.
    """
    # Each step is a loop of its own, over few arrays, of which the compiler makes vectors.
    gap, bevel, profile, table = edge
    half, one = gap * np.float32(0.5), np.float32(1.0)
    inward, beneath, raised = found.inward, found.beneath, found.raised
    deep, share, height = seen.edge, seen.mask, seen.profile
    for k in range(deep.shape[0]):
        deep[k] = inward[k] - half
    if gap <= 0.0:
        for k in range(share.shape[0]):
            share[k] = np.float32(0.0) if inward[k] < np.float32(0.0) else one
    elif covered.shape[0] > 1:
        for k in range(share.shape[0]):
            share[k] = cover(-deep[k], max(covered[k], np.float32(1e-7)))
    else:
        width = max(covered[0], np.float32(1e-7))
        for k in range(share.shape[0]):
            share[k] = cover(-deep[k], width)
    heights(deep, one / bevel, profile, table, height)
    for k in range(height.shape[0]):
        height[k] = beneath[k] + (raised[k] - beneath[k]) * (height[k] * share[k])


@kernel
def find_edges(found, covered, edge, reach, beside_too, rim, out):  # type: ignore[no-untyped-def]
    """Where samples lie on an edge, or beside another element.

    Parameters
    ----------
    found : Elements
        Of the rows of `out`, with `rim` rows more above and below.
    covered : (n × W,) or (1,) float32
        How far each sample reaches, in widths.
    edge : Edge
    reach : float32
        How far inward samples count as on the edge, in widths.
    beside_too : bool
        Whether samples next to another element count; needs a rim of 1.
    rim : int
    out : (n, W) bool
        Filled.
    """
    rows, width = out.shape
    half, outward, enough = edge.gap * np.float32(0.5), -edge.gap, np.float32(1.5)
    for y in range(rows):
        line, first = out[y], (y + rim) * width
        inward = found.inward[first : first + width]
        if covered.shape[0] > 1:
            each = covered[y * width : (y + 1) * width]
            for x in range(line.shape[0]):
                near, more = inward[x] - half, enough * each[x]
                line[x] = near > outward - more and near < reach + more
        else:
            more = enough * covered[0]
            for x in range(line.shape[0]):
                near = inward[x] - half
                line[x] = near > outward - more and near < reach + more
        if beside_too:
            _mark_borders(found.number[first - width : first + 2 * width], line)


@inlined
def _mark_borders(numbers, marked):  # type: ignore[no-untyped-def]
    """Mark the samples of a row of which not all eight around are of the same element.

    numbers : (3 × W,) int32, of the rows above, here and below; marked : (W,) bool, changed.
    """
    width = marked.shape[0]
    above, here, below = numbers[:width], numbers[width : 2 * width], numbers[2 * width :]
    for x in range(np.uint64(max(width - 2, 0))):
        middle, right = x + np.uint64(1), x + np.uint64(2)
        own = here[middle]
        apart = (here[x] ^ own) | (here[right] ^ own) | (above[middle] ^ own) | (below[middle] ^ own)
        apart |= (above[x] ^ own) | (above[right] ^ own) | (below[x] ^ own) | (below[right] ^ own)
        marked[middle] |= apart != 0
    for x in (0, width - 1):
        left, right = beside(x, width)
        for row in (above, here, below):
            for column in (left, x, right):
                marked[x] |= row[column] != here[x]


@kernel
def find_borders(number, out):  # type: ignore[no-untyped-def]
    """Where a sample is not of the same element as all eight around it.

    Parameters
    ----------
    number : ((n + 2) × W,) int32
        Each one's element, with a row more above and below.
    out : (n, W) bool
        Filled.
    """
    width = out.shape[1]
    out[:] = False
    for y in range(out.shape[0]):
        _mark_borders(number[y * width : (y + 3) * width], out[y])


@kernel
def put_numbers(found, chance, gap, random, island, local):  # type: ignore[no-untyped-def]
    """What belongs to each element as a whole.

    Parameters
    ----------
    found : Elements
        Whose numbers are brought below the count.
    chance : (count,) float32
        A random value for each element.
    gap : float32
        In widths.
    random : (n,) float32 or (0,)
        Filled with the element's chance, if there is room.
    island : (n,) int32 or (0,)
        Filled with its number from 1, 0 in gaps.
    local : (n, 2) float32 or (0, 2)
        Filled with the place within it.
    """
    count, numbers, inward, half = chance.shape[0], found.number, found.inward, gap * np.float32(0.5)
    least, most = np.int32(0), np.int32(0)
    for k in range(numbers.shape[0]):
        least, most = min(least, numbers[k]), max(most, numbers[k])
    if least < 0 or most >= count:
        for k in range(numbers.shape[0]):
            numbers[k] = around(numbers[k], np.int32(count))
    for k in range(random.shape[0]):
        random[k] = chance[np.uint32(numbers[k])]
    for k in range(island.shape[0]):
        island[k] = numbers[k] + np.int32(1) if inward[k] > half else np.int32(0)
    if local.shape[0]:
        join_places(found.u, found.v, local.reshape(-1))


@kernel
def spread_grid(ys, xs, width, height, out):  # type: ignore[no-untyped-def]
    """Places spread evenly within some samples of the tile's own grid.

    Parameters
    ----------
    ys, xs : (k,) int64
        The samples.
    width, height : int
        Samples in the tile.
    out : (n, k, n, 2) float32
        Filled, in the order of `places.spread_places`.
    """
    n = out.shape[0]
    shares, per_width, per_height = (np.arange(n) + 0.5) / n, 1.0 / width, 1.0 / height
    for j in range(n):
        line = out[j].reshape(-1)
        for k in range(ys.shape[0]):
            v, x = np.float32((ys[k] + shares[j]) * per_height), xs[k]
            for i in range(n):
                at = np.uint64(2 * (k * n + i))
                line[at], line[at + np.uint64(1)] = np.float32((x + shares[i]) * per_width), v
