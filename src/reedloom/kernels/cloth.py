"""Yarns that cross: the heights of both systems at given places, and which lies above."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import beside, cell_in, in_tile
from reedloom.kernels.quick import cosine_of_turn

BLOCK = 512
"""Places looked at together, which stay in the processor's first cache."""
LINES = 11
"""Numbers of each place that are worked out on the way."""


class Yarns(NamedTuple):
    """How a cloth's yarns are, as the loops read it.

    Attributes
    ----------
    width : float32
        The share of its room that a yarn takes.
    roundness : float32
        0 for flat ribbons to 1.
    bow : float32
        How far yarns rise and dive at crossings.
    twist, twists : float32
        How deep the grooves of the twist are, and how many between two crossings.
    unevenness : float32
        How different in width and height yarns are.
    """

    width: np.float32
    roundness: np.float32
    bow: np.float32
    twist: np.float32
    twists: np.float32
    unevenness: np.float32


class Cloth(NamedTuple):
    """What cloth there is at each of some places; every array is (n,).

    Attributes
    ----------
    height, cover, inward : float32
        0 to 1; how much of the sample is yarn; the way to the yarn's side, in tiles.
    over : float32
        1 where the yarn that runs down lies above.
    chance : float32
        The yarn's own.
    along, across : float32
        In crossings along the yarn, and across its room.
    number : int32
        The yarn: first those that run down.
    """

    height: np.ndarray
    cover: np.ndarray
    inward: np.ndarray
    over: np.ndarray
    chance: np.ndarray
    along: np.ndarray
    across: np.ndarray
    number: np.ndarray

    @classmethod
    def empty(cls, count: int) -> Cloth:
        """Room for so many places, from 0 up."""
        return cls._make([*(np.empty(count, np.float32) for _ in range(7)), np.empty(count, np.int32)])


class Room(NamedTuple):
    """Room for what is known of the places of a block.

    Attributes
    ----------
    lines : (LINES, BLOCK) float32
        Numbers of each place.
    numbers : (2, BLOCK) int32
        The yarns that run down and across there.
    found : (2, 3, BLOCK) float32
        Height, cover and way inward of each of the two.
    """

    lines: np.ndarray
    numbers: np.ndarray
    found: np.ndarray


@kernel
def cross_yarns(places, reach, above, chances, aspect, yarns, out):  # type: ignore[no-untyped-def]
    """Find the yarn that shows at each place.

    Parameters
    ----------
    places : (n, 2) float32
        In tiles.
    reach : (n,) or (1,) float32
        What each place covers, in widths.
    above : (yarns across, yarns down) bool
        Where the yarn that runs down lies above.
    chances : two (yarns,) float32
        Of the yarns that run down, and of those that run across.
    aspect : float
        The tile's height in widths.
    yarns : Yarns
    out : Cloth
        Filled.
    """
    pairs = places.reshape(-1)
    each = reach.shape[0] > 1
    room = Room(
        np.empty((LINES, BLOCK), np.float32),
        np.empty((2, BLOCK), np.int32),
        np.empty((2, 3, BLOCK), np.float32),
    )
    for start in range(0, places.shape[0], BLOCK):
        end = min(start + BLOCK, places.shape[0])
        n = end - start
        covered = reach[start:end] if each else reach
        _cross_block(pairs[2 * start :], covered, above, chances, aspect, yarns, room, n)
        _lay_block(room, chances, aspect, out, start, n)


@kernel
def _cross_block(pairs, reach, above, chances, aspect, yarns, room, n):  # type: ignore[no-untyped-def]
    """The yarns that run down and across at n places: height, cover and way inward of each.

    Loops over few arrays and without look-ups become vectors, so that each step has its own.
    """
    of_down, of_across = chances
    lines, numbers, found = room
    x, y, part_x, part_y = lines[0][:n], lines[1][:n], lines[2][:n], lines[3][:n]
    size, chance_x, chance_y = lines[4][:n], lines[5][:n], lines[6][:n]
    here, there = lines[7][:n], lines[8][:n]
    warps, wefts = of_down.shape[0], of_across.shape[0]
    wide, high = np.float32(warps), np.float32(wefts)
    for k in range(n):
        x[k], y[k] = in_tile(pairs[2 * k]) * wide, in_tile(pairs[2 * k + 1]) * high
    _part(x, warps, numbers[0], part_x)
    _part(y, wefts, numbers[1], part_y)
    for k in range(n):
        chance_x[k], chance_y[k] = of_down[numbers[0, k]], of_across[numbers[1, k]]
    one = np.float32(1)
    for k in range(n):
        i, j = numbers[0, k], numbers[1, k]
        here[k], there[k] = above[j, i], above[_next(j, part_y[k], wefts), i]
    _sizes(reach, wide, size)
    _yarn(part_x, y, part_y, (here, there), chance_x, size, yarns, lines, found[0])
    for k in range(n):
        i, j = numbers[0, k], numbers[1, k]
        here[k], there[k] = one - here[k], one - np.float32(above[j, _next(i, part_x[k], warps)])
    _sizes(reach, high / np.float32(aspect), size)
    _yarn(part_y, x, part_x, (here, there), chance_y, size, yarns, lines, found[1])


@inlined
def _part(at, count, cell, part):  # type: ignore[no-untyped-def]
    """The crossing that each place belongs to along an axis, and where it lies between that and the next."""
    for k in range(at.shape[0]):
        cell[k] = cell_in(at[k], count)
        part[k] = at[k] - np.float32(cell[k])


@inlined
def _sizes(reach, count, size):  # type: ignore[no-untyped-def]
    """What each place covers, in rooms of a yarn."""
    least = np.float32(1e-6)
    if reach.shape[0] == 1:
        size[:] = max(reach[0] * count, least)
        return
    for k in range(size.shape[0]):
        size[k] = max(reach[k] * count, least)


@inlined
def _next(crossing, part, count):  # type: ignore[no-untyped-def]
    """The nearer of the crossings before and after, around the tile."""
    before, after = beside(crossing, count)
    return before if part < 0.5 else after


@kernel
def _yarn(across, along, part, sides, chance, size, yarns, lines, found):  # type: ignore[no-untyped-def]
    """Height, cover and way inward of one yarn at each of some places; every array is (n,) float32.

    across : 0..1 in its room; along : in crossings; part : how far beyond the crossing; sides : two, 1 where
    it lies above there, and at the next one, to whose side it passes half-way between; size : what a place
    covers; lines : of a `Room`; found : three of (n,), filled.
    """
    one, half, zero = np.float32(1), np.float32(0.5), np.float32(0)
    n = across.shape[0]
    here, there = sides
    rise, body = lines[9][:n], lines[10][:n]
    height, cover, inward = found[0][:n], found[1][:n], found[2][:n]
    reach, uneven = half * yarns.width, yarns.unevenness
    for k in range(n):
        # half-way to the next crossing it is half-way up or down
        share = half - half * cosine_of_turn(half * abs(part[k] - half))
        rise[k] = here[k] + (there[k] - here[k]) * share
    for k in range(n):
        own = reach * (one + half * uneven * (chance[k] - half))
        inward[k] = own - abs(across[k] - half)
    for k in range(n):
        cover[k] = min(max(inward[k] / size[k] + half, zero), one)
    for k in range(n):
        own = reach * (one + half * uneven * (chance[k] - half))
        out = abs(across[k] - half) / own
        flank = np.float32(math.sqrt(max(one - out * out, zero)))
        flat = min(max((one - out) * np.float32(4), zero), one)
        body[k] = flat + yarns.roundness * (flank - flat)
    twists, depth = yarns.twists, np.float32(0.35) * yarns.twist
    for k in range(n if depth > zero else 0):
        turn = np.float64(twists) * (np.float64(along[k]) + 1.6 * np.float64(across[k] - half))
        groove = half + half * cosine_of_turn(np.float32(turn - np.floor(turn)))
        carve = min(max(one - size[k] * twists * np.float32(1.2), zero), one)  # too fine, grooves go
        body[k] *= one - depth * (half + carve * (groove - half))
    most = (half + half * yarns.bow) * (one + np.float32(0.2) * uneven)
    for k in range(n):
        lifted = half * body[k] + half * yarns.bow * rise[k] * min(one, body[k] * np.float32(3))
        own = one + np.float32(0.4) * uneven * (chance[k] - half)
        height[k] = lifted / most * own * cover[k]


@kernel
def _lay_block(room, chances, aspect, out, start, n):  # type: ignore[no-untyped-def]
    """Lay what the higher of two yarns is at n places into `out`, from `start` on; see `_cross_block`."""
    of_down, of_across = chances
    lines, numbers, found = room
    x, y, part_x, part_y = lines[0], lines[1], lines[2], lines[3]
    over = out.over[start : start + n]
    for k in range(n):
        over[k] = np.float32(1) if found[0, 0, k] >= found[1, 0, k] else np.float32(0)
    _choose(over, found[0, 0], found[1, 0], out.height[start:])
    cover = out.cover[start:]
    for k in range(n):
        cover[k] = max(found[0, 1, k], found[1, 1, k])
    _choose(over, found[0, 2], found[1, 2], out.inward[start:])
    inward = out.inward[start:]
    per_warp, per_weft = (
        np.float32(1) / np.float32(of_down.shape[0]),
        np.float32(aspect) / np.float32(of_across.shape[0]),
    )
    for k in range(n):
        inward[k] *= per_warp if over[k] > 0 else per_weft
    _choose(over, lines[5], lines[6], out.chance[start:])
    _choose(over, y, x, out.along[start:])
    _choose(over, part_x, part_y, out.across[start:])
    number, i, j = out.number[start:], numbers[0], numbers[1]
    warps = np.int32(of_down.shape[0])
    for k in range(n):
        number[k] = i[k] if over[k] > 0 else warps + j[k]


@inlined
def _choose(over, down, across, out):  # type: ignore[no-untyped-def]
    """What is of the yarn that lies above."""
    for k in range(over.shape[0]):
        out[k] = down[k] if over[k] > 0 else across[k]
