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
from reedloom.kernels.stroke_pieces import (
    APART,
    FAR,
    LANE_ROWS,
    LANES,
    LEAST,
    PIECE,
    SHARE,
    SIDE,
    load_lanes,
    near_lanes,
    near_piece,
    reach_of,
)

OVER, HIGHEST, ADD = range(3)
"""What becomes of a stroke where another lies: it covers it, the higher one shows, or both are added."""
AREAS = 4097
"""How finely a profile's area is kept: reading it spares three arc sines for each sample at a rim."""


class Brush(NamedTuple):
    """How strokes are shaped.

    Attributes
    ----------
    profile : int
        One of the profiles of `kernels.forms`.
    table : (n,) float32
        The custom profile, as in `mean_heights`.
    areas : (AREAS,) float64
        The area below the profile from the middle on, from `fill_areas`.
    join : int
        OVER, HIGHEST or ADD.
    resting : float32
        How far a stroke lies on top of those before it, 0 to 1.
    base : float32
        How high the rim stands, as a share of the middle's height.
    flat_ends : bool
        Whether open paths end straight across, and not round.
    tells : bool
        Whether it is told which path shows, and where along and across it.
    """

    profile: int
    table: np.ndarray
    areas: np.ndarray
    join: int
    resting: np.float32
    base: np.float32
    flat_ends: bool
    tells: bool


class Drawn(NamedTuple):
    """What is drawn, (H, W) each; of the path that shows its number, from 1, and its along and across."""

    height: np.ndarray
    cover: np.ndarray
    along: np.ndarray
    across: np.ndarray
    labels: np.ndarray


@inlined
def _broad_enough(away, radius):  # type: ignore[no-untyped-def]
    """Whether a sample's middle tells its mean: within the stroke, and off the fold."""
    return 1.0 <= away <= radius - 2.0


@inlined
def _mean_across(away, radius, brush):  # type: ignore[no-untyped-def]
    """The mean of a strip's profile, and of its cover, over a sample one wide, `away` from its middle."""
    once = 1.0 / radius
    if _broad_enough(away, radius):
        within = np.float32(1.0 - away * once)
        return np.float64(height_at(within, brush.profile, brush.table)), 1.0
    low, high = away - 0.5, away + 0.5
    cover = max(0.0, min(high, radius) - max(low, -radius))
    if cover <= 0.0:
        return 0.0, 0.0
    last, first = _area_to(high * once, brush.areas), _area_to(abs(low) * once, brush.areas)
    return (last - first if low >= 0.0 else last + first) * radius, cover


@inlined
def _area_to(x, areas):  # type: ignore[no-untyped-def]
    """The area below a profile from the middle to x, where the rim is 1."""
    place = min(x, 1.0) * (areas.shape[0] - 1)
    cell = min(int(place), areas.shape[0] - 2)
    return areas[cell] + (place - cell) * (areas[cell + 1] - areas[cell])


@kernel
def fill_areas(profile, table, summed, areas):  # type: ignore[no-untyped-def]
    """Fill a brush's areas from its profile.

    Parameters
    ----------
    profile, table, summed
        As in `mean_heights`.
    areas : (n,) float64
        Filled, in even steps from the middle to the rim.
    """
    full = risen(1.0, profile, table, summed)
    for k in range(areas.shape[0]):
        areas[k] = full - risen(1.0 - k / (areas.shape[0] - 1), profile, table, summed)


@inlined
def _between_ends(gone, length):  # type: ignore[no-untyped-def]
    """How much of a sample, so far along a path and so long, lies between the path's flat ends, 0 to 1."""
    zero, one, half = np.float32(0.0), np.float32(1.0), np.float32(0.5)
    return min(max(gone + half, zero), max(length - gone + half, zero), one)


@kernel
def stroke_rows(order, courses, pieces, brush, drawn, y0, y1):  # type: ignore[no-untyped-def]
    """Draw paths into rows y0 to y1 - 1.

    Parameters
    ----------
    order : (k,) int64
        The paths to draw, the first below.
    courses : Courses
    pieces : Pieces
    brush : Brush
    drawn : Drawn
        Filled with zeros before.
    y0, y1 : int
    """
    rows, columns = drawn.height.shape
    span = y1 - y0
    near = np.empty((span * columns, 4), np.float32)
    near[:, APART] = FAR
    touched = np.empty(span * columns, np.int32)
    flat = Drawn(
        drawn.height.reshape(-1), drawn.cover.reshape(-1), drawn.along.reshape(-1),
        drawn.across.reshape(-1), drawn.labels.reshape(-1),
    )  # fmt: skip
    # Out of their records once: in the loops that would cost more than all else.
    xs, ys, radii = courses.x, courses.y, courses.radius
    pers, lows, highs = pieces.per, pieces.low, pieces.high
    measured = (xs, ys, radii, pers, lows, highs)
    together, boxes, lanes = pieces.together, pieces.box, np.zeros(LANE_ROWS * LANES)
    for number in order:
        count = 0
        begin, end = courses.starts[number], courses.starts[number + 1] - 1
        k = begin
        while k < end:
            many = together[k]
            if many > 0:
                upper, lower = boxes[k // LEAST, 2], boxes[k // LEAST, 3]
            else:
                low_y, high_y = np.float64(min(ys[k], ys[k + 1])), np.float64(max(ys[k], ys[k + 1]))
                reach = reach_of(radii[k], radii[k + 1])
                upper, lower = math.ceil(low_y - reach - 0.5), math.floor(high_y + reach - 0.5)
                lower = min(lower, upper + rows - 1)
            # The first image of the band, among tiles above and below, that may be reached.
            image = y0 + rows * math.ceil((upper - (y1 - 1)) / rows)
            if many > 0 and image <= lower:
                load_lanes(k, many, measured, lanes)
            while image <= lower:
                top, bottom = max(upper, image), min(lower, image + span - 1)
                bounds = (image, top, bottom, columns)
                if top <= bottom and many > 0:
                    sides = (boxes[k // LEAST, 0], boxes[k // LEAST, 1])
                    count = near_lanes(lanes, k - begin, sides, near, touched, count, bounds)
                elif top <= bottom:
                    ax, ay = np.float64(xs[k]), np.float64(ys[k])
                    way = (np.float64(xs[k + 1]) - ax, np.float64(ys[k + 1]) - ay)
                    ends = (np.float64(radii[k]), np.float64(radii[k + 1]), reach)
                    piece = (np.float32(k - begin), pers[k], np.float64(lows[k]), np.float64(highs[k]))
                    count = near_piece((ax, ay, *way, *ends), piece, near, touched, count, bounds)
                image += rows
            k += max(many, 1)
        _lay(near, touched[:count], y0 * columns, courses, pers, number, brush, flat)


@kernel
def _lay(near, touched, first, courses, per, number, brush, drawn):  # type: ignore[no-untyped-def]
    """Join what a path has at the samples it touched to what lies there, and forget it.

    first : the index in the map of the band's first sample
    """
    # Taken out of their records once: in the loop that would cost more than all else.
    height, covered, along, across, labels = drawn
    alongs, radii, heights = courses.along, courses.radius, courses.height
    is_flat, length = brush.flat_ends and not courses.closed[number], courses.length[number]
    start, end = courses.starts[number], courses.starts[number + 1] - 2
    for n in touched:
        at = n + first
        k, share, side = start + int(near[n, PIECE]), near[n, SHARE], near[n, SIDE]
        near[n, APART] = FAR
        t = min(max(share, np.float32(0.0)), np.float32(1.0))
        half = max(np.float64(radii[k] + t * (radii[k + 1] - radii[k])), 1e-6)
        mean, cover = _mean_across(abs(np.float64(side)), half, brush)
        shown, tall = np.float32(cover), heights[k] + t * (heights[k + 1] - heights[k])
        tip = (brush.base * shown + (np.float32(1.0) - brush.base) * np.float32(mean)) * tall
        if is_flat:
            # Past both ends it goes straight on; between them what is behind is measured along all pieces.
            past = (share - t) / np.float32(per[k]) if k in (start, end) else np.float32(0.0)
            gone = (alongs[k] + t * (alongs[k + 1] - alongs[k])) * length + past
            within = _between_ends(gone, length)
            shown, tip = shown * within, tip * within
        if shown <= np.float32(0.0):
            continue
        below = height[at]
        lifted = tip + brush.resting * shown * below
        if brush.join == OVER:
            height[at] = below * (np.float32(1.0) - shown) + lifted
        elif brush.join == HIGHEST:
            # Where it is, the higher of both shows; beside it, what was there.
            height[at] = below * (np.float32(1.0) - shown) + max(below * shown, lifted)
        else:
            height[at] = below + tip
        shows = brush.tells and (shown >= np.float32(0.5) or labels[at] == 0)
        if shows and (brush.join == OVER or lifted >= below):
            labels[at] = number + 1
            along[at] = alongs[k] + t * (alongs[k + 1] - alongs[k])
            across[at] = np.float32(0.5) + np.float32(0.5) * min(
                max(side / np.float32(half), np.float32(-1.0)), np.float32(1.0)
            )
        covered[at] += shown * (np.float32(1.0) - covered[at])
