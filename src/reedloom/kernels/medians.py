"""Medians over a box by running histograms: each costs what its levels do, however large the box.

After S. Perreault and P. Hébert, *Median filtering in constant time*, 2007: every column keeps a histogram of
the box's rows, and a row's box adds one column's and takes another's away. Counts are whole numbers, so
that nothing gathers on the way; a tone between two levels counts in both by its share, and the outermost
samples of a box count by theirs.
"""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel

MOST = 2**30
"""What the counts of a box may add up to."""


def unit_of(radius_u: float, radius_v: float) -> int:
    """What one sample counts in the middle of a box: a power of two, as large as its counts allow.

    Parameters
    ----------
    radius_u, radius_v : float
        Samples to each side.

    Returns
    -------
    int, from 1
    """
    area = (2 * radius_u + 3) * (2 * radius_v + 3)
    return int(2 ** max(0, np.floor(np.log2(MOST / area))))


@inlined
def _count(histograms, source, y, low, per_level, unit):  # type: ignore[no-untyped-def]
    """Add a row's tones to its columns' histograms, each times `unit`, which may be below 0."""
    last = histograms.shape[1] - 2
    row = source[y % source.shape[0]]
    for x in range(row.shape[0]):
        at = (row[x] - low) * per_level
        cell = min(max(np.int32(at), np.int32(0)), np.int32(last))
        share = np.int32(min(max(at - np.float32(cell), np.float32(0.0)), np.float32(1.0)) * unit)
        histograms[x, cell] += unit - share
        histograms[x, cell + 1] += share


@inlined
def _add(total, histogram, weight):  # type: ignore[no-untyped-def]
    for k in range(total.shape[0]):
        total[k] += weight * histogram[k]


@kernel
def median_rows(source, radius, low, step, unit, out, y0, y1):  # type: ignore[no-untyped-def]
    """The median of the box about each sample, between levels by straight lines.

    Parameters
    ----------
    source : (H, W) float32
    radius : (float, float)
        Samples to each side, across and down; a part of one counts by its share.
    low, step : float32
        The lowest level, and how far levels are apart.
    unit : (int32, int)
        What one sample counts (`unit_of`), and how many levels there are above the lowest.
    out : (H, W) float32
        Rows y0 to y1 are filled.
    """
    width = source.shape[1]
    whole_u, whole_v = int(radius[0]), int(radius[1])
    one, levels = unit
    per_level = np.float32(1.0) / step
    # Shares of the outermost columns are counted in 1024ths, those of the outermost rows in the histograms.
    part_u = np.int32((radius[0] - whole_u) * 1024 + 0.5)
    part_v = np.int32((radius[1] - whole_v) * one + 0.5)
    full = np.int32(1024)
    columns = np.zeros((width, levels + 1), np.int32)
    box = np.zeros(levels + 1, np.int64)
    for k in range(-whole_v, whole_v + 1):
        _count(columns, source, y0 + k, low, per_level, one)
    for y in range(y0, y1):
        if y > y0:
            _count(columns, source, y + whole_v, low, per_level, one)
            _count(columns, source, y - whole_v - 1, low, per_level, -one)
        if part_v:
            _count(columns, source, y + whole_v + 1, low, per_level, part_v)
            _count(columns, source, y - whole_v - 1, low, per_level, part_v)
        box[:] = 0
        for k in range(-whole_u, whole_u + 1):
            _add(box, columns[k % width], full)
        left, right = columns[(-whole_u - 1) % width], columns[(whole_u + 1) % width]
        _add(box, left, part_u)
        _add(box, right, part_u)
        half = np.int64(0)
        for k in range(box.shape[0]):
            half += box[k]
        half //= 2
        for x in range(width):
            out[y, x] = low + step * _middle(box, half)
            # One on: what was inside on the left goes out by its share, what was outside comes in.
            gone, leaving = columns[(x - whole_u - 1) % width], columns[(x - whole_u) % width]
            coming, beyond = columns[(x + whole_u + 1) % width], columns[(x + whole_u + 2) % width]
            for k in range(box.shape[0]):
                box[k] += full * (coming[k] - leaving[k]) + part_u * (
                    beyond[k] - coming[k] + leaving[k] - gone[k]
                )
        if part_v:
            _count(columns, source, y + whole_v + 1, low, per_level, -part_v)
            _count(columns, source, y - whole_v - 1, low, per_level, -part_v)


@inlined
def _middle(box, half):  # type: ignore[no-untyped-def]
    """Where half of what was counted lies below, in levels from the lowest one.

    What lies at a level counts as spread evenly from half a level below it to half a level above.
    """
    below = np.int64(0)
    last = box.shape[0] - 1
    for k in range(last):
        count = box[k]
        if below + count >= half:
            at = np.float64(k) - 0.5 + (half - below) / np.float64(count)
            return np.float32(min(max(at, 0.0), np.float64(last)))
        below += count
    return np.float32(last)
