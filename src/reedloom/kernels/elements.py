"""Elements of patterns: what was found of them at places, and the maps that come of it."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.forms import cover, height_at
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import around, beside


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
    each = 1 if covered.shape[0] > 1 else 0
    gap, bevel, profile, table = edge
    half, scale = gap * np.float32(0.5), np.float32(1.0) / bevel
    for k in range(found.inward.shape[0]):
        inward = found.inward[k] - half
        width = max(covered[k * each], np.float32(1e-7))
        share = cover(-inward, width)
        if gap <= 0.0:
            share = np.float32(0.0) if found.inward[k] < 0.0 else np.float32(1.0)
        height = height_at(inward * scale, profile, table) * share
        seen.profile[k] = found.beneath[k] + (found.raised[k] - found.beneath[k]) * height
        seen.mask[k] = share
        seen.edge[k] = inward


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
    each = 1 if covered.shape[0] > 1 else 0
    rows, width = out.shape
    number = found.number
    for y in range(rows):
        for x in range(width):
            k = (y + rim) * width + x
            near = found.inward[k] - edge.gap * np.float32(0.5)
            more = np.float32(1.5) * covered[(y * width + x) * each]
            is_edge = near > -edge.gap - more and near < reach + more
            out[y, x] = is_edge or (beside_too and _is_beside_another(number, k, x, width))


@inlined
def _is_beside_another(number, k, x, width):  # type: ignore[no-untyped-def]
    """Whether not all eight around a sample of a row are of its element."""
    left, right = beside(x, width)
    found = False
    for row in (k - x - width, k - x, k - x + width):
        for column in (left, x, right):
            found |= number[row + column] != number[k]
    return found


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
    for y in range(out.shape[0]):
        for x in range(width):
            out[y, x] = _is_beside_another(number, (y + 1) * width + x, x, width)


@kernel
def put_numbers(found, chance, gap, random, island, local):  # type: ignore[no-untyped-def]
    """What belongs to each element as a whole.

    Parameters
    ----------
    found : Elements
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
    count = chance.shape[0]
    for k in range(found.inward.shape[0]):
        number = around(found.number[k], count)
        if random.shape[0]:
            random[k] = chance[number]
        if island.shape[0]:
            island[k] = number + 1 if found.inward[k] > gap * np.float32(0.5) else 0
        if local.shape[0]:
            local[k, 0] = found.u[k]
            local[k, 1] = found.v[k]


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
    for k in range(ys.shape[0]):
        for j in range(n):
            v = np.float32((ys[k] + (j + 0.5) / n) / height)
            for i in range(n):
                out[j, k, i, 0] = np.float32((xs[k] + (i + 0.5) / n) / width)
                out[j, k, i, 1] = v
