"""Cells of one value each, averaged over what a sample covers."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.lattice_lanes import RING
from reedloom.kernels.mosaic_lanes import average_row
from reedloom.kernels.places import in_tile, part_places
from reedloom.kernels.vectors import LANES


@inlined
def _two_cells(x, half):  # type: ignore[no-untyped-def]
    """The first of the cells at both ends of x ± half, and the share of that way that lies in the second."""
    first = np.floor(x - half)
    beyond = (x + half - first - np.float32(1.0)) / max(half + half, np.float32(1e-9))
    return np.int32(first), min(max(beyond, np.float32(0.0)), np.float32(1.0))


@inlined
def _near(cell, count):  # type: ignore[no-untyped-def]
    """`around` of a cell that is at most one beyond either end, without a branch; any other is held."""
    cell = cell + count if cell < 0 else cell - count if cell >= count else cell
    return max(min(np.int32(cell), np.int32(count - 1)), np.int32(0))


def ringed(values: np.ndarray) -> np.ndarray:
    """Cells (rows, columns) with the first ones again at the end, as `average_grid` takes them."""
    return np.pad(values, ((0, RING[1]), (0, RING[0])), mode="wrap")


@kernel
def average_grid(place, footprint, aspect, table, out):  # type: ignore[no-untyped-def]
    """`average_cells` of rows none of which is moved, sixteen samples at once.

    Parameters
    ----------
    place, footprint, aspect, out
        As there.
    table : (rows + 3, columns + 16) float32
        From `ringed`.
    """
    rows, columns = table.shape[0] - RING[1], table.shape[1] - RING[0]
    numbers = np.array([columns, rows, columns, rows / aspect], np.float32)
    each = footprint.shape[0] * footprint.shape[1] > 1
    width, start = np.int64(out.shape[1]), np.int64(0)
    flat, wide = table.reshape(-1), np.int32(table.shape[1])
    # Room for what is left of a row, which is averaged along with samples that nobody sees.
    last = width - width % LANES
    pairs, few = np.zeros(2 * LANES, np.float32), np.zeros(LANES, np.float32)
    reach, plain = np.zeros(LANES, np.float32), np.full(width, footprint[0, 0])
    for y in range(out.shape[0]):
        places, covered = place[y].reshape(-1), footprint[y] if each else plain
        average_row(flat, places, covered, out[y], start, width, wide, numbers)
        for x in range(width - last):
            reach[x] = covered[last + x]
            pairs[2 * x], pairs[2 * x + 1] = places[2 * (last + x)], places[2 * (last + x) + 1]
        if last < width:
            average_row(flat, pairs, reach, few, start, np.int64(LANES), wide, numbers)
        for x in range(width - last):
            out[y, last + x] = few[x]


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
    rows, columns = np.int32(values.shape[0]), np.int32(values.shape[1])
    wide, high, half, one = np.float32(columns), np.float32(rows), np.float32(0.5), np.float32(1.0)
    width, flat = out.shape[1], values.reshape(-1)
    each = footprint.shape[0] * footprint.shape[1] > 1
    reach = np.full(width, footprint[0, 0])
    first, column = np.empty(width, np.int32), np.empty(width, np.int32)
    left, right = np.empty(width, np.int32), np.empty(width, np.int32)
    u, v, moved = np.empty(width, np.float32), np.empty(width, np.float32), np.empty(width, np.float32)
    below, beyond = np.empty(width, np.float32), np.empty(width, np.float32)
    for y in range(out.shape[0]):
        pairs, line = place[y].reshape(-1), out[y]
        if each:
            for x in range(width):
                reach[x] = footprint[y, x]
        part_places(pairs, u, v)
        for x in range(width):  # loops over few arrays and without look-ups become vectors
            u[x], v[x] = in_tile(u[x]) * wide, in_tile(v[x]) * high
        for x in range(width):
            first[x], below[x] = _two_cells(v[x], min(reach[x] * half * high / aspect, half))
        line[:] = np.float32(0.0)
        for step in range(2):
            for x in range(width):
                left[x] = _near(first[x] + np.int32(step), rows)
            for x in range(width):
                moved[x] = shifts[left[x]]
            for x in range(width):
                along = u[x] - moved[x]
                along -= np.floor(along / wide) * wide
                column[x], beyond[x] = _two_cells(along, min(reach[x] * half * wide, half))
            for x in range(width):
                start = left[x] * columns
                left[x] = start + _near(column[x], columns)
                right[x] = start + _near(column[x] + np.int32(1), columns)
            for x in range(width):
                share = below[x] if step == 1 else one - below[x]
                if share > 0.0:
                    before = flat[left[x]]
                    line[x] += share * (before + beyond[x] * (flat[right[x]] - before))
