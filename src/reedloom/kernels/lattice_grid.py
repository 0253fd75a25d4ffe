"""Gradient and value noise on the tile's own grid: rows of one octave, run after run of samples in a cell."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from reedloom.kernels.cells import GridColumns
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.kept import COUNT
from reedloom.kernels.lattice import FADE_POWERS, Lattice, faded


class FadedColumns(NamedTuple):
    """Where a row's samples fall among a lattice's columns, worked out once for all rows.

    Attributes
    ----------
    columns : GridColumns
        Of the lattice's cells.
    weights : (W,) float32
        Each sample's place in its cell, faded.
    """

    columns: GridColumns
    weights: np.ndarray

    @classmethod
    def of(cls, lattice: Lattice, width: int) -> FadedColumns:
        """For rows of `width` samples."""
        return _faded_columns(lattice.columns, lattice.shift[0], lattice.fade, width)


@lru_cache(COUNT)
def _faded_columns(count: int, shift: float, fade: int, width: int) -> FadedColumns:
    columns = GridColumns.of(count, width, shift)
    weights = np.zeros_like(columns.fractions)
    for power in FADE_POWERS[fade][::-1]:
        weights = (weights + power) * columns.fractions
    return FadedColumns(columns, weights)


@kernel
def add_lattice_rows(corners, across, height, amount, out, y0, y1):  # type: ignore[no-untyped-def]
    """Add one octave to rows of a map on the tile's own grid.

    Parameters
    ----------
    corners : Corners
        With planes.
    across : FadedColumns
    height : int
        Rows in the whole tile.
    amount : float32
        What the octave is multiplied by.
    out : (y1 - y0, W) float32
        Just the band's rows.

    Within a row the two corner planes beside a cell are first mixed down the cell, so that the
    samples of the cell cost two lines and one mix each, in a loop without look-ups.
    """
    planes, columns, rows, _, shift_v, fade = corners
    (fractions, starts, cells), weights = across
    table_rows, table_columns = planes.shape[0] - 1, planes.shape[1] - 1
    for y in range(y0, y1):
        v = (y + 0.5) * rows / height + shift_v
        row = int(v)
        fy = np.float32(v - row)
        wy = faded(fy, FADE_POWERS, fade, 0)
        gy = fy - np.float32(1.0)
        upper = planes[row % rows % table_rows]
        lower = planes[(row + 1) % rows % table_rows]
        line = out[y - y0]
        k = np.uint32(cells[0] % table_columns)
        right, right_rise = _line(upper, lower, k, fy, gy, wy, amount)
        for run in range(cells.shape[0]):
            left, left_rise = right, right_rise  # runs follow one another, and so do their corners
            n = np.uint32(cells[run]) + np.uint32(1)
            if columns > table_columns:  # only then, since division takes as long as a run of some samples
                n = np.uint32((cells[run] + 1) % columns % table_columns)
            right, right_rise = _line(upper, lower, n, fy, gy, wy, amount)
            # The right corner's line starts one cell on; what parts it from the left one is mixed in.
            apart = right - right_rise - left
            rise_apart = right_rise - left_rise
            for x in range(np.uint64(starts[run]), np.uint64(starts[run + 1])):
                fx = fractions[x]
                line[x] += left + left_rise * fx + weights[x] * (apart + rise_apart * fx)


@inlined
def _line(above, below, k, fy, gy, wy, amount):  # type: ignore[no-untyped-def]
    """Two planes of a column above one another, mixed down: what they give below the corner, and the rise."""
    mixed = (above[k, 0] + wy * (below[k, 0] - above[k, 0])) * amount
    if above.shape[1] == 1:
        return mixed, np.float32(0.0)
    top, bottom = above[k, 1] * fy, below[k, 1] * gy
    return (top + wy * (bottom - top)) * amount, mixed
