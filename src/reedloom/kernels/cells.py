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


class Grid(NamedTuple):
    """The tile's own grid of samples as loops over cells see it.

    Attributes
    ----------
    columns : GridColumns
        Of the cells across.
    height : int
        Rows of samples in the whole tile.
    sample : float32
        What a sample covers of the tile, 0 to 1.
    c, s : float32
        How far points have circled, as cosine and sine.
    """

    columns: GridColumns
    height: int
    sample: np.float32
    c: np.float32
    s: np.float32


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


@inlined
def _length(du, dv, metric, power):  # type: ignore[no-untyped-def]
    """A length that orders like the metric's; Euclid's is squared until the end."""
    if metric == 0:
        return du * du + dv * dv
    du = abs(du)
    dv = abs(dv)
    if metric == 1:
        return du + dv
    if metric == 2:
        return max(du, dv)
    return np.float32((du**power + dv**power) ** (np.float32(1.0) / power))


@inlined
def _reach(fu, fv, ring):  # type: ignore[no-untyped-def]
    """The least distance to any cell beyond `ring` cells around."""
    return min(fu, np.float32(1.0) - fu, fv, np.float32(1.0) - fv) + np.float32(ring)


@kernel
def cell_rows(cells, place, swing, want_border, out, y0, y1):  # type: ignore[no-untyped-def]
    """Search the cells for rows of a map.

    Parameters
    ----------
    cells : Cells
    place : (H, W, 2) float32, tile units
    swing : from `swings`, for each sample or for all
    want_border : bool
        Whether to look for the exact border and the cell beyond it.
    out : (8, H, W) float32
        Nearest and second distance, distance to border (all in cell widths), random value of the
        nearest cell and of the cell across the border, vector from the nearest point in u and v
        (cell widths), column + row × columns of the nearest cell.
    """
    points, jitter, metric, power = cells
    rows = points.shape[0] - 6
    columns = points.shape[1] - 6
    # With little jitter points keep away from their cells' edges, and fewer rings can matter.
    slack = np.float32(0.5) * (np.float32(1.0) - jitter)
    each = 1 if swing.shape[0] > 1 or swing.shape[1] > 1 else 0
    for y in range(y0, y1):
        for x in range(out.shape[2]):
            c = swing[y * each, x * each, 0]
            s = swing[y * each, x * each, 1]
            u = place[y, x, 0] * np.float32(columns)
            v = place[y, x, 1] * np.float32(rows)
            cu = math.floor(u)
            cv = math.floor(v)
            fu = np.float32(u - cu)
            fv = np.float32(v - cv)
            i = int(cu) % columns + 3
            j = int(cv) % rows + 3
            first = np.float32(1e9)
            second = np.float32(1e9)
            near_u = np.float32(0.0)
            near_v = np.float32(0.0)
            near_i = 0
            near_j = 0
            for ring in range(3):
                if ring == 2:
                    bound = _reach(fu, fv, 1) + slack
                    if metric == 0:
                        bound *= bound
                    if second <= bound:
                        break
                low = -1 if ring < 2 else -2
                for dj in range(low, 1 - low):
                    for di in range(low, 1 - low):
                        inner = di == 0 and dj == 0
                        if ring == 0:
                            if not inner:
                                continue
                        elif ring == 1:
                            if inner:
                                continue
                        elif -2 < di < 2 and -2 < dj < 2:
                            continue
                        pu = np.float32(di) + point_u(points, j + dj, i + di, c, s) - fu
                        pv = np.float32(dj) + point_v(points, j + dj, i + di, c, s) - fv
                        d = _length(pu, pv, metric, power)
                        if d < first:
                            second = first
                            first = d
                            near_u = pu
                            near_v = pv
                            near_i = di
                            near_j = dj
                        elif d < second:
                            second = d
            if metric == 0:
                first = np.float32(math.sqrt(first))
                second = np.float32(math.sqrt(second))
            border = np.float32(0.5) * (second - first)
            across = points[j + near_j, i + near_i, 2]
            if want_border:
                at = (i, j, fu, fv, c, s)
                near = (near_u, near_v, near_i, near_j, first)
                border, across = _border(cells, at, near, border, across)
            out[0, y, x] = first
            out[1, y, x] = second
            out[2, y, x] = border
            out[3, y, x] = points[j + near_j, i + near_i, 2]
            out[4, y, x] = across
            out[5, y, x] = -near_u
            out[6, y, x] = -near_v
            out[7, y, x] = np.float32((j + near_j - 3) % rows * columns + (i + near_i - 3) % columns)


@inlined
def _border(cells, at, near, rough, across):  # type: ignore[no-untyped-def]
    """Exact distance to the nearest bisector, and the random value of the cell beyond it.

    at : the sample's cell, its place in that, and how far points have circled; near : the way to the
    nearest point, which cell that is in, and its distance; rough, across : what stands until better is
    found.

    A point farther than first + 2 border cannot bound the cell any more, which ends the widening.
    For other metrics than Euclid's the rough half difference of distances is kept.
    """
    points, jitter, metric, power = cells
    i, j, fu, fv, c, s = at
    near_u, near_v, near_i, near_j, first = near
    slack = np.float32(0.5) * (np.float32(1.0) - jitter)
    best = np.float32(1e9)
    for ring in range(1, 4):
        if ring > 1 and first + np.float32(2.0) * best <= _reach(fu, fv, ring - 1) + slack:
            break
        for dj in range(-ring, ring + 1):
            for di in range(-ring, ring + 1):
                if (ring > 1 and abs(di) < ring and abs(dj) < ring) or (di == near_i and dj == near_j):
                    continue
                pu = np.float32(di) + point_u(points, j + dj, i + di, c, s) - fu
                pv = np.float32(dj) + point_v(points, j + dj, i + di, c, s) - fv
                if metric == 0:
                    eu = pu - near_u
                    ev = pv - near_v
                    d = np.float32(0.5) * ((pu + near_u) * eu + (pv + near_v) * ev)
                    d /= np.float32(math.sqrt(eu * eu + ev * ev) + np.float32(1e-12))
                else:
                    d = np.float32(0.5) * (_length(pu, pv, metric, power) - first)
                if d < best:
                    best = d
                    across = points[j + dj, i + di, 2]
    if metric != 0:
        best = rough
    return best, across


@kernel
def cell_grid_rows(cells, grid, want_border, out, y0, y1):  # type: ignore[no-untyped-def]
    """`cell_rows` on the tile's own grid, for any metric but Minkowski's.

    The samples of a row that lie in one cell share the points they look at, so these are gathered
    once, and each point is compared with all of them in a loop that runs in vectors.

    Parameters
    ----------
    cells : Cells
    grid : Grid
    want_border : bool
        As in `cell_rows`.
    out : (8, y1 - y0, W) float32
        As in `cell_rows`, just the band's rows.
    """
    points, jitter, metric, _ = cells
    fractions, starts, runs = grid.columns
    height = grid.height
    rows = points.shape[0] - 6
    columns = points.shape[1] - 6
    n = out.shape[2]
    near_u, near_v = np.empty(n, np.float32), np.empty(n, np.float32)
    near = np.empty(n, np.int32)
    pu, pv, pr = np.empty(25, np.float32), np.empty(25, np.float32), np.empty(25, np.float32)
    pi, pj = np.empty(25, np.int32), np.empty(25, np.int32)
    found = (pu, pv, pr, pi, pj)
    slack = np.float32(0.5) * (np.float32(1.0) - jitter)
    bound = np.float32(1.0) + slack
    far = bound * bound if metric == 0 else bound
    for y in range(y0, y1):
        v = (y + 0.5) * rows / height
        row = int(v)
        fv = np.float32(v - row)
        j = row % rows + 3
        for run in range(runs.shape[0]):
            i = runs[run] + 3
            a, b = starts[run], starts[run + 1]
            first, second = out[0, y - y0, a:b], out[1, y - y0, a:b]
            places, index = fractions[a:b], near[a:b]
            first[:] = np.float32(1e9)
            second[:] = np.float32(1e9)
            index[:] = 0
            count = _gather(points, grid, i, j, fv, 1, 0, found)
            _nearest_of(0, count, metric, pu, pv, places, first, second, index)
            if _any_above(second, far):
                more = _gather(points, grid, i, j, fv, 2, count, found)
                _nearest_of(count, more, metric, pu, pv, places, first, second, index)
            to_u, to_v = near_u[a:b], near_v[a:b]
            for x in range(places.shape[0]):
                k = index[x]
                to_u[x] = pu[k] - places[x]
                to_v[x] = pv[k]
                out[3, y - y0, a + x] = pr[k]
                out[7, y - y0, a + x] = np.float32(
                    (j + pj[k] - 3) % rows * columns + (i + pi[k] - 3) % columns
                )
            if metric == 0:
                _roots(first, second)
            if not want_border:
                continue
            best, beyond = out[2, y - y0, a:b], out[4, y - y0, a:b]
            best[:] = np.float32(1e9)
            count = _gather(points, grid, i, j, fv, 1, 0, found)
            for k in range(count):
                _bisect(pu[k], pv[k], pr[k], places, to_u, to_v, best, beyond)
            if _any_beyond(first, best, bound):
                more = _gather(points, grid, i, j, fv, 2, count, found)
                for k in range(count, more):
                    _bisect(pu[k], pv[k], pr[k], places, to_u, to_v, best, beyond)
            if metric != 0:
                for x in range(best.shape[0]):
                    best[x] = np.float32(0.5) * (second[x] - first[x])
        for x in range(n):
            out[5, y - y0, x] = -near_u[x]
            out[6, y - y0, x] = -near_v[x]


@inlined
def _gather(points, grid, i, j, fv, ring, count, found):  # type: ignore[no-untyped-def]
    """Put the points of one ring of cells (the first with the cell itself) behind the `count` there are.

    found : (25,) each, the points' places in u and v, random values, and columns and rows from (i, j).
    """
    pu, pv, pr, pi, pj = found
    c, s = grid.c, grid.s
    for dj in range(-ring, ring + 1):
        for di in range(-ring, ring + 1):
            if ring == 2 and -2 < di < 2 and -2 < dj < 2:
                continue
            pu[count] = np.float32(di) + point_u(points, j + dj, i + di, c, s)
            pv[count] = np.float32(dj) + point_v(points, j + dj, i + di, c, s) - fv
            pr[count] = points[j + dj, i + di, 2]
            pi[count] = di
            pj[count] = dj
            count += 1
    return count


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
def _roots(first, second):  # type: ignore[no-untyped-def]
    for x in range(first.shape[0]):
        first[x] = np.float32(math.sqrt(first[x]))
        second[x] = np.float32(math.sqrt(second[x]))


@inlined
def _nearest_of(k0, k1, metric, pu, pv, places, first, second, index):  # type: ignore[no-untyped-def]
    for k in range(k0, k1):
        if metric == 0:
            _nearer_euclid(pu[k], pv[k], np.int32(k), places, first, second, index)
        elif metric == 1:
            _nearer_manhattan(pu[k], pv[k], np.int32(k), places, first, second, index)
        else:
            _nearer_chebyshev(pu[k], pv[k], np.int32(k), places, first, second, index)


@kernel
def _nearer_euclid(pu, pv, k, places, first, second, index):  # type: ignore[no-untyped-def]
    """Compare one point with a run of samples."""
    for x in range(places.shape[0]):
        du = pu - places[x]
        d = du * du + pv * pv
        f = first[x]
        other = second[x]
        other = d if d < other else other
        second[x] = f if d < f else other
        index[x] = k if d < f else index[x]
        first[x] = d if d < f else f


@kernel
def _nearer_manhattan(pu, pv, k, places, first, second, index):  # type: ignore[no-untyped-def]
    """`_nearer_euclid` with diamond-shaped distances."""
    for x in range(places.shape[0]):
        d = abs(pu - places[x]) + abs(pv)
        f = first[x]
        other = second[x]
        other = d if d < other else other
        second[x] = f if d < f else other
        index[x] = k if d < f else index[x]
        first[x] = d if d < f else f


@kernel
def _nearer_chebyshev(pu, pv, k, places, first, second, index):  # type: ignore[no-untyped-def]
    """`_nearer_euclid` with square distances."""
    side = abs(pv)
    for x in range(places.shape[0]):
        d = abs(pu - places[x])
        d = d if d > side else side
        f = first[x]
        other = second[x]
        other = d if d < other else other
        second[x] = f if d < f else other
        index[x] = k if d < f else index[x]
        first[x] = d if d < f else f


@kernel
def _bisect(pu, pv, value, places, to_u, to_v, best, beyond):  # type: ignore[no-untyped-def]
    """Distance of a run of samples to the bisector between one point and each sample's nearest."""
    for x in range(places.shape[0]):
        du = pu - places[x]
        eu = du - to_u[x]
        ev = pv - to_v[x]
        square = eu * eu + ev * ev
        d = np.float32(0.5) * ((du + to_u[x]) * eu + (pv + to_v[x]) * ev)
        d = d / np.float32(math.sqrt(square + np.float32(1e-24)))
        d = d if square > np.float32(1e-12) else np.float32(1e9)
        b = best[x]
        beyond[x] = value if d < b else beyond[x]
        best[x] = d if d < b else b
