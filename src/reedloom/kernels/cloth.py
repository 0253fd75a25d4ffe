"""Yarns that cross: the heights of both systems at given places, and which lies above."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import beside, cell_in, in_tile
from reedloom.kernels.quick import cosine_of_turn


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
    of_down, of_across = chances
    height, cover, inward, overs, chance, along, off_middle, number = out
    warps, wefts = of_down.shape[0], of_across.shape[0]
    each = 1 if reach.shape[0] > 1 else 0
    wide, high = np.float32(warps), np.float32(wefts)
    per_warp, per_weft = np.float32(1) / wide, np.float32(aspect) / high
    for k in range(places.shape[0]):
        x, y = in_tile(places[k, 0]) * wide, in_tile(places[k, 1]) * high
        i, j = cell_in(x, warps), cell_in(y, wefts)
        fx, fy = x - np.float32(i), y - np.float32(j)
        other = _next(j, fy, wefts)
        size = reach[k * each] * wide
        down = _yarn(fx, y, fy, above[j, i], above[other, i], of_down[i], size, yarns)
        other = _next(i, fx, warps)
        size = reach[k * each] / per_weft
        across = _yarn(fy, x, fx, not above[j, i], not above[j, other], of_across[j], size, yarns)
        over = down[0] >= across[0]
        height[k] = max(down[0], across[0])
        cover[k] = max(down[1], across[1])
        overs[k] = np.float32(1) if over else np.float32(0)
        if over:
            inward[k] = down[2] * per_warp
            chance[k], number[k] = of_down[i], i
            along[k], off_middle[k] = y, fx
        else:
            inward[k] = across[2] * per_weft
            chance[k], number[k] = of_across[j], warps + j
            along[k], off_middle[k] = x, fy


@inlined
def _next(crossing, part, count):  # type: ignore[no-untyped-def]
    """The nearer of the crossings before and after, around the tile."""
    before, after = beside(crossing, count)
    return before if part < 0.5 else after


@inlined
def _yarn(across, along, part, here, there, chance, sample, yarns):  # type: ignore[no-untyped-def]
    """Height, cover and way inward of one yarn: `across` 0..1 in its room, `along` in crossings.

    part : how far beyond the crossing; here, there : whether it lies above at it, and at the next one, to
    whose side it passes half-way between.
    """
    one, half, zero = np.float32(1), np.float32(0.5), np.float32(0)
    rise = one if here else zero
    if here != there:
        # half-way to the next crossing it is half-way up or down
        share = half - half * cosine_of_turn(half * abs(part - half))
        rise += share if there else -share
    uneven = yarns.unevenness * (chance - half)
    reach = half * yarns.width * (one + half * uneven)
    away = abs(across - half)
    size = max(sample, np.float32(1e-6))
    cover = min(max((reach - away) / size + half, zero), one)
    if cover == zero:
        return zero, zero, reach - away
    out = away / reach
    flank = np.float32(math.sqrt(max(one - out * out, zero)))
    flat = min(max((one - out) * np.float32(4), zero), one)
    body = flat + yarns.roundness * (flank - flat)
    if yarns.twist > zero:
        turn = np.float64(yarns.twists) * (np.float64(along) + 1.6 * np.float64(across - half))
        groove = half + half * cosine_of_turn(np.float32(turn - np.floor(turn)))
        carve = min(max(one - size * yarns.twists * np.float32(1.2), zero), one)  # too fine, grooves go
        body *= one - np.float32(0.35) * yarns.twist * (half + carve * (groove - half))
    lifted = half * body + half * yarns.bow * rise * min(one, body * np.float32(3))
    most = (half + half * yarns.bow) * (one + np.float32(0.2) * yarns.unevenness)
    height = lifted / most * (one + np.float32(0.4) * uneven)
    return height * cover, cover, reach - away
