"""Overlapping scales in rows: which lies uppermost at given places, and what it lies on."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import around, in_tile

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
    half, zero = np.float32(0.5), np.float32(0)
    per_length, per_column = 1.0 / np.float64(length), 1.0 / columns
    for k in range(places.shape[0]):
        y = in_tile(places[k, 1]) * np.float32(rows)
        covered = False
        top = 0.0
        for step in range(REACH):
            j = math.floor(y) - step
            row = around(j, rows)
            down = (np.float64(y) - j) * per_length  # 0 at the scale's root, 1 at its end
            x = in_tile(places[k, 0]) * np.float32(columns) - (half if row % 2 == 1 else zero)
            i = math.floor(x)
            column = around(i, columns)
            across = np.float64(x) - i - 0.5
            if step > 0 and (down > 1.0 or not there[row, column]):
                continue
            left = (1.0 - down) * length * tall
            inward = _scale_inward(across, left, roundness, point) * per_column
            covers = inward > 0.0 and down <= 1.0 and there[row, column]
            if covers or step == 0:
                numbers[k] = row * columns + column
                us[k], vs[k] = across + 0.5, down
                inwards[k] = inward if covers else -1e-3
                beneaths[k] = top if covers else 0.0
            if covers:
                part = np.float64(uneven[row, column])
                covered = True
                top = (1.0 - tilt * (1.0 - part) * (1.0 - down)) * (1.0 - np.float32(0.35) * part)
        raiseds[k] = top if covered else 0.0


@inlined
def _scale_inward(across, left, roundness, point):  # type: ignore[no-untyped-def]
    """Distance inward to a scale's side or lower end, in widths of a scale.

    across : -0.5..0.5 of its width; left : how far its lower end still is, in widths.
    """
    round_ = np.float64(np.float32(0.5) * roundness)
    side = 0.5 - abs(across)
    end = left / np.float64(np.float32(1) + np.float32(0.8) * point)
    if side < round_ and end < round_:
        return round_ - math.sqrt((round_ - side) ** 2 + (round_ - end) ** 2)
    return min(side, left)
