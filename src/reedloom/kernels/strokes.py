"""Strokes drawn along paths: for each sample the nearest place on each path, and the mean of what it covers.

Paths are drawn one after the other into bands of rows. Within a path the nearest of its pieces counts, so
that joints leave no mark; between paths the join does. Across a stroke the mean over a sample is exact for
a straight one of any thinness: a difference of areas below the profile, folded at the middle.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.forms import height_at, risen
from reedloom.kernels.jit import inlined, kernel

OVER, HIGHEST, ADD = range(3)
"""What becomes of a stroke where another lies: it covers it, the higher one shows, or both are added."""
FAR = np.float32(1e9)


class Courses(NamedTuple):
    """Paths as the loops read them, in samples.

    Attributes
    ----------
    starts : (n + 1,) int64
        Where each path's corners begin.
    x, y : (m,) float32
        Corners; beyond the map they run on.
    along : (m,) float32
        The share of its path behind each, 0 to 1.
    radius, height : (m,) float32
        Half the stroke's width, in samples, and its height.
    top, bottom : (n,) float32
        The rows that each path reaches.
    """

    starts: np.ndarray
    x: np.ndarray
    y: np.ndarray
    along: np.ndarray
    radius: np.ndarray
    height: np.ndarray
    top: np.ndarray
    bottom: np.ndarray


class Brush(NamedTuple):
    """How strokes are shaped.

    Attributes
    ----------
    profile : int
        One of the profiles of `kernels.forms`.
    table, summed
        The custom profile, as in `mean_heights`.
    join : int
        OVER, HIGHEST or ADD.
    resting : float32
        How far a stroke lies on top of those before it, 0 to 1.
    """

    profile: int
    table: np.ndarray
    summed: np.ndarray
    join: int
    resting: np.float32


class Drawn(NamedTuple):
    """What is drawn: (H, W) each; `winner` is the path that shows, or -1, and has its along and across."""

    height: np.ndarray
    cover: np.ndarray
    along: np.ndarray
    across: np.ndarray
    winner: np.ndarray


@inlined
def _broad_enough(away, radius):  # type: ignore[no-untyped-def]
    """Whether a sample's middle tells its mean: within the stroke, and off the fold."""
    return 1.0 <= away <= radius - 2.0


@inlined
def _mean_across(away, radius, brush):  # type: ignore[no-untyped-def]
    """The mean of a strip's profile, and of its cover, over a sample one wide, `away` from its middle."""
    if _broad_enough(away, radius):
        within = np.float32(1.0 - away / radius)
        return np.float64(height_at(within, brush.profile, brush.table)), 1.0
    low, high = away - 0.5, away + 0.5
    cover = max(0.0, min(high, radius) - max(low, -radius))
    if cover <= 0.0:
        return 0.0, 0.0
    full = risen(1.0, brush.profile, brush.table, brush.summed)
    last = full - risen(1.0 - min(abs(high) / radius, 1.0), brush.profile, brush.table, brush.summed)
    first = full - risen(1.0 - min(abs(low) / radius, 1.0), brush.profile, brush.table, brush.summed)
    if low < 0.0:
        first = -first
    return (last - first) * radius, cover


@kernel
def stroke_rows(order, courses, brush, drawn, y0, y1):  # type: ignore[no-untyped-def]
    """Draw paths into rows y0 to y1 - 1.

    Parameters
    ----------
    order : (k,) int64
        The paths to draw, the first below.
    courses : Courses
    brush : Brush
    drawn : Drawn
        Filled with zeros and -1 before.
    y0, y1 : int
    """
    rows, columns = drawn.height.shape
    span = y1 - y0
    best = np.full((span, columns), FAR, np.float32)
    at, side, thick, tall = (
        np.zeros((span, columns), np.float32), np.zeros((span, columns), np.float32),
        np.zeros((span, columns), np.float32), np.zeros((span, columns), np.float32),
    )  # fmt: skip
    touched = np.empty(span * columns, np.int64)
    for number in order:
        count = 0
        for k in range(courses.starts[number], courses.starts[number + 1] - 1):
            ax, ay = np.float64(courses.x[k]), np.float64(courses.y[k])
            bx, by = np.float64(courses.x[k + 1]) - ax, np.float64(courses.y[k + 1]) - ay
            ra, rb = np.float64(courses.radius[k]), np.float64(courses.radius[k + 1])
            reach = max(ra, rb) + 1.0
            squared = max(bx * bx + by * by, 1e-12)
            once = 1.0 / squared
            # Behind such a piece the one before it is nearer, or as near: it ends there, no narrower.
            joined = k > courses.starts[number] and courses.radius[k - 1] >= courses.radius[k]
            left, right = math.floor(min(ax, ax + bx) - reach), math.ceil(max(ax, ax + bx) + reach)
            upper, lower = math.floor(min(ay, ay + by) - reach), math.ceil(max(ay, ay + by) + reach)
            right, lower = min(right, left + columns - 1), min(lower, upper + rows - 1)
            for y in range(upper, lower + 1):
                row = y % rows
                if row < y0 or row >= y1:
                    continue
                dy = y + 0.5 - ay
                first, last = left, right
                if abs(by) > 1e-3 * abs(bx):  # only where the row crosses the strip around the piece
                    middle, broad = ax + dy * bx / by - 0.5, reach * math.sqrt(squared) / abs(by)
                    first = max(first, math.ceil(middle - broad))
                    last = min(last, math.floor(middle + broad))
                column, line = first % columns - 1, row - y0
                for x in range(first, last + 1):
                    column = column + 1 if column + 1 < columns else 0
                    dx = x + 0.5 - ax
                    share = (dx * bx + dy * by) * once
                    if share < 0.0 and joined:
                        continue
                    t = min(max(share, 0.0), 1.0)
                    ox, oy = dx - t * bx, dy - t * by
                    radius = ra + t * (rb - ra)
                    far = ox * ox + oy * oy
                    if far > (radius + 0.75) * (radius + 0.75):
                        continue
                    away = math.sqrt(far)
                    if best[line, column] == FAR:
                        touched[count] = line * columns + column
                        count += 1
                    if away - radius < best[line, column]:
                        best[line, column] = away - radius
                        at[line, column] = courses.along[k] + t * (courses.along[k + 1] - courses.along[k])
                        side[line, column] = away if ox * by - oy * bx <= 0.0 else -away
                        thick[line, column] = radius
                        tall[line, column] = courses.height[k] + t * (
                            courses.height[k + 1] - courses.height[k]
                        )
        for n in range(count):
            line, column = touched[n] // columns, touched[n] % columns
            best[line, column] = FAR
            half = max(np.float64(thick[line, column]), 1e-6)
            mean, cover = _mean_across(abs(np.float64(side[line, column])), half, brush)
            if cover <= 0.0:
                continue
            y = y0 + line
            shown, tip = np.float32(cover), np.float32(mean) * tall[line, column]
            below = drawn.height[y, column]
            lifted = tip + brush.resting * shown * below
            if brush.join == OVER:
                drawn.height[y, column] = below * (np.float32(1.0) - shown) + lifted
            elif brush.join == HIGHEST:
                # Where it is, the higher of both shows; beside it, what was there.
                drawn.height[y, column] = below * (np.float32(1.0) - shown) + max(below * shown, lifted)
            else:
                drawn.height[y, column] = below + tip
            shows = shown >= np.float32(0.5) or drawn.winner[y, column] < 0
            if shows and (brush.join == OVER or lifted >= below):
                drawn.winner[y, column] = number
                drawn.along[y, column] = at[line, column]
                drawn.across[y, column] = np.float32(0.5) + np.float32(0.5) * min(
                    max(side[line, column] / np.float32(half), np.float32(-1.0)), np.float32(1.0)
                )
            before = drawn.cover[y, column]
            drawn.cover[y, column] = before + shown * (np.float32(1.0) - before)
