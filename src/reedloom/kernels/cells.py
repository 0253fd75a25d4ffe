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

from reedloom.kernels.hashing import BLOCK, Check, hash_lattice, no_check, unit_lattice
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.runs import locate, row_cells, run_end

RING = 3
"""Wrapped cells kept around the lattice, so that the search needs no wrapping of its own."""

CELL_LIMIT = 1024
"""Most cells across or down the tile."""

EUCLID, MANHATTAN, CHEBYSHEV, MINKOWSKI = range(4)


def cell_points(seed: int, columns: int, rows: int, jitter: float) -> np.ndarray:
    """Where the point of each cell lies in it, the cell's random value, and which way it circles.

    Parameters
    ----------
    jitter : float
        From 0, points in the middle of their cells, to 1, anywhere in them.

    Returns
    -------
    (rows + 2 RING, columns + 2 RING, 4) float32
        Offset in u and v from the cell's middle (-0.5..0.5 of a cell), random value, and 1 or -1 for
        the way in which the point circles as noise evolves; wrapped copies around the edge.
    """
    return lay_cells(seed, columns, rows, jitter, RING)


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


class Cells(NamedTuple):
    """What is searched, and how distance is measured in it.

    Attributes
    ----------
    points : (rows + 2 RING, columns + 2 RING, 4) float32
        From `cell_points`.
    jitter : float32
        What the points were laid with, 0 to 1.
    metric : int
        EUCLID, MANHATTAN, CHEBYSHEV or MINKOWSKI.
    power : float32
        Minkowski's, above 0.
    """

    points: np.ndarray
    jitter: np.float32
    metric: int
    power: np.float32


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
def cell_rows(cells, place, swing, want_border, out, y0, y1):  # type: ignore[no-untyped-def]
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
    want_border : bool
        Whether to look for the exact border and the cell beyond it.
    out : (8, H, W) float32
        Nearest and second distance, distance to border (all in cell widths), random value of the
        nearest cell and of the cell across the border, vector from the nearest point in u and v
        (cell widths), column + row × columns of the nearest cell. Rows y0 to y1 are filled.
    """
    points, jitter, metric, power = cells
    rows = points.shape[0] - 2 * RING
    columns = points.shape[1] - 2 * RING
    n = out.shape[2]
    each = 1 if swing.shape[0] > 1 or swing.shape[1] > 1 else 0
    at = row_cells(n)
    near = Nearest(
        np.empty(n, np.float32), np.empty(n, np.float32), np.empty(n, np.int32), np.empty(n, np.float32)
    )
    most = (2 * REACH + 1) ** 2
    found = Gathered(
        np.empty(most, np.float32), np.empty(most, np.float32), np.empty(most, np.float32),
        np.empty(most, np.float32),
    )  # fmt: skip
    # With little jitter points keep away from their cells' edges, and fewer rings can matter.
    bound = np.float32(1.0) + np.float32(0.5) * (np.float32(1.0) - jitter)
    for y in range(y0, y1):
        locate(place[y].reshape(-1), columns, rows, at)
        a = 0
        while a < n:
            b = a + 1 if each else run_end(at.cell, a)
            c, s = swing[y * each, a * each, 0], swing[y * each, a * each, 1]
            i, j = at.cell[a] % columns, at.cell[a] // columns
            run = Run(at.u[a:b], at.v[a:b], near.u[a:b], near.v[a:b], near.which[a:b], near.away[a:b])
            first, second = out[0, y, a:b], out[1, y, a:b]
            _search(points, (i, j, c, s), bound, (metric, power), found, run, first, second)
            for x in range(b - a):
                k = run.which[x]
                run.to_u[x] = found.u[k] - run.u[x]
                run.to_v[x] = found.v[k] - run.v[x]
                out[3, y, a + x] = found.value[k]
                out[5, y, a + x] = -run.to_u[x]
                out[6, y, a + x] = -run.to_v[x]
                out[7, y, a + x] = found.number[k]
            if want_border:
                best, beyond = out[2, y, a:b], out[4, y, a:b]
                _bound(points, (i, j, c, s), bound, (metric, power), found, run, first, best, beyond)
            a = b


REACH = 2
"""Rings of cells around its own in which a sample looks for points."""


class Gathered(NamedTuple):
    """The points of some cells around one.

    Attributes
    ----------
    u, v : (25,) float32
        Where they lie, in cells from the corner of the one in the middle.
    value : (25,) float32
        Their random values.
    number : (25,) float32
        column + row × columns of their cells.
    """

    u: np.ndarray
    v: np.ndarray
    value: np.ndarray
    number: np.ndarray


class Nearest(NamedTuple):
    """The way to each sample's nearest point, which of those gathered that is, and the way to one of them."""

    u: np.ndarray
    v: np.ndarray
    which: np.ndarray
    away: np.ndarray


class Run(NamedTuple):
    """The samples of a run: where they lie in their cell, and their part of `Nearest`."""

    u: np.ndarray
    v: np.ndarray
    to_u: np.ndarray
    to_v: np.ndarray
    which: np.ndarray
    away: np.ndarray


@inlined
def _gather(points, here, ring, count, found):  # type: ignore[no-untyped-def]
    """Put the points of one ring of cells (the first with the cell itself) behind the `count` there are.

    here : the cell's column and row, and how far points have circled, as cosine and sine.
    """
    i, j, c, s = here
    rows, columns = points.shape[0] - 2 * RING, points.shape[1] - 2 * RING
    for dj in range(-ring, ring + 1):
        for di in range(-ring, ring + 1):
            if ring > 1 and -ring < di < ring and -ring < dj < ring:
                continue
            q, p = j + dj + RING, i + di + RING
            found.u[count] = np.float32(di) + point_u(points, q, p, c, s)
            found.v[count] = np.float32(dj) + point_v(points, q, p, c, s)
            found.value[count] = points[q, p, 2]
            found.number[count] = ((j + dj) % rows) * columns + (i + di) % columns
            count += 1
    return count


@kernel
def _search(points, here, bound, kind, found, run, first, second):  # type: ignore[no-untyped-def]
    """Find each sample's two nearest points; `kind` holds metric and power."""
    metric = kind[0]
    first[:] = np.float32(1e9)
    second[:] = np.float32(1e9)
    run.which[:] = 0
    count = _gather(points, here, 1, 0, found)
    _compare(0, count, kind, found, run, first, second)
    if _any_above(second, bound * bound if metric == EUCLID else bound):
        more = _gather(points, here, 2, count, found)
        _compare(count, more, kind, found, run, first, second)
    if metric == EUCLID:
        for x in range(first.shape[0]):
            first[x] = np.float32(math.sqrt(first[x]))
            second[x] = np.float32(math.sqrt(second[x]))


@kernel
def _bound(points, here, bound, kind, found, run, first, best, beyond):  # type: ignore[no-untyped-def]
    """Find each sample's distance to the nearest bisector, and the random value of the cell beyond it.

    A point farther than first + 2 best cannot bound the cell any more. For other metrics than Euclid's the
    border lies where the second nearest point is as far as the nearest.
    """
    best[:] = np.float32(1e9)
    count = _gather(points, here, 1, 0, found)
    _bisect(0, count, kind, found, run, first, best, beyond)
    if _any_beyond(first, best, bound):
        more = _gather(points, here, 2, count, found)
        _bisect(count, more, kind, found, run, first, best, beyond)


@inlined
def _any_above(values, bound):  # type: ignore[no-untyped-def]
    count = 0
    for x in range(values.shape[0]):
        count += 1 if values[x] > bound else 0
    return count > 0


@inlined
def _any_beyond(first, best, bound):  # type: ignore[no-untyped-def]
    count = 0
    for x in range(first.shape[0]):
        count += 1 if first[x] + np.float32(2.0) * best[x] > bound else 0
    return count > 0


@inlined
def _length(du, dv, metric, power):  # type: ignore[no-untyped-def]
    """A length that orders like the metric's; Euclid's is squared until the end."""
    if metric == EUCLID:
        return du * du + dv * dv
    du = abs(du)
    dv = abs(dv)
    if metric == MANHATTAN:
        return du + dv
    if metric == CHEBYSHEV:
        return max(du, dv)
    return np.float32((du**power + dv**power) ** (np.float32(1.0) / power))


@kernel
def _compare(first_k, last_k, kind, found, run, first, second):  # type: ignore[no-untyped-def]
    """Compare some points with a run of samples.

    Each in two loops, since the compiler makes vectors only of loops over few arrays, and the first of them
    once for each metric. Arrays are taken out of their tuples before the loops: each time costs as much as
    some samples.
    """
    u, v, _, _, index, away = run
    pu, pv, _, _ = found
    metric, power = kind
    for k in range(first_k, last_k):
        if metric == EUCLID:
            _measure(pu[k], pv[k], EUCLID, power, u, v, away)
        elif metric == MANHATTAN:
            _measure(pu[k], pv[k], MANHATTAN, power, u, v, away)
        elif metric == CHEBYSHEV:
            _measure(pu[k], pv[k], CHEBYSHEV, power, u, v, away)
        else:
            _measure(pu[k], pv[k], MINKOWSKI, power, u, v, away)
        _keep_nearest(np.int32(k), away, index, first, second)


@inlined
def _measure(pu, pv, metric, power, u, v, away):  # type: ignore[no-untyped-def]
    for x in range(u.shape[0]):
        away[x] = _length(pu - u[x], pv - v[x], metric, power)


@inlined
def _keep_nearest(k, away, index, first, second):  # type: ignore[no-untyped-def]
    for x in range(away.shape[0]):
        d, f, s, i = away[x], first[x], second[x], index[x]
        first[x] = min(d, f)
        second[x] = min(s, max(d, f))
        index[x] = k if d < f else i


@kernel
def _bisect(first_k, last_k, kind, found, run, first, best, beyond):  # type: ignore[no-untyped-def]
    """Distances of a run of samples to the borders between some points' cells and each sample's own."""
    u, v, to_u, to_v, index, away = run
    pu, pv, values, _ = found
    metric, power = kind
    for k in range(first_k, last_k):
        if metric == EUCLID:
            _to_bisector(pu[k], pv[k], u, v, to_u, to_v, away)
        else:
            for x in range(first.shape[0]):
                d = np.float32(0.5) * (_length(pu[k] - u[x], pv[k] - v[x], metric, power) - first[x])
                away[x] = d if index[x] != k else np.float32(1e9)
        _keep_border(values[k], away, best, beyond)


@inlined
def _to_bisector(pu, pv, u, v, to_u, to_v, away):  # type: ignore[no-untyped-def]
    for x in range(away.shape[0]):
        du, dv = pu - u[x], pv - v[x]
        eu, ev = du - to_u[x], dv - to_v[x]
        square = eu * eu + ev * ev
        d = np.float32(0.5) * ((du + to_u[x]) * eu + (dv + to_v[x]) * ev)
        d = d / np.float32(math.sqrt(square + np.float32(1e-24)))
        away[x] = d if square > np.float32(1e-12) else np.float32(1e9)


@inlined
def _keep_border(value, away, best, beyond):  # type: ignore[no-untyped-def]
    for x in range(away.shape[0]):
        d, b, old = away[x], best[x], beyond[x]
        beyond[x] = value if d < b else old
        best[x] = min(d, b)
