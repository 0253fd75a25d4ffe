"""Where the samples of a row lie among cells, and the runs of neighbours that lie in one cell.

Neighbours in a row mostly share a cell, on the tile's own grid as well as at smoothly bent places or inside
elements. What a loop over cells needs to know of a cell and those around it is looked up once for such a
run, whose samples then go through loops without look-ups, which the compiler turns into vectors. Loops take
a run as its first sample and the one after its last: to cut out a part of an array, or to take one out of a
tuple, costs as much as several samples, and runs may be of one.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.place_lanes import locate_cells
from reedloom.kernels.places import cell_in, in_tile

FINENESS = 65536
"""Into how many parts `span` cuts one."""


class RowCells(NamedTuple):
    """Where a row's samples lie.

    Attributes
    ----------
    cell : (W,) int32
        column + columns × row of each one's cell.
    column, row : (W,) int32
    u, v : (W,) float32
        Where it lies in that, 0 to 1.
    cells, parts : (3, W) int32 and (2, W) float32
        The first three of these, and the last two.
    """

    cell: np.ndarray
    column: np.ndarray
    row: np.ndarray
    u: np.ndarray
    v: np.ndarray
    cells: np.ndarray
    parts: np.ndarray


@inlined
def row_cells(width):  # type: ignore[no-untyped-def]
    """Room for a row of so many samples."""
    whole, parts = np.empty((3, width), np.int32), np.empty((2, width), np.float32)
    return RowCells(whole[0], whole[1], whole[2], parts[0], parts[1], whole, parts)


@kernel
def locate(pairs, columns, rows, found):  # type: ignore[no-untyped-def]
    """Find the cells of a row's samples.

    Parameters
    ----------
    pairs : (2 W,) float32
        Places in tiles.
    columns, rows : int
        Cells across and down.
    found : RowCells
        Filled.
    """
    cell, column, row, across, down, cells, parts = found
    wide, high = np.float32(columns), np.float32(rows)
    counts = np.int32(columns), np.int32(rows)
    lines, n = (cells.reshape(-1), parts.reshape(-1)), np.int64(cell.shape[0])
    x = np.int64(locate_cells(pairs, counts[0], counts[1], lines[0], lines[1], np.int64(0), n))
    while x < n:
        u, v = pairs[2 * x], pairs[2 * x + 1]
        u, v = in_tile(u) * wide, in_tile(v) * high
        i, j = cell_in(u, columns), cell_in(v, rows)
        cell[x], column[x], row[x] = j * np.int32(columns) + i, i, j
        across[x], down[x] = u - np.float32(i), v - np.float32(j)
        x += 1


@inlined
def run_end(cell, start):  # type: ignore[no-untyped-def]
    """The first sample after `start` that lies in another cell."""
    end = start + 1
    while end < cell.shape[0] and cell[end] == cell[start]:
        end += 1
    return end


@inlined
def mean_run(cell):  # type: ignore[no-untyped-def]
    """How many samples a row's runs have, on average."""
    count = 1
    for x in range(cell.shape[0] - 1):
        count += 1 if cell[np.uint64(x + 1)] != cell[np.uint64(x)] else 0
    return cell.shape[0] / count


@inlined
def lay_out(found, ring, wide, u, v, cell):  # type: ignore[no-untyped-def]
    """What steps of several samples at once need of a row: where in a cell each is, and which, in a table.

    found : from `locate`; ring, wide : of the table, cells around the lattice and in a row with them; u, v,
    cell : as long as the row or longer, filled, beyond its end by its last sample.
    """
    last = found.cell.shape[0] - 1
    for x in range(cell.shape[0]):
        k = min(x, last)
        u[x], v[x] = found.u[k], found.v[k]
        cell[x] = (found.row[k] + ring) * wide + found.column[k] + ring


@inlined
def span(values, a, b):  # type: ignore[no-untyped-def]
    """Bounds of values a to b - 1, which lie about 0 to 1, wider by one part in `FINENESS`.

    In whole numbers, whose least and greatest are found in vectors.
    """
    low, high = np.int32(2147483647), np.int32(-2147483648)
    for x in range(np.uint64(a), np.uint64(b)):
        value = np.int32(values[x] * np.float32(FINENESS))
        low = min(low, value)
        high = max(high, value)
    return (np.float32(low) - np.float32(1)) / np.float32(FINENESS), (
        np.float32(high) + np.float32(1)
    ) / np.float32(FINENESS)


@inlined
def outside(low, high, at):  # type: ignore[no-untyped-def]
    """How far something at a place is outside of bounds, 0 within."""
    return max(low - at, at - high, np.float32(0.0))
