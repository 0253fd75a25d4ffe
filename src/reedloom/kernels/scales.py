"""Overlapping scales in rows: which lies uppermost at given places, and what it lies on."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import around, cell_in, in_tile

REACH = 3
"""Rows that may cover one place."""


class Rows(NamedTuple):
    """How scales are laid, as the loops read it.

    Attributes
    ----------
    there : (rows, columns) bool
        Which scales are not missing.
    uneven : (rows, columns) float32
        How much each departs from the others.
    length : float32
        Of a scale, in rows.
    tall : float32
        A row's height in widths of a scale.
    roundness, point, tilt : float32
        Of the lower corners, 0 to 1; of the lower end; how much higher a scale's end lies than its root.
    """

    there: np.ndarray
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
    there, uneven, length, tall, roundness, point, tilt = laid
    inwards, numbers, us, vs, raiseds, beneaths = out
    rows, columns = there.shape
    half, zero, one = np.float32(0.5), np.float32(0), np.float32(1)
    per_length, per_column = one / length, one / np.float32(columns)
    round_, blunt = half * roundness, one / (one + np.float32(0.8) * point)
    for k in range(places.shape[0]):
        u, v = in_tile(places[k, 0]) * np.float32(columns), in_tile(places[k, 1]) * np.float32(rows)
        below = cell_in(v, rows)
        from_root = v - np.float32(below)
        column, shifted = _column(u, columns), _column(u - half, columns)
        covered, top = False, zero
        for step in range(REACH):
            row = around(below - step, rows)
            down = (from_root + np.float32(step)) * per_length  # 0 at the scale's root, 1 at its end
            i, across = shifted if row % 2 == 1 else column
            if step > 0 and (down > one or not there[row, i]):
                continue
            inward = _scale_inward(across, (one - down) * length * tall, round_, blunt) * per_column
            covers = inward > zero and down <= one and there[row, i]
            if covers or step == 0:
                numbers[k] = row * columns + i
                us[k], vs[k] = across + half, down
                inwards[k] = inward if covers else np.float32(-1e-3)
                beneaths[k] = top if covers else zero
            if covers:
                part = uneven[row, i]
                covered = True
                top = (one - tilt * (one - part) * (one - down)) * (one - np.float32(0.35) * part)
        raiseds[k] = top if covered else zero


@inlined
def _column(u, columns):  # type: ignore[no-untyped-def]
    """The column of a place so many widths from the left, and where it is across it, -0.5 to 0.5."""
    i = np.int32(np.floor(u))
    across = u - np.float32(i) - np.float32(0.5)
    return around(i, columns), across


@inlined
def _scale_inward(across, left, round_, blunt):  # type: ignore[no-untyped-def]
    """Distance inward to a scale's side or lower end, in widths of a scale.

    across : -0.5..0.5 of its width; left : how far its lower end still is, in widths; round_ : the radius of
    the lower corners; blunt : the share of what is left that counts there.
    """
    side, end = np.float32(0.5) - abs(across), left * blunt
    if side < round_ and end < round_:
        a, b = round_ - side, round_ - end
        return round_ - np.float32(math.sqrt(a * a + b * b))
    return min(side, left)
