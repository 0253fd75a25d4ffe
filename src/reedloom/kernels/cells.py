"""Cellular noise over a periodic lattice with one point in each cell.

After S. Worley, *A cellular texture basis function* (SIGGRAPH 1996). The search widens ring by ring
until no farther cell can hold a nearer point, so distances are exact for any jitter. The distance to
the border is exact too: the least distance to the bisectors between the nearest point and the others.
"""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.hashing import hash_lattice, unit_lattice
from reedloom.kernels.jit import inlined, kernel

RING = 3
"""Wrapped cells kept around the lattice, so that the search needs no wrapping of its own."""

CELL_LIMIT = 1024
"""Most cells across or down the tile."""

EUCLID, MANHATTAN, CHEBYSHEV, MINKOWSKI = range(4)


def cell_points(seed: int, columns: int, rows: int, jitter: float, evolution: float = 0.0) -> np.ndarray:
    """Where the point of each cell lies in it, and the cell's random value.

    Parameters
    ----------
    jitter : float
        From 0, points in the middle of their cells, to 1, anywhere in them.
    evolution : float
        Points circle round within their cells, back at their start after every whole step.

    Returns
    -------
    (rows + 2 RING, columns + 2 RING, 3) float32
        Offset in u and v (0..1 of a cell), random value; wrapped copies around the edge.
    """
    u = unit_lattice(seed, columns, rows, 1).astype(np.float64) - 0.5
    v = unit_lattice(seed, columns, rows, 2).astype(np.float64) - 0.5
    if evolution:
        turns = np.array([-1.0, 1.0])[hash_lattice(seed, columns, rows, 4) & np.uint32(1)]
        angle = turns * (2 * math.pi * evolution)
        u, v = u * np.cos(angle) - v * np.sin(angle), u * np.sin(angle) + v * np.cos(angle)
        u, v = np.clip(u, -0.5, 0.5), np.clip(v, -0.5, 0.5)
    points = np.stack([0.5 + jitter * u, 0.5 + jitter * v, unit_lattice(seed, columns, rows, 3)], axis=-1)
    across = (np.arange(-RING, columns + RING)) % columns
    down = (np.arange(-RING, rows + RING)) % rows
    return np.ascontiguousarray(points[down[:, None], across[None, :]].astype(np.float32))


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
def cell_rows(points, place, jitter, metric, power, want_border, out, y0, y1):  # type: ignore[no-untyped-def]
    """Search the cells for rows of a map.

    Parameters
    ----------
    points : from `cell_points`
    place : (H, W, 2) float32, tile units
    want_border : bool
        Whether to look for the exact border and the cell beyond it.
    out : (H, W, 8) float32
        Nearest and second distance, distance to border (all in cell widths), random value of the
        nearest cell and of the cell across the border, vector from the nearest point in u and v
        (cell widths), column + row × columns of the nearest cell.
    """
    rows = points.shape[0] - 6
    columns = points.shape[1] - 6
    # With little jitter points keep away from their cells' edges, and fewer rings can matter.
    slack = np.float32(0.5) * (np.float32(1.0) - jitter)
    for y in range(y0, y1):
        for x in range(out.shape[1]):
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
                        pu = np.float32(di) + points[j + dj, i + di, 0] - fu
                        pv = np.float32(dj) + points[j + dj, i + di, 1] - fv
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
                border, across = _border(
                    points,
                    i,
                    j,
                    fu,
                    fv,
                    near_u,
                    near_v,
                    near_i,
                    near_j,
                    first,
                    metric,
                    power,
                    border,
                    across,
                    slack,
                )
            out[y, x, 0] = first
            out[y, x, 1] = second
            out[y, x, 2] = border
            out[y, x, 3] = points[j + near_j, i + near_i, 2]
            out[y, x, 4] = across
            out[y, x, 5] = -near_u
            out[y, x, 6] = -near_v
            out[y, x, 7] = np.float32((j + near_j - 3) % rows * columns + (i + near_i - 3) % columns)


@inlined
def _border(points, i, j, fu, fv, near_u, near_v, near_i, near_j, first, metric, power, rough, across, slack):  # type: ignore[no-untyped-def]
    """Exact distance to the nearest bisector, and the random value of the cell beyond it.

    A point farther than first + 2 border cannot bound the cell any more, which ends the widening.
    For other metrics than Euclid's the rough half difference of distances is kept.
    """
    best = np.float32(1e9)
    for ring in range(1, 4):
        if ring > 1 and first + np.float32(2.0) * best <= _reach(fu, fv, ring - 1) + slack:
            break
        for dj in range(-ring, ring + 1):
            for di in range(-ring, ring + 1):
                if (ring > 1 and abs(di) < ring and abs(dj) < ring) or (di == near_i and dj == near_j):
                    continue
                pu = np.float32(di) + points[j + dj, i + di, 0] - fu
                pv = np.float32(dj) + points[j + dj, i + di, 1] - fv
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
