"""Contours of a map around the tile: every one comes back to where it began, or whole tiles from there.

Marching squares, after W. Lorensen and H. Cline, *Marching cubes* (1987), in two dimensions. On a map that
wraps, each crossed side of a square has just one line in and one out, so that lines need only be followed.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np

from reedloom.kernels.jit import kernel

STEPS = 64
"""Parts in which lines are followed, between which it is asked whether to stop."""


def contours_of(
    map: np.ndarray, level: float, bands: Callable[..., None], check: Callable[[], None]
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The lines along a level, with what is higher at their left.

    Parameters
    ----------
    map : (H, W) float32
    level : float
    bands : callable
        Runs band functions to the end.
    check : callable
        Raises when it is to stop.

    Returns
    -------
    line : (n,) int64
        The number of the line that each corner is on, one line after the other; the first corner stands once
        more at the end.
    x, y : (n,) float64
        In samples, from the middle of the first, running on beyond the map's border.
    """
    height, width = map.shape
    follows = np.full(2 * height * width, -1, np.int64)
    bands(lambda y0, y1: link_sides(map, np.float32(level), follows, y0, y1))
    crossed = int(np.count_nonzero(follows >= 0))
    line = np.empty(2 * crossed + 1, np.int64)
    x, y = np.empty(len(line)), np.empty(len(line))
    used, number, bounds = 0, 0, np.linspace(0, len(follows), STEPS + 1).astype(np.int64)
    for first, last in pairwise(bounds.tolist()):
        check()
        used, number = walk(map, np.float32(level), follows, (first, last, used, number), (line, x, y))
    return line[:used], x[:used], y[:used]


@kernel
def link_sides(map, level, follows, y0, y1):  # type: ignore[no-untyped-def]
    """For each side that a line crosses into a square of some rows, the one it crosses next.

    Parameters
    ----------
    map : (H, W) float32
    level : float32
    follows : (2 H W,) int64
        Filled where a line crosses; a side is crossed into one square only.
    y0, y1 : int
    """
    height, width = map.shape
    high, sides = np.empty(4, np.bool_), np.empty(4, np.int64)
    for j in range(y0, y1):
        below = (j + 1) % height
        for i in range(width):
            after = (i + 1) % width
            # Corners and sides clockwise from the upper left; side k lies between corners k and k + 1.
            high[0], high[1] = map[j, i] > level, map[j, after] > level
            high[2], high[3] = map[below, after] > level, map[below, i] > level
            sides[0], sides[1] = 2 * (j * width + i), 2 * (j * width + after) + 1
            sides[2], sides[3] = 2 * (below * width + i), 2 * (j * width + i) + 1
            # In a saddle, with two lines, a high middle joins the high corners: lines turn about low ones.
            middle = (map[j, i] + map[j, after]) + (map[below, i] + map[below, after])
            step = 3 if middle > np.float32(4) * level else 1
            for k in range(4):
                if high[k] or not high[(k + 1) % 4]:
                    continue
                end = (k + step) % 4  # a line comes in here, and goes out at the next side that falls
                while not high[end] or high[(end + 1) % 4]:
                    end = (end + step) % 4
                follows[sides[k]] = sides[end]


@kernel
def walk(map, level, follows, progress, out):  # type: ignore[no-untyped-def]
    """Follow the lines that cross some of the sides; returns how many corners and lines there are by then.

    Parameters
    ----------
    map : (H, W) float32
    level : float32
    follows : (2 H W,) int64
        Emptied.
    progress : (int, int, int, int)
        From which side to before which, and how many corners and lines there are already.
    out : line, x and y, (n,) int64 and float64
        Filled.
    """
    height, width = map.shape
    start, end, used, number = progress
    line, x, y = out
    for first in range(start, end):
        if follows[first] < 0:
            continue
        side, before_x, before_y, begun = first, 0.0, 0.0, used
        while True:
            sample = side // 2
            j, i = sample // width, sample % width
            other = map[(j + 1) % height, i] if side % 2 else map[j, (i + 1) % width]
            rise = float(other) - float(map[j, i])
            part = (float(level) - float(map[j, i])) / rise if rise != 0.0 else 0.5
            at_x = i + (0.0 if side % 2 else part)
            at_y = j + (part if side % 2 else 0.0)
            if used > begun:
                at_x -= width * np.floor((at_x - before_x) / width + 0.5)
                at_y -= height * np.floor((at_y - before_y) / height + 0.5)
            line[used], x[used], y[used] = number, at_x, at_y
            used += 1
            before_x, before_y = at_x, at_y
            after = follows[side]
            if after < 0:  # come round
                break
            follows[side] = -1
            side = after
        number += 1
    return used, number
