"""Overlapping scales in rows: which lies uppermost at given places, and what it lies on."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import cell_in, in_tile, part_places

REACH = 3
"""Rows that may cover one place."""
AT_ONCE = 256
"""Places that are looked at together."""


class Rows(NamedTuple):
    """How scales are laid, as the loops read it.

    Attributes
    ----------
    uneven : (rows, columns) float32
        How much each departs from the others, 0 to 1; below 0 where one is missing.
    length : float32
        Of a scale, in rows.
    tall : float32
        A row's height in widths of a scale.
    roundness, point, tilt : float32
        Of the lower corners, 0 to 1; of the lower end; how much higher a scale's end lies than its root.
    """

    uneven: np.ndarray
    length: np.float32
    tall: np.float32
    roundness: np.float32
    point: np.float32
    tilt: np.float32


@kernel
def find_scales(places, laid, out):  # type: ignore[no-untyped-def]
    """Find the uppermost scale at each place, from the lowest row that reaches there up.

    Parameters
    ----------
    places : (n, 2) float32
        In tiles.
    laid : Rows
    out : Elements
        Filled; lengths in tiles.
    """
    # Each step is a loop of its own, over few arrays that are all read before it is chosen between them: of
    # those the compiler makes vectors.
    shape, pairs, uneven = laid.uneven.shape, places.reshape(-1), laid.uneven.reshape(-1)
    rows, columns, one = np.int32(shape[0]), np.float32(shape[1]), np.float32(1.0)
    numbers, lines = np.empty((3, AT_ONCE), np.int32), np.empty((6, AT_ONCE), np.float32)
    for first in range(0, places.shape[0], AT_ONCE):
        last = min(first + AT_ONCE, places.shape[0])
        n = last - first
        row, scale, covers = numbers[0, :n], numbers[1, :n], numbers[2, :n]
        u, v, across, down = lines[0, :n], lines[1, :n], lines[2, :n], lines[3, :n]
        part, rise = lines[4, :n], lines[5, :n]
        number, own_u, own_v = out.number[first:last], out.u[first:last], out.v[first:last]
        away, beneath, raised = out.inward[first:last], out.beneath[first:last], out.raised[first:last]
        part_places(pairs[2 * first : 2 * last], u, v)
        for k in range(n):
            u[k] = in_tile(u[k]) * columns
        for k in range(n):
            at = in_tile(v[k]) * np.float32(rows)
            row[k] = cell_in(at, rows)
            v[k] = at - np.float32(row[k])
        away[:], beneath[:], raised[:] = np.float32(-1e-3), np.float32(0.0), np.float32(0.0)
        for step in range(REACH):
            _find_scale(u, row, np.int32(step), shape, scale, across)
            for k in range(n):
                part[k] = uneven[np.uint32(scale[k])]
            for k in range(n):  # 0 at the scale's root, 1 at its end
                down[k] = (v[k] + np.float32(step)) / laid.length
            _measure_scale(across, down, laid, rise)
            for k in range(n):
                inward, below, there = rise[k], down[k], part[k]
                is_there = (inward > np.float32(0.0)) & (below <= one) & (there >= np.float32(0.0))
                covers[k] = np.int32(is_there)
            _take(covers, rise, away)
            _take(covers, raised, beneath)
            _measure_height(part, down, laid.tilt, rise)
            _take(covers, rise, raised)
            if step == 0:
                covers[:] = 1
            _take(covers, scale, number)
            _take(covers, across, own_u)
            _take(covers, down, own_v)
        for k in range(n):
            own_u[k] += np.float32(0.5)


@inlined
def _take(which, given, kept):  # type: ignore[no-untyped-def]
    """Put the numbers of one line into another where `which` is not 0."""
    for k in range(kept.shape[0]):
        chosen, new, old = which[k], given[k], kept[k]
        kept[k] = new if chosen else old


@inlined
def _find_scale(u, row, step, shape, scale, across):  # type: ignore[no-untyped-def]
    """The scale from so many rows above that may cover each place, and where across it, -0.5 to 0.5."""
    rows, columns, half = np.int32(shape[0]), np.int32(shape[1]), np.float32(0.5)
    for k in range(scale.shape[0]):
        at, above = u[k], row[k] - step
        above = above + rows if above < 0 else above
        at -= half * np.float32(above & np.int32(1))
        whole = np.floor(at)
        across[k] = at - whole - half
        column = np.int32(whole)
        column = column + columns if column < 0 else column
        column = column - columns if column >= columns else column
        # Held at both ends, for places that are no numbers.
        scale[k] = above * columns + max(min(column, columns - np.int32(1)), np.int32(0))


@inlined
def _measure_scale(across, down, laid, inward):  # type: ignore[no-untyped-def]
    """Distances inward to a scale's side or lower end, in tiles; across : -0.5 to 0.5 of its width."""
    half, one = np.float32(0.5), np.float32(1.0)
    # The radius of the lower corners, and the share of what is left down to the end that counts there.
    round_, blunt = half * laid.roundness, one / (one + np.float32(0.8) * laid.point)
    high, per_column = laid.length * laid.tall, one / np.float32(laid.uneven.shape[1])
    for k in range(inward.shape[0]):
        left = (one - down[k]) * high
        side, end = half - abs(across[k]), left * blunt
        a, b = max(round_ - side, np.float32(0.0)), max(round_ - end, np.float32(0.0))
        corner, straight = round_ - np.float32(math.sqrt(a * a + b * b)), min(side, left)
        is_corner = (side < round_) & (end < round_)
        inward[k] = (corner if is_corner else straight) * per_column


@inlined
def _measure_height(part, down, tilt, height):  # type: ignore[no-untyped-def]
    """How high scales lie at places from their roots to their ends."""
    one = np.float32(1.0)
    for k in range(height.shape[0]):
        uneven = part[k]
        height[k] = (one - tilt * (one - uneven) * (one - down[k])) * (one - np.float32(0.35) * uneven)
