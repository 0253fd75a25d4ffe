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
    width : float
        The share of its room that a yarn takes.
    roundness : float
        0 for flat ribbons to 1.
    bow : float
        How far yarns rise and dive at crossings.
    twist, twists : float
        How deep the grooves of the twist are, and how many between two crossings.
    unevenness : float
        How different in width and height yarns are.
    """

    width: float
    roundness: float
    bow: float
    twist: float
    twists: float
    unevenness: float


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
    warps, wefts = of_down.shape[0], of_across.shape[0]
    each = 1 if reach.shape[0] > 1 else 0
    for k in range(places.shape[0]):
        x, y = in_tile(places[k, 0]) * np.float32(warps), in_tile(places[k, 1]) * np.float32(wefts)
        i, j = cell_in(x, warps), cell_in(y, wefts)
        fx, fy = np.float64(x) - i, np.float64(y) - j
        other = _next(j, fy, wefts)
        down = _yarn(
            fx,
            np.float64(y),
            fy,
            above[j, i],
            above[other, i],
            of_down[i],
            reach[k * each] * np.float32(warps),
            yarns,
        )
        other = _next(i, fx, warps)
        size = np.float32(reach[k * each] * np.float32(wefts) / np.float32(aspect))
        across = _yarn(fy, np.float64(x), fx, not above[j, i], not above[j, other], of_across[j], size, yarns)
        over = down[0] >= across[0]
        out.height[k] = max(down[0], across[0])
        out.cover[k] = max(down[1], across[1])
        out.over[k] = np.float32(1) if over else np.float32(0)
        if over:
            out.inward[k] = down[2] / np.float32(warps)
            out.chance[k], out.number[k] = of_down[i], i
            out.along[k], out.across[k] = y, fx
        else:
            out.inward[k] = across[2] / np.float32(wefts / aspect)
            out.chance[k], out.number[k] = of_across[j], warps + j
            out.along[k], out.across[k] = x, fy


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
    rise = 1.0 if here else 0.0
    if here != there:
        t = abs(part - 0.5)  # 0 over the crossing, 0.5 half-way to the next
        share = 0.5 - 0.5 * cosine_of_turn(np.float32(0.5 * t))
        rise += share if there else -share
    uneven = yarns.unevenness * (np.float64(chance) - 0.5)
    half = 0.5 * yarns.width * (1 + 0.5 * uneven)
    away = abs(across - 0.5)
    size = max(np.float64(sample), 1e-6)
    cover = min(max((half - away) / size + 0.5, 0.0), 1.0)
    if cover == 0.0:
        return np.float32(0.0), np.float32(0.0), np.float32(half - away)
    out = away / half
    flank = math.sqrt(max(1 - out * out, 0.0))
    flat = min(max((1 - out) * 4, 0.0), 1.0)
    body = flat + yarns.roundness * (flank - flat)
    if yarns.twist > 0:
        turn = yarns.twists * (along + 1.6 * (across - 0.5))
        groove = 0.5 + 0.5 * cosine_of_turn(np.float32(turn - np.floor(turn)))
        carve = min(max(1 - size * yarns.twists * 1.2, 0.0), 1.0)  # finer than a sample, grooves go
        body *= 1 - 0.35 * yarns.twist * (0.5 + carve * (groove - 0.5))
    lifted = 0.5 * body + 0.5 * yarns.bow * rise * min(1.0, body * 3)
    height = lifted / ((0.5 + 0.5 * yarns.bow) * (1 + 0.2 * yarns.unevenness)) * (1 + 0.4 * uneven)
    return np.float32(height * cover), np.float32(cover), np.float32(half - away)
