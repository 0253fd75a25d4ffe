"""Scattered forms, one for each cell of a periodic lattice: spots, facets and fibres.

Each form reaches less than a cell beyond its own, so a sample looks at its cell and the eight around
it (facets at sixteen more where those can matter). Tables come with wrapped copies of the outer cells.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from reedloom.kernels.cells import Grid, GridColumns, swings
from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.octaves import AddRows, Band, Reader, clear_share

RING = 2
TABLE = 2048
"""Lattices finer than this are left at their mean."""
Fill = Callable[[np.ndarray, np.ndarray, np.ndarray, np.ndarray], None]
"""``fill(place, swing, footprint, out)``: the values at places."""
GridFill = Callable[[Grid, np.ndarray, int, int], None]
"""``grid_fill(grid, out, y0, y1)``: the same values in rows of the tile's own grid, faster."""


@dataclass(frozen=True, slots=True)
class Scatter:
    """Forms ready to be read.

    Attributes
    ----------
    fill, grid_fill : Fill, GridFill
        Give the values at some places, and on the tile's own grid.
    columns, rows : int
        Cells across and down.
    mean : float
        What the forms average to, which is all that is left where they are finer than a sample.
    detail : float
        How many forms side by side would fill a cell: thin ones are read more often in each sample.
    """

    fill: Fill
    grid_fill: GridFill
    columns: int
    rows: int
    mean: float
    detail: float = 1.0

    @classmethod
    def of(cls, fill: Fill, grid_fill: GridFill, columns: int, rows: int, detail: float = 1.0) -> Scatter:
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
        return cls(fill, grid_fill, columns, rows, mean, min(max(detail, 1.0), 4.0))

    def reader(self, reader: Reader) -> AddRows:
        """A function that adds rows of them; see `Reader.basis`."""
        still = None if isinstance(reader.evolution, np.ndarray) else swings(reader.evolution)
        cells = reader.per_width(self.columns, self.rows)
        # Loops measure edges by the way with more cells; on a tile that is not square that is not a width.
        share = np.float32(cells / max(self.columns, self.rows))
        grids = {n * reader.width: GridColumns.of(self.columns, n * reader.width) for n in (1, 2, 4)}

        def add(amount: float, out: np.ndarray, band: Band) -> None:
            found = np.empty_like(out)
            if band.place is None and still is not None:
                sample = share * np.float32(max(1 / band.width, reader.aspect / band.height))
                grid = Grid(grids[band.width], band.height, sample, *still[0, 0])
                self.grid_fill(grid, found, band.y0, band.y1)
            else:
                swing = swings(band.evolution) if still is None and band.evolution is not None else still
                assert swing is not None
                footprint = band.footprint if share == 1 else band.footprint * share
                self.fill(band.places(), swing, np.ascontiguousarray(footprint), found)
            clear = clear_share(cells, band.footprint)
            out += np.float32(amount) * (np.float32(self.mean) + clear * (found - np.float32(self.mean)))

        return reader.split_where_fine(add, self.columns, self.rows, self.detail)

    def is_lost(self, reader: Reader) -> bool:
        """Whether all of it is finer than any sample."""
        return reader.per_width(self.columns, self.rows) > min(TABLE, reader.finest)


@inlined
def _cell(place, count):  # type: ignore[no-untyped-def]
    """The cell of a place along one axis in a table with its ring, and where in the cell it is."""
    at = place * np.float32(count)
    cell = math.floor(at)
    return int(cell) % count + 2, np.float32(at - cell)


@inlined
def _way(table, j, i, di, dj, fu, fv, c, s):  # type: ignore[no-untyped-def]
    """From the point of a cell `di`, `dj` away to the sample, in cells."""
    q = j + dj
    p = i + di
    u = table[q, p, 0] * c - table[q, p, 1] * table[q, p, 3] * s
    v = table[q, p, 0] * table[q, p, 3] * s + table[q, p, 1] * c
    half = np.float32(0.5)
    return fu - np.float32(di) - half - u, fv - np.float32(dj) - half - v


@kernel
def spot_rows(table, hardness, place, swing, footprint, out):  # type: ignore[no-untyped-def]
    """The highest of round spots.

    Parameters
    ----------
    table : (rows + 4, columns + 4, 6) float32
        From `lay_cells`, with radius (cells; 0 for none) and tone behind each point.
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
    rows = table.shape[0] - 4
    columns = table.shape[1] - 4
    each = 1 if swing.shape[0] * swing.shape[1] > 1 else 0
    wide = 1 if footprint.shape[0] * footprint.shape[1] > 1 else 0
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            i, fu = _cell(place[y, x, 0], columns)
            j, fv = _cell(place[y, x, 1], rows)
            c = swing[y * each, x * each, 0]
            s = swing[y * each, x * each, 1]
            edge = footprint[y * wide, x * wide] * np.float32(max(rows, columns))
            best = np.float32(0.0)
            for dj in range(-1, 2):
                for di in range(-1, 2):
                    radius = table[j + dj, i + di, 4]
                    if radius <= 0.0:
                        continue
                    du, dv = _way(table, j, i, di, dj, fu, fv, c, s)
                    square = du * du + dv * dv
                    limit = radius + edge
                    if square >= limit * limit:
                        continue
                    soft = radius * (np.float32(1.0) - hardness)
                    # An edge sharper than a sample is widened to both sides.
                    more = max(edge - soft, np.float32(0.0))
                    t = (radius + np.float32(0.5) * more - np.float32(math.sqrt(square))) / (soft + more)
                    t = min(max(t, np.float32(0.0)), np.float32(1.0))
                    t = t * t * (np.float32(3.0) - np.float32(2.0) * t) * table[j + dj, i + di, 5]
                    best = max(best, t)
            out[y, x] = best


@kernel
def facet_rows(table, sides, sharpness, place, swing, footprint, out):  # type: ignore[no-untyped-def]
    """The lowest of pyramids that stand around each point: flat facets with sharp creases.

    Parameters
    ----------
    table : (rows + 4, columns + 4, 5 + 2 sides) float32
        From `lay_cells`, with each pyramid's height at its point and, for each side, the side's slope
        in u and v.
    sides : int
        From 3.
    sharpness : float32
        1 for pyramids, 0 for cones.
    place, swing, footprint
        As in `spot_rows`.
    out : (n, W) float32
        In cells.
    """
    rows = table.shape[0] - 4
    columns = table.shape[1] - 4
    each = 1 if swing.shape[0] * swing.shape[1] > 1 else 0
    round_ = np.float32(1.0) - sharpness
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            i, fu = _cell(place[y, x, 0], columns)
            j, fv = _cell(place[y, x, 1], rows)
            c = swing[y * each, x * each, 0]
            s = swing[y * each, x * each, 1]
            best = np.float32(1e9)
            for ring in range(1, 3):
                # A side rises by at least half a cell for each, so that far points cannot be lower.
                reach = min(fu, np.float32(1.0) - fu, fv, np.float32(1.0) - fv) + np.float32(1.0)
                if ring == 2 and best <= np.float32(0.5) * reach - np.float32(0.125):
                    break
                for dj in range(-ring, ring + 1):
                    for di in range(-ring, ring + 1):
                        if ring == 2 and -2 < di < 2 and -2 < dj < 2:
                            continue
                        du, dv = _way(table, j, i, di, dj, fu, fv, c, s)
                        side = np.float32(-1e9)
                        for k in range(sides):
                            rise = (
                                du * table[j + dj, i + di, 5 + 2 * k] + dv * table[j + dj, i + di, 6 + 2 * k]
                            )
                            side = max(side, rise)
                        if round_ > 0.0:
                            side = sharpness * side + round_ * np.float32(math.sqrt(du * du + dv * dv))
                        best = min(best, side + table[j + dj, i + di, 4])
            out[y, x] = best


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
        0 to 1.
    """
    rows = table.shape[0] - 4
    columns = table.shape[1] - 4
    each = 1 if swing.shape[0] * swing.shape[1] > 1 else 0
    wide = 1 if footprint.shape[0] * footprint.shape[1] > 1 else 0
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            i, fu = _cell(place[y, x, 0], columns)
            j, fv = _cell(place[y, x, 1], rows)
            c = swing[y * each, x * each, 0]
            s = swing[y * each, x * each, 1]
            edge = footprint[y * wide, x * wide] * np.float32(rows)
            best = np.float32(0.0)
            for dj in range(-1, 2):
                for di in range(-1, 2):
                    du, dv = _way(table, j, i, di, dj, fu, fv, c, s)
                    along = abs(du) / table[j + dj, i + di, 4]
                    if along >= 1.0:
                        continue
                    across = abs(dv - du * table[j + dj, i + di, 6])
                    taper = min((np.float32(1.0) - along) / max(ends, np.float32(1e-3)), np.float32(1.0))
                    half = table[j + dj, i + di, 5] * np.float32(math.sqrt(taper))
                    # Thinner than a sample, it shows by the share of the sample that it fills.
                    width = max(half, edge)
                    if across >= width:
                        continue
                    t = np.float32(1.0) - across / width
                    t = t * (np.float32(2.0) - t) * table[j + dj, i + di, 7] * (half / width)
                    best = max(best, t)
            out[y, x] = best


@inlined
def _point(table, j, i, c, s, dj, di):  # type: ignore[no-untyped-def]
    """Where the point of a cell `di`, `dj` away lies, in cells from this one's corner."""
    q = j + dj
    p = i + di
    half = np.float32(0.5)
    u = table[q, p, 0] * c - table[q, p, 1] * table[q, p, 3] * s
    v = table[q, p, 0] * table[q, p, 3] * s + table[q, p, 1] * c
    return np.float32(di) + half + u, np.float32(dj) + half + v


@kernel
def spot_grid_rows(table, hardness, grid, out, y0, y1):  # type: ignore[no-untyped-def]
    """`spot_rows` on the tile's own `Grid`: each spot is drawn over a run of samples, in vectors.

    Parameters
    ----------
    table, hardness
        As in `spot_rows`.
    grid : Grid
    out : (y1 - y0, W) float32
        Just the band's rows.
    """
    fractions, starts, runs = grid.columns
    height, c, s = grid.height, grid.c, grid.s
    rows = table.shape[0] - 4
    columns = table.shape[1] - 4
    edge = grid.sample * np.float32(max(rows, columns))
    n = out.shape[1]
    line = np.empty(n, np.float32)
    for y in range(y0, y1):
        v = (y + 0.5) * rows / height
        row = int(v)
        fv = np.float32(v - row)
        j = row % rows + 2
        line[:] = np.float32(0.0)
        for run in range(runs.shape[0]):
            i = runs[run] + 2
            for dj in range(-1, 2):
                for di in range(-1, 2):
                    radius = table[j + dj, i + di, 4]
                    pu, pv = _point(table, j, i, c, s, dj, di)
                    pv -= fv
                    if radius <= 0.0 or abs(pv) >= radius + edge:
                        continue
                    soft = radius * (np.float32(1.0) - hardness)
                    more = max(edge - soft, np.float32(0.0))
                    scale = np.float32(1.0) / (soft + more)
                    start = (radius + np.float32(0.5) * more) * scale
                    tone = table[j + dj, i + di, 5]
                    for x in range(starts[run], starts[run + 1]):
                        du = fractions[x] - pu
                        t = start - np.float32(math.sqrt(du * du + pv * pv)) * scale
                        t = t if t > np.float32(0.0) else np.float32(0.0)
                        t = t if t < np.float32(1.0) else np.float32(1.0)
                        t = t * t * (np.float32(3.0) - np.float32(2.0) * t) * tone
                        line[x] = t if t > line[x] else line[x]
        out[y - y0] = line


@inlined
def _ceiling(values):  # type: ignore[no-untyped-def]
    """A rough upper bound of a run of values, found by counting, which runs in vectors."""
    some, many = 0, 0
    for x in range(values.shape[0]):
        some += 1 if values[x] > np.float32(0.7) else 0
        many += 1 if values[x] > np.float32(0.95) else 0
    if some == 0:
        return np.float32(0.7)
    return np.float32(0.95) if many == 0 else np.float32(1e9)


@kernel
def _lift(rise, places, slope, base):  # type: ignore[no-untyped-def]
    """The higher of a run of heights and one plane."""
    for x in range(rise.shape[0]):
        t = places[x] * slope + base
        rise[x] = t if t > rise[x] else rise[x]


@kernel
def _lower(lowest, rise, places, pu, dv, sharpness, peak):  # type: ignore[no-untyped-def]
    """The lower of a run of heights and one pyramid, mixed with a cone where it is not sharp."""
    round_ = np.float32(1.0) - sharpness
    square = dv * dv
    for x in range(lowest.shape[0]):
        du = places[x] - pu
        t = sharpness * rise[x] + round_ * np.float32(math.sqrt(du * du + square)) + peak
        lowest[x] = t if t < lowest[x] else lowest[x]


@kernel
def facet_grid_rows(table, sides, sharpness, grid, out, y0, y1):  # type: ignore[no-untyped-def]
    """`facet_rows` on the tile's own `Grid`; far pyramids that cannot be lower anywhere are left out.

    Parameters
    ----------
    table, sides, sharpness
        As in `facet_rows`.
    grid : Grid
    out : (y1 - y0, W) float32
        Just the band's rows.
    """
    fractions, starts, runs = grid.columns
    height, c, s = grid.height, grid.c, grid.s
    rows = table.shape[0] - 4
    # Between two sides, which stray by up to 0.15 of their distance, a pyramid rises by at least this.
    steepness = np.float32(math.cos(math.pi * 1.3 / sides))
    n = out.shape[1]
    line, side = np.empty(n, np.float32), np.empty(n, np.float32)
    for y in range(y0, y1):
        v = (y + 0.5) * rows / height
        row = int(v)
        fv = np.float32(v - row)
        j = row % rows + 2
        line[:] = np.float32(1e9)
        for run in range(runs.shape[0]):
            i = runs[run] + 2
            a, b = starts[run], starts[run + 1]
            lowest, rise, places = line[a:b], side[a:b], fractions[a:b]
            highest = np.float32(1e9)
            for ring in range(1, 3):
                if ring == 2:
                    highest = _ceiling(lowest)
                for dj in range(-ring, ring + 1):
                    for di in range(-ring, ring + 1):
                        if ring == 2 and -2 < di < 2 and -2 < dj < 2:
                            continue
                        pu, pv = _point(table, j, i, c, s, dj, di)
                        dv = fv - pv
                        beside = max(places[0] - pu, pu - places[places.shape[0] - 1], np.float32(0.0))
                        least = steepness * np.float32(math.sqrt(beside * beside + dv * dv))
                        if ring == 2 and least + table[j + dj, i + di, 4] > highest:
                            continue
                        rise[:] = np.float32(-1e9)
                        for k in range(sides):
                            nu = table[j + dj, i + di, 5 + 2 * k]
                            base = dv * table[j + dj, i + di, 6 + 2 * k] - pu * nu
                            _lift(rise, places, nu, base)
                        _lower(lowest, rise, places, pu, dv, sharpness, table[j + dj, i + di, 4])
        out[y - y0] = line


@kernel
def fibre_grid_rows(table, ends, grid, moved, out, y0, y1):  # type: ignore[no-untyped-def]
    """`fibre_rows` on the tile's own `Grid`, moved down.

    A run of samples goes on while both its column and its row of cells are the same.

    Parameters
    ----------
    table, ends
        As in `fibre_rows`.
    grid : Grid
    moved : (y1 - y0, W) float32
        What v is moved by, in tiles.
    out : (y1 - y0, W) float32
        Just the band's rows.
    """
    fractions, starts, runs = grid.columns
    height, c, s = grid.height, grid.c, grid.s
    rows = table.shape[0] - 4
    edge = grid.sample * np.float32(rows)
    n = out.shape[1]
    down = np.empty(n, np.float32)
    cell = np.empty(n, np.int32)
    steep = np.float32(1.0) / max(ends, np.float32(1e-3))
    for y in range(y0, y1):
        line = out[y - y0]
        line[:] = np.float32(0.0)
        at = np.float32((y + 0.5) * rows / height + rows)
        for x in range(n):
            v = at + moved[y - y0, x] * np.float32(rows)
            whole = np.int32(math.floor(v))
            cell[x] = whole
            down[x] = v - np.float32(whole)
        for run in range(runs.shape[0]):
            i = runs[run] + 2
            a = starts[run]
            while a < starts[run + 1]:
                b = a + 1
                while b < starts[run + 1] and cell[b] == cell[a]:
                    b += 1
                j = cell[a] % rows + 2
                for dj in range(-1, 2):
                    for di in range(-1, 2):
                        pu, pv = _point(table, j, i, c, s, dj, di)
                        form = table[j + dj, i + di]
                        fibre = (pu, pv, np.float32(1.0) / form[4], form[5], form[6], form[7])
                        _lay_fibre(line[a:b], fractions[a:b], down[a:b], fibre, steep, edge)
                a = b


@kernel
def _lay_fibre(line, places, down, fibre, steep, edge):  # type: ignore[no-untyped-def]
    """The higher of a run of values and one fibre: where its point is, and what shape it has."""
    pu, pv, scale, thick, slant, tone = fibre
    one, zero = np.float32(1.0), np.float32(0.0)
    for x in range(line.shape[0]):
        du = places[x] - pu
        taper = (one - abs(du) * scale) * steep
        taper = taper if taper < one else one
        taper = taper if taper > zero else zero
        half = thick * np.float32(math.sqrt(taper))
        width = half if half > edge else edge
        t = one - abs(down[x] - pv - du * slant) / width
        t = t if t > zero else zero
        t = t * (np.float32(2.0) - t) * tone * (half / width)
        line[x] = t if t > line[x] else line[x]
