"""Cellular noise over a periodic lattice with one point in each cell.

After S. Worley, *A cellular texture basis function* (SIGGRAPH 1996). The search widens ring by ring
until no farther cell can hold a nearer point, so distances are exact for any jitter. The distance to
the border is exact too: the least distance to the bisectors between the nearest point and the others.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import NamedTuple

import numpy as np

from reedloom.kernels.cell_lanes import (
    BEYOND,
    BORDER,
    CELL,
    CHEBYSHEV,
    CIRCLING,
    COS,
    EUCLID,
    FIRST,
    MANHATTAN,
    MINKOWSKI,
    NEAREST,
    NUMBERS,
    SECOND,
    SIDE,
    SIN,
    STILL,
    TO_U,
    TO_V,
    VALUES,
    U,
    V,
    bisect_far,
    bisect_near,
    root_terms,
    search_far,
    search_near,
)
from reedloom.kernels.hashing import BLOCK, Check, hash_lattice, no_check, unit_lattice
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.minkowski import compare_minkowski, measure_minkowski
from reedloom.kernels.runs import lay_out, locate, mean_run, row_cells, run_end
from reedloom.kernels.turned import Cosets
from reedloom.kernels.vectors import LANES

RING = 3
"""Wrapped cells kept around the lattice, so that the search needs no wrapping of its own."""

LEAST = np.int32(0x1E3CE508)
"""The bits of 1e-20: what is far below that, as 0 with another last bit is, slows processors down."""
CELL_LIMIT = 1024
"""Most cells across or down the tile."""

METRICS = {"Euclid": EUCLID, "Manhattan": MANHATTAN, "Chebyshev": CHEBYSHEV, "Minkowski": MINKOWSKI}


def cell_points(
    seed: int, columns: int, rows: int, jitter: float, cosets: Cosets | None = None
) -> np.ndarray:
    """Where the point of each cell lies in it, the cell's random value, and which way it circles.

    Parameters
    ----------
    jitter : float
        From 0, points in the middle of their cells, to 1, anywhere in them.
    cosets : Cosets, optional
        Of cells that are turned; columns and rows are those of its whole period.

    Returns
    -------
    (rows + 2 RING, columns + 2 RING, 5) float32
        Offset in u and v from the cell's middle (-0.5..0.5 of a cell), random value, 1 or -1 for the way in
        which the point circles as noise evolves, and column + row × columns; wrapped copies around the edge.
    """

    def straight(columns: int, rows: int) -> np.ndarray:
        def numbers(first: int, n: int) -> Iterable[np.ndarray]:
            yield np.arange(first * columns, (first + n) * columns, dtype=np.float32).reshape(n, columns)

        return lay_cells(seed, columns, rows, jitter, RING, 1, numbers)

    return straight(columns, rows) if cosets is None else cosets.laid(straight, RING)


def lay_cells(
    seed: int, columns: int, rows: int, jitter: float, ring: int, values: int = 0,
    more: Callable[[int, int], Iterable[np.ndarray]] | None = None, check: Check = no_check,
) -> np.ndarray:  # fmt: skip
    """Points as in `cell_points`, with further values for each cell and a ring of any width around them.

    Parameters
    ----------
    jitter : float
        0 to 1.
    ring : int
        Wrapped cells kept around the lattice.
    more : callable, optional
        Makes `values` maps (n, columns) of some rows, from their first and how many they are.
    check : callable
        Called every few milliseconds; may raise `Cancelled`.

    Returns
    -------
    (rows + 2 ring, columns + 2 ring, 4 + values) float32
    """
    out = np.empty((rows + 2 * ring, columns + 2 * ring, 4 + values), np.float32)
    inner = out[ring : ring + rows, ring : ring + columns]
    step = max(1, BLOCK // 4 // columns)
    for first in range(0, rows, step):
        check()
        part = inner[first : first + step]
        n = len(part)
        chance = [unit_lattice(seed, columns, n, stream, first) for stream in (1, 2, 3)]
        part[..., 0] = (chance[0] - np.float32(0.5)) * np.float32(jitter)
        part[..., 1] = (chance[1] - np.float32(0.5)) * np.float32(jitter)
        part[..., 2] = chance[2]
        ways = hash_lattice(seed, columns, n, 4, first) & np.uint32(1)
        part[..., 3] = np.array([-1.0, 1.0], np.float32)[ways]
        for number, value in enumerate(more(first, n) if more else ()):
            part[..., 4 + number] = value
    for beside in (*range(-ring, 0), *range(rows, rows + ring)):
        out[ring + beside, ring : ring + columns] = inner[beside % rows]
    for beside in (*range(-ring, 0), *range(columns, columns + ring)):
        out[:, ring + beside] = out[:, ring + beside % columns]
    return out


def swings(evolution: float | np.ndarray) -> np.ndarray:
    """How far points have circled, as cosine and sine: (n, W, 2) float32, or (1, 1, 2) for one number.

    Parameters
    ----------
    evolution : float or (n, W) float32
        Turns; whole ones come back to the beginning.

    Returns
    -------
    (n, W, 2) float32, or (1, 1, 2) for one number
    """
    angle = np.atleast_2d(np.asarray(evolution, np.float32)) * np.float32(2 * math.pi)
    return np.ascontiguousarray(np.stack([np.cos(angle), np.sin(angle)], axis=-1), np.float32)


@inlined
def is_each(swing):  # type: ignore[no-untyped-def]
    """1 where each sample has a swing of its own, so that no two share their points; else 0."""
    return 1 if swing.shape[0] * swing.shape[1] > 1 else 0


class Cells(NamedTuple):
    """What is searched, and how distance is measured in it.

    Attributes
    ----------
    points : (rows + 2 RING, columns + 2 RING, 5) float32
        From `cell_points`.
    slack : float32
        How far points keep from their cells' edges, in cells.
    metric : int
        EUCLID, MANHATTAN, CHEBYSHEV or MINKOWSKI.
    power : (POWER,) float32
        Minkowski's, above 0, and the terms of `root_terms`.
    way : int
        How the lanes measure: STILL, or one of CIRCLING.
    spots : (rows + 2 RING, columns + 2 RING, 2) float32
        Where each cell's point lies in it: if it stands still from `fill_spots`, else from `fill_circling`.
    """

    points: np.ndarray
    slack: np.float32
    metric: int
    power: np.ndarray
    way: int
    spots: np.ndarray

    @classmethod
    def of(
        cls, points: np.ndarray, jitter: float, metric: int, power: float, evolution: float | np.ndarray
    ) -> Cells:
        """Cells whose points have circled.

        Parameters
        ----------
        points, metric
            As the attributes.
        power : float
            Minkowski's, above 0.
        jitter : float
            What the points were laid with, 0 to 1.
        evolution : float, or (H, W) float32
            Turns, of all points or those that each sample sees.
        """
        spots, way = np.empty((*points.shape[:2], 2), np.float32), CIRCLING[metric]
        if metric == EUCLID and not isinstance(evolution, np.ndarray):
            way = STILL
            fill_spots(points, *swings(evolution)[0, 0], spots)
        else:
            fill_circling(points, spots)
        numbers = np.array([power, *root_terms(power)], np.float32)
        # Points in the corners of their square are farther from its middle, and circle nearer to edges.
        is_begun = isinstance(evolution, np.ndarray) or evolution % 1 != 0
        most = 0.5 * jitter * (math.sqrt(2) if is_begun else 1.0)
        return cls(points, np.float32(max(0.0, 0.5 - most)), metric, numbers, way, spots)


class GridColumns(NamedTuple):
    """Where a row's samples fall among columns of cells, worked out once for all rows.

    Attributes
    ----------
    fractions : (W,) float32
        Each sample's place in its cell, 0 to 1.
    starts : (n + 1,) int32
        The first sample of each run within one cell, ended by W.
    runs : (n,) int32
        Each run's cell.
    """

    fractions: np.ndarray
    starts: np.ndarray
    runs: np.ndarray

    @classmethod
    def of(cls, count: int, width: int, shift: float = 0.0) -> GridColumns:
        """For `width` samples and `count` cells, moved by `shift` cells."""
        at = (np.arange(width) + 0.5) * count / width + shift
        cell = np.floor(at)
        starts = np.concatenate([[0], np.flatnonzero(np.diff(cell)) + 1, [width]])
        runs = cell[starts[:-1]].astype(np.int64) % count
        return cls((at - cell).astype(np.float32), starts.astype(np.int32), runs.astype(np.int32))


@inlined
def point_u(points, j, i, c, s):  # type: ignore[no-untyped-def]
    """Where a cell's point lies across the cell, 0 to 1, after circling."""
    u = points[j, i, 0] * c - points[j, i, 1] * points[j, i, 3] * s
    return np.float32(0.5) + min(max(u, np.float32(-0.5)), np.float32(0.5))


@inlined
def point_v(points, j, i, c, s):  # type: ignore[no-untyped-def]
    """Where a cell's point lies down the cell, 0 to 1, after circling."""
    v = points[j, i, 0] * points[j, i, 3] * s + points[j, i, 1] * c
    return np.float32(0.5) + min(max(v, np.float32(-0.5)), np.float32(0.5))


@kernel
def fill_spots(points, c, s, spots):  # type: ignore[no-untyped-def]
    """Where each cell's point lies in it, 0 to 1.

    Parameters
    ----------
    points : (rows, columns, 5) float32
        From `cell_points`.
    c, s : float32
        How far they have circled, as cosine and sine.
    spots : (rows, columns, 2) float32
        Filled.
    """
    for j in range(spots.shape[0]):
        for i in range(spots.shape[1]):
            spots[j, i, 0], spots[j, i, 1] = point_u(points, j, i, c, s), point_v(points, j, i, c, s)


@kernel
def fill_circling(points, spots):  # type: ignore[no-untyped-def]
    """What `cell_lanes` needs of points that circle: their u, and their v times the way in which they do.

    The last bit of u is 1 where that way is -1, so that a load brings all there is to know of two points.

    Parameters
    ----------
    points : (rows, columns, 5) float32
        From `cell_points`.
    spots : (rows, columns, 2) float32
        Filled.
    """
    for j in range(spots.shape[0]):
        for i in range(spots.shape[1]):
            way = points[j, i, 3]
            bits = np.int32(np.float32(points[j, i, 0]).view(np.int32) & np.int32(-2))
            bits = bits if abs(points[j, i, 0]) > np.float32(1e-20) else LEAST
            bits = np.int32(bits | (np.int32(1) if way < 0 else np.int32(0)))
            spots[j, i, 0], spots[j, i, 1] = bits.view(np.float32), points[j, i, 1] * way


@kernel
def cell_rows(cells, place, swing, want_second, want_border, want_own, out, y0, y1):  # type: ignore[no-untyped-def]
    """Search the cells for rows of a map.

    The samples of a run that lie in one cell share the points they look at, so these are gathered once, and
    each point is compared with all of them.

    Parameters
    ----------
    cells : Cells
    place : (H, W, 2) float32
        In tiles.
    swing : (H, W, 2) or (1, 1, 2) float32
        From `swings`, for each sample or for all.
    want_second : bool
        Whether the second distance is to be exact; else points farther out are looked at only where
        they can be the nearest.
    want_border : bool
        Whether to look for the exact border and the cell beyond it.
    want_own : bool
        Whether to tell what belongs to the nearest cell: its value and number, and the vector from its point.
    out : (8, H, W) float32
        Nearest and second distance, distance to border (all in cell widths), random value of the
        nearest cell and of the cell across the border, vector from the nearest point in u and v
        (cell widths), column + row × columns of the nearest cell. Rows y0 to y1 are filled.
    """
    points = cells.points
    rows = points.shape[0] - 2 * RING
    columns = points.shape[1] - 2 * RING
    n = out.shape[2]
    at = row_cells(n)
    lines = np.empty((VALUES, n + LANES), np.float32), np.zeros((NUMBERS, n + LANES), np.int32)
    steps = _steps_in(points.shape[1])
    each = is_each(swing)
    for y in range(y0, y1):
        locate(place[y].reshape(-1), columns, rows, at)
        if each or mean_run(at.cell) < SHORT:
            if cells.way != STILL:
                _lay_swings(swing[y * each], lines[0])
            _search_lanes(cells, at, (want_second, want_border, want_own), lines, steps, out, y)
        else:
            circled = (swing[0, 0, 0], swing[0, 0, 1])
            _search_runs(cells, at, circled, (want_second, want_border, want_own), out, y)


@inlined
def _steps_in(wide):  # type: ignore[no-untyped-def]
    """For each label the steps to its cell in a table so many cells wide."""
    steps = np.empty(SIDE * SIDE, np.int32)
    for k in range(SIDE * SIDE):
        steps[k] = (k // SIDE - SIDE // 2) * wide + k % SIDE - SIDE // 2
    return steps


@inlined
def _lay_swings(swing, values):  # type: ignore[no-untyped-def]
    """How far points have circled for each sample of a row: (W, 2) float32, or (1, 2) for all of them."""
    last = swing.shape[0] - 1
    for x in range(values.shape[1]):
        k = min(x, last)
        values[COS, x], values[SIN, x] = swing[k, 0], swing[k, 1]


@kernel
def _search_lanes(cells, found, wanted, lines, steps, out, y):  # type: ignore[no-untyped-def]
    """`cell_rows` for a row, sixteen samples at once.

    found : from `locate`; wanted : the second distance, the border, and what belongs to the nearest cell;
    lines : (VALUES, W + LANES) float32 and (NUMBERS, W + LANES) int32, room for what is known of the samples,
    with how far points have circled; steps : from `_steps_in`.
    """
    values, numbers = lines
    want_second, want_border, want_own = wanted
    n, length, wide, slack = out.shape[2], values.shape[1], cells.spots.shape[1], cells.slack
    points, spots, power = (
        cells.points.reshape(-1, cells.points.shape[2]),
        cells.spots.reshape(-1, 2),
        cells.power,
    )
    shape = np.array([wide, length, 1 if want_second else 0, cells.way], np.int32)
    lay_out(found, RING, wide, values[U], values[V], numbers[CELL])
    for x in range(0, n, LANES):
        if search_near(spots, values, numbers, x, shape, slack, power) != 0:
            search_far(spots, values, numbers, x, shape, slack, power)
    if cells.metric == EUCLID:
        for x in range(length):
            values[FIRST, x] = np.float32(math.sqrt(values[FIRST, x]))
            values[SECOND, x] = np.float32(math.sqrt(values[SECOND, x]))
    for x in range(n):
        out[0, y, x], out[1, y, x] = values[FIRST, x], values[SECOND, x]
    if want_own:
        for x in range(n):
            at = np.uint64(numbers[CELL, x] + steps[np.uint64(numbers[NEAREST, x])])
            out[3, y, x], out[7, y, x] = points[at, 2], points[at, 4]
        for x in range(n):
            out[5, y, x], out[6, y, x] = -values[TO_U, x], -values[TO_V, x]
    if not want_border:
        return
    for x in range(0, n, LANES):
        if bisect_near(spots, values, numbers, x, shape, slack, power) != 0:
            bisect_far(spots, values, numbers, x, shape, slack, power)
    for x in range(n):
        out[2, y, x] = values[BORDER, x]
        out[4, y, x] = points[np.uint64(numbers[CELL, x] + steps[np.uint64(numbers[BEYOND, x])]), 2]


@kernel
def _search_runs(cells, at, circled, wanted, out, y):  # type: ignore[no-untyped-def]
    """`cell_rows` for a row, run after run of samples in one cell; circled : cosine and sine, of all."""
    points, slack, metric, power = cells.points, cells.slack, cells.metric, cells.power
    want_second, want_border, want_own = wanted
    n = out.shape[2]
    cell, column, row, u, v = at[:5]
    to_u, to_v, away = np.empty(n, np.float32), np.empty(n, np.float32), np.empty(n, np.float32)
    which = np.empty(n, np.int32)
    most = (2 * REACH + 1) ** 2
    pu, pv, values, numbers = (np.empty(most, np.float32), np.empty(most, np.float32),
                               np.empty(most, np.float32), np.empty(most, np.float32))  # fmt: skip
    found = (pu, pv, values, numbers)
    measured = (u, v, away)
    first, second, best, value = out[0, y], out[1, y], out[2, y], out[3, y]
    beyond, from_u, from_v, number = out[4, y], out[5, y], out[6, y], out[7, y]
    a = 0
    while a < n:
        b = run_end(cell, a)
        here = (column[a], row[a], circled[0], circled[1])
        first[a:b] = np.float32(1e9)
        second[a:b] = np.float32(1e9)
        which[a:b] = 0
        count = _gather(points, here, 1, 0, found)
        _compare(0, count, (metric, power), found, (a, b), measured, (which, first, second))
        if _any_above(second if want_second else first, u, v, a, b, slack, metric == EUCLID):
            more = _gather(points, here, 2, count, found)
            _compare(count, more, (metric, power), found, (a, b), measured, (which, first, second))
        if want_own or want_border:
            for x in range(np.uint64(a), np.uint64(b)):
                k = which[x]
                to_u[x], to_v[x] = pu[k] - u[x], pv[k] - v[x]
                value[x], number[x] = values[k], numbers[k]
            for x in range(np.uint64(a), np.uint64(b)):
                from_u[x], from_v[x] = -to_u[x], -to_v[x]
        if metric == EUCLID:
            for x in range(np.uint64(a), np.uint64(b)):
                first[x] = np.float32(math.sqrt(first[x]))
                second[x] = np.float32(math.sqrt(second[x]))
        if want_border:
            # For other metrics than Euclid's it lies where the two nearest points are as far.
            best[a:b] = np.float32(1e9)
            ways = (to_u, to_v, which)
            count = _gather(points, here, 1, 0, found)
            _bisect(0, count, (metric, power), found, (a, b), measured, ways, (first, best, beyond))
            if _any_beyond(first, best, u, v, a, b, slack):
                more = _gather(points, here, 2, count, found)
                _bisect(count, more, (metric, power), found, (a, b), measured, ways, (first, best, beyond))
        a = b


SHORT = 56
"""Samples in a run, on average, below which a row is searched sixteen samples at once."""
REACH = 2
"""Rings of cells around its own in which a sample looks for points."""


@inlined
def _gather(points, here, ring, count, found):  # type: ignore[no-untyped-def]
    """Put the points of one ring of cells (the first with the cell itself) behind the `count` there are.

    here : the cell's column and row, and how far points have circled, as cosine and sine; found : (25,) each,
    where they lie in cells from the corner of the one in the middle, their random values and numbers.
    """
    i, j, c, s = here
    u, v, value, number = found
    for dj in range(-ring, ring + 1):
        for di in range(-ring, ring + 1):
            if ring > 1 and -ring < di < ring and -ring < dj < ring:
                continue
            q, p = j + dj + RING, i + di + RING
            u[count] = np.float32(di) + point_u(points, q, p, c, s)
            v[count] = np.float32(dj) + point_v(points, q, p, c, s)
            value[count], number[count] = points[q, p, 2], points[q, p, 4]
            count += 1
    return count


@inlined
def _reach(u, v, slack):  # type: ignore[no-untyped-def]
    """The least distance from a place in a cell to any point beyond the cells around."""
    one = np.float32(1.0)
    return min(u, one - u, v, one - v) + one + slack


@inlined
def _any_above(so_far, u, v, a, b, slack, is_squared):  # type: ignore[no-untyped-def]
    """Whether a point beyond the cells around may be nearer than what any sample has so far."""
    count = 0
    for x in range(np.uint64(a), np.uint64(b)):
        reach = _reach(u[x], v[x], slack)
        count += 1 if so_far[x] > (reach * reach if is_squared else reach) else 0
    return count > 0


@inlined
def _any_beyond(first, best, u, v, a, b, slack):  # type: ignore[no-untyped-def]
    """Whether one may bound a sample's cell: none farther than first + 2 best can."""
    count = 0
    for x in range(np.uint64(a), np.uint64(b)):
        count += 1 if first[x] + best[x] + best[x] > _reach(u[x], v[x], slack) else 0
    return count > 0


@inlined
def _length(du, dv, metric):  # type: ignore[no-untyped-def]
    """A length that orders like the metric's, but for Minkowski's; Euclid's is squared until the end."""
    if metric == EUCLID:
        return du * du + dv * dv
    du = abs(du)
    dv = abs(dv)
    if metric == MANHATTAN:
        return du + dv
    return max(du, dv)


@inlined
def _compare(k0, k1, kind, found, run, measured, nearest):  # type: ignore[no-untyped-def]
    """Compare points k0 to k1 - 1 with a run of samples; `kind` holds metric and power.

    Each in two loops, since the compiler makes vectors only of loops over few arrays.
    """
    u, v, away = measured
    which, first, second = nearest
    pu, pv, _, _ = found
    a, b = run
    metric, power = kind
    if metric == MINKOWSKI:
        compare_minkowski(k0, k1, power, found, run, measured, nearest)
        return
    for k in range(k0, k1):
        _measure((pu[k], pv[k]), metric, power, (a, b), u, v, away)
        for x in range(np.uint64(a), np.uint64(b)):
            d, f, s, i = away[x], first[x], second[x], which[x]
            first[x] = min(d, f)
            second[x] = min(s, max(d, f))
            which[x] = np.int32(k) if d < f else i


@inlined
def _measure(point, metric, power, run, u, v, away):  # type: ignore[no-untyped-def]
    """How far a point is from a run of samples, by a loop for each metric, which alone become vectors."""
    if metric == EUCLID:
        _measure_by(point, EUCLID, run, u, v, away)
    elif metric == MANHATTAN:
        _measure_by(point, MANHATTAN, run, u, v, away)
    elif metric == CHEBYSHEV:
        _measure_by(point, CHEBYSHEV, run, u, v, away)
    else:
        measure_minkowski(point, power, run, u, v, away)


@inlined
def _measure_by(point, metric, run, u, v, away):  # type: ignore[no-untyped-def]
    pu, pv = point
    for x in range(np.uint64(run[0]), np.uint64(run[1])):
        away[x] = _length(pu - u[x], pv - v[x], metric)


@inlined
def _bisect(k0, k1, kind, found, run, measured, ways, border):  # type: ignore[no-untyped-def]
    """Distances of a run of samples to the borders between points' cells and each sample's own."""
    u, v, away = measured
    to_u, to_v, which = ways
    first, best, beyond = border
    a, b = run
    pu, pv, values, _ = found
    metric, power = kind
    for k in range(k0, k1):
        if metric == EUCLID:
            for x in range(np.uint64(a), np.uint64(b)):
                du, dv = pu[k] - u[x], pv[k] - v[x]
                eu, ev = du - to_u[x], dv - to_v[x]
                square = eu * eu + ev * ev
                d = np.float32(0.5) * ((du + to_u[x]) * eu + (dv + to_v[x]) * ev)
                d = d / np.float32(math.sqrt(square + np.float32(1e-24)))
                away[x] = d if square > np.float32(1e-12) else np.float32(1e9)
        else:
            _measure((pu[k], pv[k]), metric, power, run, u, v, away)
            for x in range(np.uint64(a), np.uint64(b)):
                d = np.float32(0.5) * (away[x] - first[x])
                away[x] = d if which[x] != k else np.float32(1e9)
        value = values[k]
        for x in range(np.uint64(a), np.uint64(b)):
            d, so_far, old = away[x], best[x], beyond[x]
            beyond[x] = value if d < so_far else old
            best[x] = min(d, so_far)
