"""Contours of a map around the tile: every one comes back to where it began, or whole tiles from there.

Marching squares, after W. Lorensen and H. Cline, *Marching cubes* (1987), in two dimensions. On a map that
wraps, each crossed side of a square has just one line in and one out, so that lines need only be followed.
"""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel


def contours_of(map: np.ndarray, level: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The lines along a level, with what is higher at their left.

    Parameters
    ----------
    map : (H, W) float32
    level : float

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
    link_sides(map, np.float32(level), follows)
    crossed = int(np.count_nonzero(follows >= 0))
    line = np.empty(2 * crossed + 1, np.int64)
    x, y = np.empty(len(line)), np.empty(len(line))
    used = walk(map, np.float32(level), follows, line, x, y)
    return line[:used], x[:used], y[:used]


@inlined
def _side(j, i, down, height, width):  # type: ignore[no-untyped-def]
    """The number of the side that runs from a sample to the right, or downwards."""
    return 2 * ((j % height) * width + i % width) + down


@kernel
def link_sides(map, level, follows):  # type: ignore[no-untyped-def]
    """For each side that a line crosses, the one it crosses next: `follows` (2 H W,) int64, or -1."""
    height, width = map.shape
    for j in range(height):
        for i in range(width):
            a, b = map[j, i] > level, map[j, (i + 1) % width] > level
            d, c = map[(j + 1) % height, i] > level, map[(j + 1) % height, (i + 1) % width] > level
            top, left = _side(j, i, 0, height, width), _side(j, i, 1, height, width)
            low, right = _side(j + 1, i, 0, height, width), _side(j, i + 1, 1, height, width)
            high = int(a) + int(b) + int(c) + int(d)
            if high in (0, 4):
                continue
            if high == 2 and a == c:  # two lines; the middle tells which corners belong together
                middle = (map[j, i] + map[j, (i + 1) % width]) + (
                    map[(j + 1) % height, i] + map[(j + 1) % height, (i + 1) % width]
                )
                joined = middle > np.float32(4) * level
                if a:
                    # a and c are high: with a high middle the low corners b and d are cut off, else a and c.
                    if joined:
                        follows[right], follows[left] = top, low
                    else:
                        follows[left], follows[right] = top, low
                elif joined:
                    follows[top], follows[low] = left, right
                else:
                    follows[top], follows[low] = right, left
                continue
            # One line: in over the side whose first corner, clockwise, is high, out where it is low.
            start, end = 0, 0
            if a and not b:
                end = top
            if b and not a:
                start = top
            if b and not c:
                end = right
            if c and not b:
                start = right
            if c and not d:
                end = low
            if d and not c:
                start = low
            if d and not a:
                end = left
            if a and not d:
                start = left
            follows[start] = end


@kernel
def walk(map, level, follows, line, x, y):  # type: ignore[no-untyped-def]
    """Follow all lines; returns how many corners there are.

    Parameters
    ----------
    map : (H, W) float32
    level : float32
    follows : (2 H W,) int64
        Emptied.
    line, x, y : (n,) int64 and float64
        Filled.
    """
    height, width = map.shape
    used, number = 0, 0
    for first in range(follows.shape[0]):
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
    return used
