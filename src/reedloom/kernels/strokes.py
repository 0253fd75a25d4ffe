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
RIM = 0.75
"""How far beyond a stroke's rim a sample's middle can be that it still touches, in samples."""
AREAS = 4097
"""How finely a profile's area is kept: reading it spares three arc sines for each sample at a rim."""


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
    bend : (m,) float64
        How far past its end it has samples of its own, against its reach: as it bends or thins there.
    """

    per: np.ndarray
    bend: np.ndarray

    @classmethod
    def of(cls, courses: Courses) -> Pieces:
        """Measured from their corners."""
        pieces = cls(*(np.ones(len(courses.x)) for _ in range(2)))
        measure_pieces(courses.x, courses.y, courses.radius, pieces.per, pieces.bend)
        return pieces


SHORT = 0.5
"""A piece of fewer samples in length looks at all about it: what else there is to know would take longer."""


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


APART, PIECE, SHARE, SIDE = range(4)
"""What is kept for each sample of a band about the path that is being drawn: how far beyond its rim the
nearest place is, FAR where the path is not; the piece on which that is, counted from the first; how far
along it, 0 to 1, or beyond past its ends; and how far from the middle, below 0 on the left. The four stand
together, so that a sample takes one access to memory."""


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
        Filled with zeros and -1 before.
    y0, y1 : int
    """
    rows, columns = drawn.height.shape
    span = y1 - y0
    near = np.empty((span * columns, 4), np.float32)
    near[:, APART] = FAR
    touched = np.empty(span * columns, np.int32)
    flat = Drawn(
        drawn.height.reshape(-1), drawn.cover.reshape(-1), drawn.along.reshape(-1),
        drawn.across.reshape(-1), drawn.winner.reshape(-1),
    )  # fmt: skip
    # Out of their records once: in the loops that would cost more than all else.
    xs, ys, radii, pers, bends = courses.x, courses.y, courses.radius, pieces.per, pieces.bend
    for number in order:
        count = 0
        begin, end = courses.starts[number], courses.starts[number + 1] - 1
        for k in range(begin, end):
            ax, ay = np.float64(xs[k]), np.float64(ys[k])
            bx, by = np.float64(xs[k + 1]), np.float64(ys[k + 1])
            ra, rb = np.float64(radii[k]), np.float64(radii[k + 1])
            reach = max(ra, rb) + RIM + 0.01
            upper, lower = math.ceil(min(ay, by) - reach - 0.5), math.floor(max(ay, by) + reach - 0.5)
            lower = min(lower, upper + rows - 1)
            # The first image of the band, among tiles above and below, that the piece may reach.
            image = y0 + rows * math.ceil((upper - (y1 - 1)) / rows)
            # Behind such a piece the one before it is nearer, or as near: it ends there, no narrower.
            joined = k > begin and radii[k - 1] >= radii[k]
            past = 1.0 if k == end - 1 else bends[k]
            place = (ax, ay, bx - ax, by - ay, ra, rb, reach)
            piece = (np.float32(k - begin), pers[k], past, joined, k == end - 1)
            while image <= lower:
                top, bottom = max(upper, image), min(lower, image + span - 1)
                if top <= bottom:
                    count = _near_piece(place, piece, near, touched, count, (image, top, bottom, columns))
                image += rows
        _lay(near, touched[:count], y0 * columns, courses, pers, number, brush, flat)


@kernel
def measure_pieces(x, y, radius, per, bend):  # type: ignore[no-untyped-def]
    """Fill in `Pieces`.

    Parameters
    ----------
    x, y, radius : (m,) float32
        Of `Courses`.
    per, bend : (m,) float64
    """
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
        bend[k] = 1.0 if is_sharp else min(turns, 1.0)


@inlined
def _near_piece(place, piece, near, touched, count, rows):  # type: ignore[no-untyped-def]
    """Note for every sample of some rows by a piece where on the path it is, if no other piece is nearer.

    place : where it begins, its way, its radius at both ends, how far it and its rim reach
    piece : its number from the first, one over its length, how far past its end it has samples of its own,
    whether it ends where the one before does, whether it is the last

    Returns
    -------
    int
        How many samples the path has touched by now; `touched` has them.
    """
    ax, ay, bx, by, ra, rb, reach = place
    from_first, per, past, joined, is_last = piece
    image, top, bottom, columns = rows
    squared, once = max(bx * bx + by * by, 1e-12), per * per
    length = squared * per
    left = math.ceil(min(ax, ax + bx) - reach - 0.5)
    right = math.floor(max(ax, ax + bx) + reach - 0.5)
    right = min(right, left + columns - 1)
    low = -0.01 * length if joined else -reach * length
    high = squared + length * (reach * past + (0.0 if is_last else 0.01))
    wider, along, aside = rb - ra, bx * per, by * per
    is_short = length < SHORT
    is_steep, is_level = abs(by) > 1e-3 * abs(bx), abs(bx) > 1e-3 * abs(by)
    lean = bx / by if is_steep and not is_short else 0.0
    broad = reach * length / abs(by) if is_steep and not is_short else 0.0
    slant = 1.0 / bx if is_level and not is_short else 0.0
    for y in range(top, bottom + 1):
        dy = y + 0.5 - ay
        down, up = dy * by, dy * along
        first, last = left, right
        if is_steep and not is_short:  # only where the row crosses the strip around the piece
            middle = ax + dy * lean - 0.5
            first = max(first, math.ceil(middle - broad))
            last = min(last, math.floor(middle + broad))
        if is_level and not is_short:  # and between the piece's ends
            one, other = ax - 0.5 + (low - down) * slant, ax - 0.5 + (high - down) * slant
            first = max(first, math.ceil(min(one, other)))
            last = min(last, math.floor(max(one, other)))
        column, line = first % columns - 1, (y - image) * columns
        for x in range(first, last + 1):
            column = column + 1 if column + 1 < columns else 0
            dx = x + 0.5 - ax
            gone = dx * bx + down
            if is_short and (gone < low or gone > high):
                continue
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


@kernel
def _lay(near, touched, first, courses, per, number, brush, drawn):  # type: ignore[no-untyped-def]
    """Join what a path has at the samples it touched to what lies there, and forget it.

    first : the index in the map of the band's first sample
    """
    # Taken out of their records once: in the loop that would cost more than all else.
    height, covered, along, across, winner = drawn
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
        shows = brush.tells and (shown >= np.float32(0.5) or winner[at] < 0)
        if shows and (brush.join == OVER or lifted >= below):
            winner[at] = number
            along[at] = alongs[k] + t * (alongs[k + 1] - alongs[k])
            across[at] = np.float32(0.5) + np.float32(0.5) * min(
                max(side / np.float32(half), np.float32(-1.0)), np.float32(1.0)
            )
        covered[at] += shown * (np.float32(1.0) - covered[at])
