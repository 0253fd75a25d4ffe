"""Cells of one value each, averaged over what a sample covers."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import around, in_tile


@inlined
def _two_cells(x, half):  # type: ignore[no-untyped-def]
    """The first of the cells at both ends of x ± half, and the share of that way that lies in the second."""
    first = np.floor(x - half)
    beyond = (x + half - first - np.float32(1.0)) / max(half + half, np.float32(1e-9))
    return np.int32(first), min(max(beyond, np.float32(0.0)), np.float32(1.0))


@kernel
def average_cells(place, footprint, aspect, shifts, values, out):  # type: ignore[no-untyped-def]
    """Each sample's mean over up to two rows of two cells.

    Parameters
    ----------
    place : (n, W, 2) float32
        In tiles.
    footprint : (n, W) or (1, 1) float32
        How far each sample reaches, in widths; beyond a cell no more of it is averaged.
    aspect : float32
        The tile's height in widths.
    shifts : (rows,) float32
        How far each row of cells is moved to the right, in cells.
    values : (rows, columns) float32
    out : (n, W) float32
        Filled.
    """
    rows, columns = values.shape
    wide, high, half, one = np.float32(columns), np.float32(rows), np.float32(0.5), np.float32(1.0)
    each = 1 if footprint.shape[0] * footprint.shape[1] > 1 else 0
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            reach = footprint[y * each, x * each] * half
            row, below = _two_cells(in_tile(place[y, x, 1]) * high, min(reach * high / aspect, half))
            u, side = in_tile(place[y, x, 0]) * wide, min(reach * wide, half)
            total = np.float32(0.0)
            for step in range(2):
                share = below if step == 1 else one - below
                if share > 0.0:
                    j = around(row + step, rows)
                    column, beyond = _two_cells(u - shifts[j], side)
                    first, second = values[j, around(column, columns)], values[j, around(column + 1, columns)]
                    total += share * (first + beyond * (second - first))
            out[y, x] = total
