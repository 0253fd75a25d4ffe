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
WHOLE = 1024
"""What a whole column's counts are multiplied by; those of the outermost by their share of it."""
TOGETHER = 32
"""Levels that are worked on at once."""


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
def _count(histogram, tone, levels, amount):  # type: ignore[no-untyped-def]
    """Add a tone, in levels from the lowest one, to a histogram so many times, which may be below 0."""
    cell = min(max(np.int32(tone), np.int32(0)), np.int32(levels - 1))
    share = np.int32(min(max(tone - np.float32(cell), np.float32(0.0)), np.float32(1.0)) * amount)
    histogram[cell] += amount - share
    histogram[cell + 1] += share


@inlined
def _count_rows(columns, source, y, tones, count):  # type: ignore[no-untyped-def]
    """Add the tones of rows y and y + 1 to their columns' histograms, each so many times.

    Parameters
    ----------
    columns : (W, more than levels) int32
    source : (H, W) float32
    y : int
        Around the map's border.
    tones : (float32, float32, int)
        The lowest tone, levels to a tone, and how many levels there are.
    count : (int32, int32)
        How many times; below 0 they are taken away.
    """
    low, per_level, levels = tones
    above, below = source[y % source.shape[0]], source[(y + 1) % source.shape[0]]
    for x in range(source.shape[1]):
        if count[0]:
            _count(columns[x], (above[x] - low) * per_level, levels, count[0])
        if count[1]:
            _count(columns[x], (below[x] - low) * per_level, levels, count[1])


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
    tones = (low, np.float32(1.0) / step, levels)
    # Shares of the outermost columns are counted in 1024ths, those of the outermost rows in the histograms.
    part_u = np.int64((radius[0] - whole_u) * WHOLE + 0.5)
    part_v = np.int32((radius[1] - whole_v) * one + 0.5)
    rest_v, none = np.int32(one - part_v), np.int32(0)
    room = (levels + TOGETHER) // TOGETHER * TOGETHER
    columns, box = np.zeros((width, room), np.int32), np.empty(room, np.int32)
    last = np.int32(levels)
    for k in range(-whole_v, whole_v + 1):
        _count_rows(columns, source, y0 + k, tones, (one, none))
    _count_rows(columns, source, y0 - whole_v - 1, tones, (part_v, none))
    _count_rows(columns, source, y0 + whole_v + 1, tones, (part_v, none))
    middle = np.int32(0)
    for y in range(y0, y1):
        if y > y0:  # one row comes in by its share, the next by the rest of it, and so they go
            _count_rows(columns, source, y + whole_v, tones, (rest_v, part_v))
            _count_rows(columns, source, y - whole_v - 2, tones, (np.int32(-part_v), np.int32(-rest_v)))
        box[:] = 0
        for k in range(-whole_u, whole_u + 1):
            _add(box, columns[k % width])
        goes, comes = (-whole_u) % width, (whole_u + 1) % width
        before = (-whole_u - 1) % width
        half = np.int64(0)
        for k in range(room):
            half += WHOLE * box[k] + part_u * (columns[before, k] + columns[comes, k])
        half //= 2
        below, beside = np.int32(0), np.int32(0)
        for k in range(middle):
            below = np.int32(below + box[k])
            beside = np.int32(beside + columns[before, k] + columns[comes, k])
        for x in range(width):
            rest = half - np.int64(WHOLE) * below - part_u * beside
            sides = columns[before], columns[comes], part_u
            middle, below, level = _seek(box, sides, rest, middle, below, last)
            out[y, x] = low + step * np.float32(level)
            before, after = goes, comes + 1 if comes + 1 < width else 0
            below, beside = _slide(box, (columns[comes], columns[goes], columns[after]), middle, below)
            goes, comes = goes + 1 if goes + 1 < width else 0, after


@inlined
def _add(total, histogram):  # type: ignore[no-untyped-def]
    for k in range(total.shape[0]):
        total[k] += histogram[k]


@inlined
def _seek(box, sides, rest, middle, below, last):  # type: ignore[no-untyped-def]
    """Go from a level to where half of what was counted lies below.

    What lies at a level counts as spread evenly from half a level below it to half a level above.

    Parameters
    ----------
    box : (room,) int32
        What whole columns count at each level.
    sides : ((room,) int32, (room,) int32, int64)
        The columns left and right of them, and what those are multiplied by.
    rest : int64
        How much less than half counts below the level; below 0 if it is more.
    middle : int32
        The level.
    below : int32
        What whole columns count below it.
    last : int32
        The highest level.

    Returns
    -------
    (int32, int32, float64), the level, what whole columns count below it, and the place in levels
    """
    here = _weight(box, sides, middle)
    while middle > 0 and rest <= 0:
        middle = np.int32(middle - 1)
        below = np.int32(below - box[middle])
        here = _weight(box, sides, middle)
        rest += here
    while middle < last and here < rest:
        rest -= here
        below = np.int32(below + box[middle])
        middle = np.int32(middle + 1)
        here = _weight(box, sides, middle)
    level = np.float64(middle)
    if middle < last:
        level += rest / np.float64(here) - 0.5
    return middle, below, min(max(level, 0.0), np.float64(last))


@inlined
def _weight(box, sides, level):  # type: ignore[no-untyped-def]
    """What counts at a level: of whole columns, and of those beside them by their share."""
    left, right, part = sides
    return np.int64(WHOLE) * box[level] + part * (left[level] + right[level])


@inlined
def _slide(box, columns, middle, below):  # type: ignore[no-untyped-def]
    """Move a box of whole columns on by one; returns what then counts below a level.

    Parameters
    ----------
    box : (room,) int32
        What counts at each level in it.
    columns : three times (room,) int32
        Of those that come and go, and of the one that comes next.
    middle : int32
        The level.
    below : int32
        What counted below it in the box.

    Returns
    -------
    (int32, int32), of the box, and of the columns left and right of it
    """
    comes, goes, after = columns
    beside = np.int32(0)
    for k in range(box.shape[0]):
        new, old, coming = comes[k], goes[k], after[k]
        box[k] = np.int32(box[k] + np.int32(new - old))
        is_below = np.int32(k) < middle
        below = np.int32(below + (np.int32(new - old) if is_below else np.int32(0)))
        beside = np.int32(beside + (np.int32(old + coming) if is_below else np.int32(0)))
    return below, beside
