"""Where on a path samples are: the nearest of its pieces, one by one, or eight short ones at a time.

A piece goes from a corner to the next. Of a path's pieces the nearest counts, and of those as near the first.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel

FAR = np.float32(1e9)
RIM = 0.75
"""How far beyond a stroke's rim a sample's middle can be that it still touches, in samples."""
APART, PIECE, SHARE, SIDE = range(4)
"""What is kept for each sample of a band about the path that is being drawn: how far beyond its rim the
nearest place is, FAR where the path is not; the piece on which that is, counted from the first; how far
along it, 0 to 1, or beyond past its ends; and how far from the middle, below 0 on the left. The four stand
together, so that a sample takes one access to memory."""
SHORT = 0.5
"""Pieces of no more samples in length, on average, are looked at together if they can be."""
LANES = 8
"""Short pieces are compared with a sample so many at a time."""
LEAST = 4
"""Fewer than that are looked at one by one."""
CROWDED = 4.0
"""As long as their box holds no more samples for each of them, longer pieces too are looked at together."""


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
    length : (n,) float32
        How long each path is, in samples.
    closed : (n,) bool
        Whether a path ends where it began.
    top, bottom : (n,) float32
        The rows that each path reaches.
    """

    starts: np.ndarray
    x: np.ndarray
    y: np.ndarray
    along: np.ndarray
    radius: np.ndarray
    height: np.ndarray
    length: np.ndarray
    closed: np.ndarray
    top: np.ndarray
    bottom: np.ndarray


class Pieces(NamedTuple):
    """What is known of the piece from each corner to the next; that after a path's last corner is none.

    Attributes
    ----------
    per : (m,) float64
        One over its length, in samples.
    low, high : (m,) float32
        Between which steps along it, times its length, it has samples of its own: past its end as far as it
        bends or thins there, and behind its beginning none, 0, if the piece before it is nearer or as near.
    together : (m,) int8
        How many pieces from this one on are looked at together, or 0.
    box : (m // LEAST + 1, 4) int32
        The samples that such pieces may reach: first and last column, first and last row. That of pieces from
        the k-th on is at k // LEAST.
    """

    per: np.ndarray
    low: np.ndarray
    high: np.ndarray
    together: np.ndarray
    box: np.ndarray

    @classmethod
    def of(cls, courses: Courses, shape: tuple[int, int]) -> Pieces:
        """Measured from their corners, for a map of so many rows and columns."""
        count = len(courses.x)
        low, high = np.empty((2, count), np.float32)
        boxes = np.empty((count // LEAST + 1, 4), np.int32)
        pieces = cls(np.empty(count), low, high, np.zeros(count, np.int8), boxes)
        measure_pieces(courses, pieces.per, pieces.low, pieces.high)
        gather_pieces(courses, *shape, pieces.together, pieces.box)
        return pieces


@inlined
def reach_of(begins, ends):  # type: ignore[no-untyped-def]
    """How far a piece and its rim reach to its sides, in samples, from its radius at both ends."""
    return np.float64(max(begins, ends)) + RIM + 0.01


@kernel
def measure_pieces(courses, per, low, high):  # type: ignore[no-untyped-def]
    """Fill in what `Pieces` tells of each.

    Parameters
    ----------
    courses : Courses
    per, low, high
        Of `Pieces`.
    """
    x, y, radius, starts = courses.x, courses.y, courses.radius, courses.starts
    count = len(x)
    for k in range(count - 1):
        ax, ay = np.float64(x[k + 1]) - np.float64(x[k]), np.float64(y[k + 1]) - np.float64(y[k])
        per[k] = 1.0 / np.sqrt(max(ax * ax + ay * ay, 1e-12))
    for k in range(count - 2):
        ax, ay = np.float64(x[k + 1]) - np.float64(x[k]), np.float64(y[k + 1]) - np.float64(y[k])
        bx, by = np.float64(x[k + 2]) - np.float64(x[k + 1]), np.float64(y[k + 2]) - np.float64(y[k + 1])
        thinner = max(np.float64(radius[k + 1]) - np.float64(radius[k + 2]), 0.0) * per[k + 1]
        both = per[k] * per[k + 1]
        turns = abs(ax * by - ay * bx) * both + 2.0 * thinner + 0.1
        is_sharp = (both > 1e9) | (ax * bx + ay * by <= 0.0)
        past = 1.0 if is_sharp else min(turns, 1.0)
        reach = reach_of(radius[k], radius[k + 1])
        high[k] = (1.0 / per[k] + reach * past + 0.01) / per[k]
    for k in range(count - 2):
        reach = reach_of(radius[k + 1], radius[k + 2])
        low[k + 1] = 0.0 if radius[k] >= radius[k + 1] else -reach / per[k + 1]
    for number in range(len(starts) - 1):
        first, last = starts[number], starts[number + 1] - 2
        if first <= last:
            low[first] = -reach_of(radius[first], radius[first + 1]) / per[first]
            high[last] = (1.0 / per[last] + reach_of(radius[last], radius[last + 1])) / per[last]


@kernel
def gather_pieces(courses, rows, columns, together, box):  # type: ignore[no-untyped-def]
    """Find which pieces are looked at together: short ones that follow one another, in a box within the map.

    Parameters
    ----------
    courses : Courses
    rows, columns : int
        Of the map.
    together, box
        Of `Pieces`; filled, `together` with zeros before.
    """
    xs, ys, radii = courses.x, courses.y, courses.radius
    for number in range(len(courses.starts) - 1):
        k, end = courses.starts[number], courses.starts[number + 1] - 1
        while k < end:
            many = min(end - k, LANES)
            low_x, high_x, low_y, high_y, widest = xs[k], xs[k], ys[k], ys[k], radii[k]
            for j in range(many):
                low_x, high_x = min(low_x, xs[k + j + 1]), max(high_x, xs[k + j + 1])
                low_y, high_y = min(low_y, ys[k + j + 1]), max(high_y, ys[k + j + 1])
                widest = max(widest, radii[k + j + 1])
            reach = reach_of(widest, widest)
            left, right = math.ceil(low_x - reach - 0.5), math.floor(high_x + reach - 0.5)
            top, bottom = math.ceil(low_y - reach - 0.5), math.floor(high_y + reach - 0.5)
            wide, high = right - left + 1, bottom - top + 1
            is_short = max(high_x - low_x, high_y - low_y) <= SHORT * many
            if many < LEAST or wide > columns or high > rows:
                k += many
                continue
            if is_short or wide * high <= CROWDED * many:
                together[k] = many
                at = k // LEAST
                box[at, 0], box[at, 1], box[at, 2], box[at, 3] = left, right, top, bottom
            k += many


@inlined
def near_piece(place, piece, near, touched, count, rows):  # type: ignore[no-untyped-def]
    """Note for every sample of some rows by a piece where on the path it is, if no other piece is nearer.

    place : where it begins, its way, its radius at both ends, how far it and its rim reach
    piece : its number from the first, and what `Pieces` tells of it

    Returns
    -------
    int
        How many samples the path has touched by now; `touched` has them.
    """
    ax, ay, bx, by, ra, rb, reach = place
    from_first, per, low, high = piece
    joined = low == 0.0
    image, top, bottom, columns = rows
    squared, once = max(bx * bx + by * by, 1e-12), per * per
    length = squared * per
    left = math.ceil(min(ax, ax + bx) - reach - 0.5)
    right = math.floor(max(ax, ax + bx) + reach - 0.5)
    right = min(right, left + columns - 1)
    low -= 0.01 * length
    wider, along, aside = rb - ra, bx * per, by * per
    is_steep, is_level = abs(by) > 1e-3 * abs(bx), abs(bx) > 1e-3 * abs(by)
    lean = bx / by if is_steep else 0.0
    broad = reach * length / abs(by) if is_steep else 0.0
    slant = 1.0 / bx if is_level else 0.0
    for y in range(top, bottom + 1):
        dy = y + 0.5 - ay
        down, up = dy * by, dy * along
        first, last = left, right
        if is_steep:  # only where the row crosses the strip around the piece
            middle = ax + dy * lean - 0.5
            first = max(first, math.ceil(middle - broad))
            last = min(last, math.floor(middle + broad))
        if is_level:  # and between the piece's ends
            one, other = ax - 0.5 + (low - down) * slant, ax - 0.5 + (high - down) * slant
            first = max(first, math.ceil(min(one, other)))
            last = min(last, math.floor(max(one, other)))
        column, line = first % columns - 1, (y - image) * columns
        for x in range(first, last + 1):
            column = column + 1 if column + 1 < columns else 0
            dx = x + 0.5 - ax
            gone = dx * bx + down
            share = gone * once
            if share < 0.0 and joined:
                continue
            side = up - dx * aside
            if 0.0 < share < 1.0:
                radius, away = ra + share * wider, abs(side)
            else:  # past an end, which is then the nearest place
                t = min(max(share, 0.0), 1.0)
                ox, oy = dx - t * bx, dy - t * by
                radius, away = ra + t * wider, np.sqrt(ox * ox + oy * oy)
                side = away if side >= 0.0 else -away
            if away > radius + RIM:
                continue
            n = line + column
            if near[n, APART] == FAR:
                touched[count] = n
                count += 1
            if away - radius < near[n, APART]:
                near[n, APART] = away - radius
                near[n, PIECE], near[n, SHARE], near[n, SIDE] = from_first, share, side
    return count


X, Y, WAY_X, WAY_Y, RADIUS, WIDER, ONCE, LOW, HIGH, FOUND, LANE_ROWS = range(11)
"""What the lanes hold of each piece: where it begins, its way, its radius there and how much wider it ends;
one over its squared length; between which steps along it, times its length, it has samples; and, last, how
far beyond its rim the sample in hand is."""


@inlined
def load_lanes(first, many, measured, lanes):  # type: ignore[no-untyped-def]
    """Lay out pieces that are looked at together.

    first, many : which they are
    measured : the corners' x, y and radius, and what `Pieces` tells
    lanes : (LANE_ROWS * LANES,) float64
    """
    xs, ys, radii, pers, lows, highs = measured
    for j in range(LANES):
        lanes[LOW * LANES + j], lanes[HIGH * LANES + j] = 1.0, 0.0
    for j in range(many):
        k = first + j
        ax, ay, ra = np.float64(xs[k]), np.float64(ys[k]), np.float64(radii[k])
        lanes[X * LANES + j], lanes[Y * LANES + j] = ax, ay
        lanes[WAY_X * LANES + j], lanes[WAY_Y * LANES + j] = (
            np.float64(xs[k + 1]) - ax,
            np.float64(ys[k + 1]) - ay,
        )
        lanes[RADIUS * LANES + j], lanes[WIDER * LANES + j] = ra, np.float64(radii[k + 1]) - ra
        lanes[ONCE * LANES + j] = pers[k] * pers[k]
        lanes[LOW * LANES + j], lanes[HIGH * LANES + j] = np.float64(lows[k]), np.float64(highs[k])


@inlined
def near_lanes(lanes, from_first, sides, near, touched, count, bounds):  # type: ignore[no-untyped-def]
    """As `near_piece`, for all pieces in the lanes, between two columns; which the first is, of its path."""
    image, top, bottom, columns = bounds
    left, right = sides
    # Known to the compiler, it would unroll the loop instead of making vectors of it.
    many = np.uint64(len(lanes) // LANE_ROWS)
    before = left - columns * math.floor(left / columns) - 1
    for y in range(top, bottom + 1):
        column, line = before, (y - image) * columns
        for x in range(left, right + 1):
            column = column + 1 if column + 1 < columns else 0
            for j in range(np.uint64(0), many):
                dx, dy = x + 0.5 - lanes[X * LANES + j], y + 0.5 - lanes[Y * LANES + j]
                bx, by = lanes[WAY_X * LANES + j], lanes[WAY_Y * LANES + j]
                gone = dx * bx + dy * by
                share = gone * lanes[ONCE * LANES + j]
                t = min(max(share, 0.0), 1.0)
                ox, oy = dx - t * bx, dy - t * by
                apart = np.sqrt(ox * ox + oy * oy) - (
                    lanes[RADIUS * LANES + j] + t * lanes[WIDER * LANES + j]
                )
                is_by = (gone >= lanes[LOW * LANES + j]) & (gone <= lanes[HIGH * LANES + j]) & (apart <= RIM)
                lanes[FOUND * LANES + j] = apart if is_by else 1e9
            best, nearest = 1e9, 0
            for j in range(LANES):
                if lanes[FOUND * LANES + j] < best:
                    best, nearest = lanes[FOUND * LANES + j], j
            n = line + column
            if best >= near[n, APART]:
                continue
            if near[n, APART] == FAR:
                touched[count] = n
                count += 1
            dx, dy = x + 0.5 - lanes[X * LANES + nearest], y + 0.5 - lanes[Y * LANES + nearest]
            bx, by = lanes[WAY_X * LANES + nearest], lanes[WAY_Y * LANES + nearest]
            share = (dx * bx + dy * by) * lanes[ONCE * LANES + nearest]
            side = dy * bx - dx * by
            if 0.0 < share < 1.0:
                side *= np.sqrt(lanes[ONCE * LANES + nearest])
            else:
                t = min(max(share, 0.0), 1.0)
                ox, oy = dx - t * bx, dy - t * by
                away = np.sqrt(ox * ox + oy * oy)
                side = away if side >= 0.0 else -away
            near[n, APART], near[n, PIECE] = best, from_first + nearest
            near[n, SHARE], near[n, SIDE] = share, side
    return count
