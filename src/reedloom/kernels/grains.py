"""Scattered forms, one for each cell of a periodic lattice: spots, facets and fibres.

Each form reaches less than a cell beyond its own, so a sample looks at its cell and the eight around
it (facets at sixteen more where those can matter). Tables come with wrapped copies of the outer cells.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct

from reedloom.kernels.cell_lanes import CELL, EDGE, SPOT, U, V, find_spot
from reedloom.kernels.cells import is_each, swings
from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.octaves import LOST, AddRows, Reader, add_clear
from reedloom.kernels.runs import lay_out, locate, mean_run, outside, row_cells, run_end, span
from reedloom.kernels.splitting import Band
from reedloom.kernels.vectors import LANES

RING = 2
TABLE = 2048
"""Lattices finer than this are left at their mean."""
SHORT = 7
"""Samples in a run, on average, below which a row's spots are looked for sixteen samples at once."""
Fill = Callable[[np.ndarray, np.ndarray, np.ndarray, np.ndarray], None]
"""``fill(place, swing, footprint, out)``: the values at places."""


class Scatter(Struct, frozen=True):
    """Forms ready to be read.

    Attributes
    ----------
    fill : Fill
        Gives the values at some places.
    columns, rows : int
        Cells across and down.
    mean : float
        What the forms average to, which is all that is left where they are finer than a sample.
    detail : float
        How many forms side by side would fill a cell: thin ones are read more often in each sample.
    """

    fill: Fill
    columns: int
    rows: int
    mean: float
    detail: float = 1.0

    @classmethod
    def of(cls, fill: Fill, columns: int, rows: int, detail: float = 1.0) -> Scatter:
        """With the mean measured at hashed places.

        Parameters
        ----------
        detail : float
            As in the attribute; held between 1 and 4.
        """
        place = np.stack([unit_lattice(7, 64, 64, 1), unit_lattice(7, 64, 64, 2)], axis=-1)
        out = np.empty((64, 64), np.float32)
        fill(np.ascontiguousarray(place), swings(0.0), np.full((1, 1), 1e-6, np.float32), out)
        mean = float(out.mean(dtype=np.float64))
        return cls(fill, columns, rows, mean, min(max(detail, 1.0), 4.0))

    def reader(self, reader: Reader) -> AddRows:
        """A function that adds rows of them, less their mean; see `Reader.split_where_fine`."""
        still = None if isinstance(reader.evolution, np.ndarray) else swings(reader.evolution)
        cells = reader.per_width(self.columns, self.rows)
        # Loops measure edges by the way with more cells; on a tile that is not square that is not a width.
        whole = 1 if reader.cosets is None else reader.cosets.times
        share = np.float32(cells / (whole * max(self.columns, self.rows)))

        def add(amount: float, out: np.ndarray, band: Band) -> None:
            if cells * band.least >= LOST:  # then nothing of it is clear
                return
            found = np.empty_like(out)
            swing = swings(band.evolution) if still is None and band.evolution is not None else still
            assert swing is not None
            footprint = band.footprint if share == 1 else band.footprint * share
            self.fill(band.places(), swing, np.ascontiguousarray(footprint), found)
            numbers = map(np.float32, (cells, self.mean, amount))
            add_clear(*numbers, band.footprint, found, out)

        return reader.split_where_fine(add, self.columns, self.rows, self.detail)

    def is_lost(self, reader: Reader) -> bool:
        """Whether all of it is finer than any sample."""
        return reader.per_width(self.columns, self.rows) > min(TABLE, reader.finest)


@inlined
def _point(table, j, i, c, s, dj, di):  # type: ignore[no-untyped-def]
    """Where the point of a cell `di`, `dj` away lies, in cells from this one's corner."""
    q = j + dj
    p = i + di
    half = np.float32(0.5)
    u = table[q, p, 0] * c - table[q, p, 1] * table[q, p, 3] * s
    v = table[q, p, 0] * table[q, p, 3] * s + table[q, p, 1] * c
    return np.float32(di) + half + u, np.float32(dj) + half + v


@inlined
def _reaches(footprint, y, scale, edges):  # type: ignore[no-untyped-def]
    """What each sample of a row covers, in cells."""
    if footprint.shape[0] * footprint.shape[1] == 1:
        edges[:] = footprint[0, 0] * scale
        return
    row = footprint[y]
    for x in range(edges.shape[0]):
        edges[x] = row[x] * scale


@kernel
def lay_spots(table, cos, sin, laid):  # type: ignore[no-untyped-def]
    """What `find_spot` reads of a table of `spot_rows`.

    Parameters
    ----------
    table : (rows, columns, 6) float32
    cos, sin : float32
        How far points have circled.
    laid : (rows, columns, 4) float32
        Filled: where each point lies in its cell, 0 to 1, its spot's radius, and tone.
    """
    for j in range(laid.shape[0]):
        for i in range(laid.shape[1]):
            laid[j, i, 0], laid[j, i, 1] = _point(table, j, i, cos, sin, 0, 0)
            laid[j, i, 2], laid[j, i, 3] = table[j, i, 4], table[j, i, 5]


@kernel
def spot_rows(table, laid, hardness, place, swing, footprint, out):  # type: ignore[no-untyped-def]
    """The highest of round spots.

    Parameters
    ----------
    table : (rows + 4, columns + 4, 6) float32
        From `lay_cells`, with radius (cells; 0 for none) and tone behind each point.
    laid : (rows + 4, columns + 4, 4) float32
        From `lay_spots`; or (0, 0, 4) where samples have swings of their own.
    hardness : float32
        0 for domes, 1 for discs.
    place : (n, W, 2) float32
        In tiles.
    swing : (n, W, 2) or (1, 1, 2) float32
        From `swings`.
    footprint : (n, W) or (1, 1) float32
        What each sample covers, in tiles.
    out : (n, W) float32
        0 to 1.
    """
    rows = table.shape[0] - 2 * RING
    columns = table.shape[1] - 2 * RING
    n = out.shape[1]
    each = is_each(swing)
    at, edges = row_cells(n), np.empty(n, np.float32)
    cell, column, row, u, v = at[:5]
    values, numbers = np.empty((4, n + LANES), np.float32), np.empty((1, n + LANES), np.int32)
    flat, shape = laid.reshape(-1, 4), np.array([laid.shape[1], n + LANES, 0], np.int32)
    for y in range(out.shape[0]):
        locate(place[y].reshape(-1), columns, rows, at)
        _reaches(footprint, y, np.float32(max(rows, columns)), edges)
        line = out[y]
        if len(laid) and mean_run(cell) < SHORT:
            lay_out(at, RING, laid.shape[1], values[U], values[V], numbers[CELL])
            for x in range(n):
                values[EDGE, x] = edges[x]
            for x in range(0, n, LANES):
                find_spot(flat, values, numbers, x, shape, hardness)
            for x in range(n):
                line[x] = values[SPOT, x]
            continue
        line[:] = np.float32(0.0)
        a = 0
        while a < n:
            b = a + 1 if each else run_end(cell, a)
            c, s = swing[y * each, a * each, 0], swing[y * each, a * each, 1]
            i, j = column[a] + RING, row[a] + RING
            left, right = span(u, a, b)
            top, bottom = span(v, a, b)
            edge = span(edges, a, b)[1]
            for dj in range(-1, 2):
                for di in range(-1, 2):
                    radius = table[j + dj, i + di, 4]
                    if radius <= np.float32(0.0):
                        continue
                    pu, pv = _point(table, j, i, c, s, dj, di)
                    du = outside(left, right, pu)
                    dv = outside(top, bottom, pv)
                    limit = radius + edge
                    if du * du + dv * dv < limit * limit:
                        spot = (
                            pu,
                            pv,
                            radius,
                            radius * (np.float32(1.0) - hardness),
                            table[j + dj, i + di, 5],
                        )
                        _lay_spot(line, u, v, edges, a, b, spot)
            a = b


@inlined
def _lay_spot(line, u, v, edges, a, b, spot):  # type: ignore[no-untyped-def]
    """The higher of a run of values and one spot: where its point is, its radius, soft rim and tone.

    An edge sharper than a sample is widened to both sides.
    """
    pu, pv, radius, soft, tone = spot
    for x in range(np.uint64(a), np.uint64(b)):
        du, dv = u[x] - pu, v[x] - pv
        more = edges[x] - soft
        more = more if more > np.float32(0.0) else np.float32(0.0)
        t = (radius + np.float32(0.5) * more - np.float32(math.sqrt(du * du + dv * dv))) / (soft + more)
        t = t if t > np.float32(0.0) else np.float32(0.0)
        t = t if t < np.float32(1.0) else np.float32(1.0)
        t = t * t * (np.float32(3.0) - np.float32(2.0) * t) * tone
        line[x] = t if t > line[x] else line[x]


@kernel
def facet_rows(table, sides, sharpness, place, swing, out):  # type: ignore[no-untyped-def]
    """The lowest of pyramids that stand around each point: flat facets with sharp creases.

    Far pyramids that cannot be lower anywhere in a run are left out.

    Parameters
    ----------
    table : (rows + 4, columns + 4, 5 + 2 sides) float32
        From `lay_cells`, with each pyramid's height at its point and, for each side, the side's slope
        in u and v.
    sides : int
        From 3.
    sharpness : float32
        1 for pyramids, 0 for cones.
    place, swing
        As in `spot_rows`.
    out : (n, W) float32
        In cells.
    """
    rows = table.shape[0] - 2 * RING
    columns = table.shape[1] - 2 * RING
    n = out.shape[1]
    each = is_each(swing)
    # Between two sides, which stray by up to 0.15 of their distance, a pyramid rises by at least this.
    steepness = np.float32(math.cos(math.pi * 1.3 / sides))
    at, known = row_cells(n), np.empty((5, n), np.float32)
    cell, column, row, u, v = at[:5]
    rise, ways, cos, sin = known[0], (known[1], known[2]), known[3], known[4]
    for y in range(out.shape[0]):
        locate(place[y].reshape(-1), columns, rows, at)
        for x in range(n * each):
            cos[x], sin[x] = swing[y, x, 0], swing[y, x, 1]
        line = out[y]
        line[:] = np.float32(1e9)
        a = 0
        while a < n:
            b = run_end(cell, a)
            i, j = column[a] + RING, row[a] + RING
            left, right = span(u, a, b)
            top, bottom = span(v, a, b)
            highest = np.float32(1e9)
            for ring in range(1, 3):
                if ring == 2:
                    highest = span(line, a, b)[1]
                for dj in range(-ring, ring + 1):
                    for di in range(-ring, ring + 1):
                        if ring == 2 and -2 < di < 2 and -2 < dj < 2:
                            continue
                        form = table[j + dj, i + di]
                        if (
                            each
                        ):  # it circles about the middle of its cell, and strays as far from that anywhere
                            pu, pv = np.float32(di) + np.float32(0.5), np.float32(dj) + np.float32(0.5)
                        else:
                            pu, pv = _point(table, j, i, swing[0, 0, 0], swing[0, 0, 1], dj, di)
                        if ring == 2:
                            strays = np.float32(math.sqrt(form[0] * form[0] + form[1] * form[1]))
                            du, dv = outside(left, right, pu), outside(top, bottom, pv)
                            least = np.float32(math.sqrt(du * du + dv * dv)) - strays * np.float32(each)
                            if steepness * least + form[4] > highest:
                                continue
                        if each:
                            _ways_from_moving(u, v, cos, sin, a, b, (form, pu, pv), ways)
                        else:
                            _ways_from(u, v, a, b, pu, pv, ways)
                        rise[a:b] = np.float32(-1e9)
                        for k in range(sides):
                            _lift(rise, ways, a, b, form[5 + 2 * k], form[6 + 2 * k])
                        _lower(line, rise, ways, a, b, sharpness, form[4])
            a = b


@inlined
def _ways_from(u, v, a, b, pu, pv, ways):  # type: ignore[no-untyped-def]
    """The ways to a run of samples from a point that stands still."""
    across, down = ways
    for x in range(np.uint64(a), np.uint64(b)):
        across[x] = u[x] - pu
    for x in range(np.uint64(a), np.uint64(b)):
        down[x] = v[x] - pv


@inlined
def _ways_from_moving(u, v, cos, sin, a, b, point, ways):  # type: ignore[no-untyped-def]
    """The same from a point of which each sample sees its own part of the circle, about a middle."""
    across, down = ways
    form, middle_u, middle_v = point
    pu, pv, way = form[0], form[1], form[3]
    for x in range(np.uint64(a), np.uint64(b)):
        across[x] = u[x] - middle_u - (pu * cos[x] - pv * way * sin[x])
    for x in range(np.uint64(a), np.uint64(b)):
        down[x] = v[x] - middle_v - (pu * way * sin[x] + pv * cos[x])


@inlined
def _lift(rise, ways, a, b, nu, nv):  # type: ignore[no-untyped-def]
    """The higher of a run of heights and one plane through the point."""
    across, down = ways
    for x in range(np.uint64(a), np.uint64(b)):
        t = across[x] * nu + down[x] * nv
        rise[x] = t if t > rise[x] else rise[x]


@inlined
def _lower(lowest, rise, ways, a, b, sharpness, peak):  # type: ignore[no-untyped-def]
    """The lower of a run of heights and one pyramid, mixed with a cone where it is not sharp."""
    across, down = ways
    round_ = np.float32(1.0) - sharpness
    for x in range(np.uint64(a), np.uint64(b)):
        du, dv = across[x], down[x]
        t = sharpness * rise[x] + round_ * np.float32(math.sqrt(du * du + dv * dv)) + peak
        lowest[x] = t if t < lowest[x] else lowest[x]


@kernel
def fibre_rows(table, ends, place, swing, footprint, out):  # type: ignore[no-untyped-def]
    """The highest of long grains.

    Parameters
    ----------
    table : (rows + 4, columns + 4, 8) float32
        From `lay_cells`, with half length (cells across), half width (cells down), slant, and tone
        behind each point.
    ends : float32
        Over which share of their length they taper, 0 to 1.
    place, swing, footprint
        As in `spot_rows`.
    out : (n, W) float32
        Raised to that where it is lower: 0 to 1.
    """
    rows = table.shape[0] - 2 * RING
    columns = table.shape[1] - 2 * RING
    n = out.shape[1]
    each = is_each(swing)
    steep = np.float32(1.0) / max(ends, np.float32(1e-3))
    at, edges = row_cells(n), np.empty(n, np.float32)
    cell, column, row, u, v = at[:5]
    for y in range(out.shape[0]):
        locate(place[y].reshape(-1), columns, rows, at)
        _reaches(footprint, y, np.float32(rows), edges)
        line = out[y]
        a = 0
        while a < n:
            b = a + 1 if each else run_end(cell, a)
            c, s = swing[y * each, a * each, 0], swing[y * each, a * each, 1]
            i, j = column[a] + RING, row[a] + RING
            left, right = span(u, a, b)
            top, bottom = span(v, a, b)
            edge = span(edges, a, b)[1]
            for dj in range(-1, 2):
                for di in range(-1, 2):
                    p, q = i + di, j + dj
                    length, slant = table[q, p, 4], table[q, p, 6]
                    pu, pv = _point(table, j, i, c, s, dj, di)
                    first, last = max(left - pu, -length), min(right - pu, length)
                    if first > length or last < -length:
                        continue
                    first, last = pv + first * slant, pv + last * slant
                    reach = max(table[q, p, 5], edge)
                    if min(first, last) - reach < bottom and max(first, last) + reach > top:
                        fibre = (pu, pv, np.float32(1.0) / length, table[q, p, 5], slant, table[q, p, 7])
                        _lay_fibre(line, u, v, edges, a, b, fibre, steep)
            a = b


@inlined
def _lay_fibre(line, u, v, edges, a, b, fibre, steep):  # type: ignore[no-untyped-def]
    """The higher of a run of values and one fibre: where its point is, and what shape it has.

    Thinner than a sample, it shows by the share of the sample that it fills.
    """
    pu, pv, scale, thick, slant, tone = fibre
    one, zero = np.float32(1.0), np.float32(0.0)
    for x in range(np.uint64(a), np.uint64(b)):
        du = u[x] - pu
        taper = (one - abs(du) * scale) * steep
        taper = taper if taper < one else one
        taper = taper if taper > zero else zero
        half = thick * np.float32(math.sqrt(taper))
        width = half if half > edges[x] else edges[x]
        t = one - abs(v[x] - pv - du * slant) / width
        t = t if t > zero else zero
        t = t * (np.float32(2.0) - t) * tone * (half / width)
        line[x] = t if t > line[x] else line[x]
