"""Reads one noise octave after another into a band of rows, on the tile's grid or at given places.

A `Reader` is made once per evaluation; `reader.basis(...)` prepares one octave and gives back a
function that adds rows of it. So sums of octaves know nothing of lattices, cells or places.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache as once
from typing import NamedTuple

import numpy as np

from reedloom.kernels.cell_lanes import EUCLID
from reedloom.kernels.cells import CELL_LIMIT, Cells, cell_points, cell_rows, swings
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.lattice import (
    DRAGGED,
    GRADIENT_DEVIATION,
    LIMIT,
    VALUE_DEVIATION,
    Corners,
    Lattice,
    add_lattice_places,
    octave_weight,
)
from reedloom.kernels.lattice_grid import FadedColumns, add_lattice_rows
from reedloom.kernels.lattice_reads import add_lattice_spread
from reedloom.kernels.places import CODES, FINE, WAYS, count_reads, spread_places, tile_places
from reedloom.kernels.reach import lay_beside, measure_reach
from reedloom.kernels.turned import Cosets

AddRows = Callable[[float, np.ndarray, int, int], None]
"""``add(amount, out, y0, y1)``: add rows y0..y1 of an octave, times amount, to the band ``out``."""
AddBand = Callable[[float, np.ndarray, "Band"], None]
AddSpread = Callable[[float, np.ndarray, "Band", "Fineness"], None]
MOST_SPLITS = 2
"""How often a sample is cut into four."""
AT_ONCE = 4096
"""Samples that are read several times each, together."""
FAINT = 0.03
"""Octaves weaker than this are read once: what that changes cannot be seen."""

DEVIATIONS = {"gradient": GRADIENT_DEVIATION, "value": VALUE_DEVIATION, "cellular": 0.245}
"""Standard deviation of one octave of each basis (measured)."""
CREASED = 1.6
"""How many times finer than a cell the creases between cells are."""
CELLULAR_MEAN = 0.48
"""Mean distance to the nearest point, in cell widths (measured with full jitter)."""


class Fineness(NamedTuple):
    """How fine a noise is.

    Attributes
    ----------
    columns, rows : float
        The finest that it holds, across and down the tile.
    finest : float
        The more of both, in a width.
    limit : float
        Samples that reach as far as this, in widths, are far above it.
    """

    columns: float
    rows: float
    finest: float
    limit: float


@dataclass(slots=True)
class Reader:
    """Where noise is read.

    Attributes
    ----------
    place : (H, W, 2) float32 or None
        Tile units; the tile's own grid when None.
    evolution : float or (H, W) float32
        The third coordinate; a map gives each sample its own.
    footprint : (H, W) or (1, 1) float32
        How far each sample reaches, in widths.
    offset : (float, float)
        Moves the tile's own grid, in tiles; lattice noise only.
    aspect : float
        The tile's height in widths.
    cosets : Cosets, optional
        Of lattices that are turned, among whose corners the places then are; cells are told in its own.
    ends : two (H,) or (1,) float32
        The least and the most that a sample of each row reaches; found from the footprint.
    beside : (float, float), optional
        Given places are read so much of what each sample covers away, along u and v.
    """

    width: int
    height: int
    place: np.ndarray | None
    evolution: float | np.ndarray
    footprint: np.ndarray
    offset: tuple[float, float] = (0.0, 0.0)
    aspect: float = 1.0
    cosets: Cosets | None = None
    ends: tuple[np.ndarray, ...] = ()
    beside: tuple[float, float] | None = None

    def __post_init__(self) -> None:
        # Every octave of every band asks for them; they stay where only places are exchanged.
        self.ends = self.ends or (self.footprint.min(axis=1), self.footprint.max(axis=1))

    @classmethod
    def over(
        cls,
        width: int,
        height: int,
        place: np.ndarray | None,
        evolution: float | np.ndarray,
        bands: Callable[..., None],
        aspect: float = 1.0,
        cosets: Cosets | None = None,
    ) -> Reader:
        """A reader with its footprint measured, band by band.

        Parameters
        ----------
        place : (H, W, 2) float32, optional
            In tiles; the tile's own grid if there is none.
        evolution : float or (H, W) float32
            In turns.
        bands : callable
            Runs band functions to the end.
        aspect : float
            The tile's height in widths.
        cosets : Cosets, optional
            Of lattices that are turned.
        """
        sample = max(1 / width, aspect / height)
        if place is None and isinstance(evolution, float) and cosets is None:
            whole = np.full((1, 1), sample, np.float32)
            return cls(width, height, None, evolution, whole, aspect=aspect)
        ends: tuple[np.ndarray, ...] = ()
        if place is None:
            place = tile_places(width, height)
            footprint = np.full((height, width), sample, np.float32)
        else:
            footprint, (least, most) = measure_reach(place, bands, aspect)
            ends = least, most
        if cosets is not None:
            place, footprint, aspect = cosets.among(place, footprint)
            ends = ()
        return cls(width, height, place, evolution, footprint, aspect=aspect, cosets=cosets, ends=ends)

    def per_width(self, columns: int, rows: int) -> float:
        """The cells of a lattice in one width of the tile, the way where there are more."""
        if self.cosets is not None:
            columns, rows = columns * self.cosets.times, rows * self.cosets.times
        return max(columns, rows / self.aspect)

    @property
    def finest(self) -> float:
        """Octaves with more cells than this lie below every sample's reach."""
        return float(LIMIT * 2**MOST_SPLITS / max(self.ends[0].min(), 1e-6))

    def basis(self, name: str, seed: int, columns: int, rows: int, fade: int = 0) -> AddRows:
        """Prepare one octave of "gradient", "value" or "cellular" noise, centred on 0.

        Octaves near the sampling limit are read at several places in each sample and averaged;
        those beyond it add nothing.

        Parameters
        ----------
        name : str
            "gradient", "value" or "cellular".
        columns, rows : int
            Cells, from 1 up.
        fade : int
            One of `lattice.FADES`.

        Returns
        -------
        a function ``add(amount, out, y0, y1)`` that adds it to rows
        """
        cosets = None if self.cosets is None else self.cosets.finer(columns)
        if cosets is not None:
            columns, rows = cosets.g, cosets.h
        if name == "cellular":
            return self.split_where_fine(self._cellular(seed, columns, rows, cosets), columns, rows, CREASED)
        whole = (columns, rows) if cosets is None else (cosets.columns, cosets.rows)
        add, spread = self._lattice(Lattice.of(seed, *whole, name == "value", fade, cosets))
        return self.split_where_fine(add, columns, rows, spread=spread)

    def split_where_fine(
        self, add: AddBand, columns: int, rows: int, detail: float = 1.0, spread: AddSpread | None = None
    ) -> AddRows:
        """Add bands of any noise with so many cells, read several times a sample where fine.

        Parameters
        ----------
        add : callable
            Adds a band, read once in each sample.
        columns, rows : int
            Cells, from 1 up.
        detail : float
            How many times finer than a cell what lies in it is.
        spread : callable, optional
            Adds a band at given places in one pass, if the noise can.

        Returns
        -------
        a function ``add(amount, out, y0, y1)``; see `basis`
        """
        cells = self.per_width(columns, rows)
        whole = 1 if self.cosets is None else self.cosets.times
        fineness = Fineness(
            columns * whole * detail, rows * whole * detail, cells * detail, LIMIT * 2**MOST_SPLITS / cells
        )

        def add_rows(amount: float, out: np.ndarray, y0: int, y1: int) -> None:
            band = Band.of(self, y0, y1)
            if cells * band.least >= LIMIT * 2**MOST_SPLITS:
                return
            if band.place is not None:
                _add_placed(add, spread, amount, out, band, fineness)
            else:
                _add_split(add, amount, out, band, fineness.finest, 0)

        return add_rows

    def _lattice(self, lattice: Lattice) -> tuple[AddBand, AddSpread | None]:
        """How bands are added, read once; and in one pass however often, at given places."""
        turned = lattice.cosets
        counts = (lattice.columns, lattice.rows) if turned is None else (turned.g, turned.h)
        finest = self.per_width(*counts)
        keep = self.width * self.height <= DRAGGED
        evolution = self.evolution
        if self.place is not None:

            @once  # only where needed: an octave beyond all samples has the largest table
            def corners() -> Corners:
                return lattice.corners_at_places(evolution, keep)

            def of(band: Band) -> Corners:
                made = corners()
                return made if band.evolution is None else made._replace(evolution=band.evolution)

            def add_placed(amount: float, out: np.ndarray, band: Band) -> None:
                where = (band.place, band.footprint)
                add_lattice_places(of(band), finest, *where, np.float32(amount), out)

            def add_spread(amount: float, out: np.ndarray, band: Band, fineness: Fineness) -> None:
                where = (band.around, band.y0, band.footprint)
                add_lattice_spread(of(band), tuple(fineness), *where, np.float32(amount), out)

            return add_placed, add_spread
        assert not isinstance(evolution, np.ndarray)  # each sample's own is read at its place
        moved = lattice.moved(*self.offset)

        @once
        def gridded() -> Corners:
            return moved.corners(evolution, keep)

        def add_gridded(amount: float, out: np.ndarray, band: Band) -> None:
            per_sample = max(lattice.columns / band.width, lattice.rows / band.height)
            share = np.float32(octave_weight(np.float32(per_sample)) * amount)
            columns = FadedColumns.of(moved, band.width)
            add_lattice_rows(gridded(), columns, band.height, share, out, band.y0, band.y1)

        return add_gridded, None

    def _cellular(self, seed: int, columns: int, rows: int, cosets: Cosets | None) -> AddBand:
        table = None if cosets is None else cosets.table()
        whole = (columns, rows) if table is None else (table.columns, table.rows)
        repeats = 1 if cosets is None or table is None else cosets.g // table.g
        if max(whole) > CELL_LIMIT:
            return lambda amount, out, band: None
        cells = Cells.of(cell_points(seed, *whole, 1.0, table), 1.0, EUCLID, 2.0, self.evolution)
        still = None if isinstance(self.evolution, np.ndarray) else swings(self.evolution)

        def add(amount: float, out: np.ndarray, band: Band) -> None:
            if self.per_width(columns, rows) * band.least >= LOST:
                return
            place = band.places() if repeats == 1 else band.places() * np.float32(repeats)
            found = np.empty((8, *out.shape), np.float32)
            swing = swings(band.evolution) if still is None and band.evolution is not None else still
            cell_rows(cells, place, swing, False, False, found, 0, len(out))
            weight = clear_share(self.per_width(columns, rows), band.footprint)
            out += (found[0] - np.float32(CELLULAR_MEAN)) * weight * np.float32(amount)

        return add


def _add_split(add: AddBand, amount: float, out: np.ndarray, band: Band, finest: float, splits: int) -> None:
    """Add an octave on the grid, read at four, or sixteen, places in each sample where it is fine."""
    per_sample = finest * band.most
    if per_sample <= FINE or splits == MOST_SPLITS or abs(amount) < FAINT:
        add(amount, out, band)
        return
    fine = np.zeros((2 * out.shape[0], 2 * out.shape[1]), np.float32)
    _add_split(add, amount, fine, band.split(), finest, splits + 1)
    add_fours(fine, 1, out)


def _add_placed(
    add: AddBand, spread: AddSpread | None, amount: float, out: np.ndarray, band: Band, fineness: Fineness
) -> None:
    """Add an octave at given places, read several times in just those samples for which it is fine.

    Places jump at the borders of elements, so that a band may hold a few samples for which an octave is
    fine, and others that it is far below: those are read once, which gives its mean.
    """
    assert band.around is not None
    if abs(amount) < FAINT or fineness.finest * band.most <= FINE:
        add(amount, out, band)
        return
    if spread is not None:
        spread(amount, out, band, fineness)
        return
    needed = np.empty(out.shape, np.uint8)
    count_reads(band.around, band.y0, band.footprint, tuple(fineness), needed)
    codes = needed.reshape(-1)
    order = np.argsort(codes, kind="stable")
    ends = np.cumsum(np.bincount(codes, minlength=CODES))
    if ends[0]:
        before = out.reshape(-1)[order[ends[0] :]]
        add(amount, out, band)
        out.reshape(-1)[order[ends[0] :]] = before
    for code in np.flatnonzero(np.diff(ends)) + 1:
        chosen = order[ends[code - 1] : ends[code]]
        splits, across, along = code >> 4, WAYS[code >> 2 & 3], WAYS[code & 3]
        for start in range(0, len(chosen), AT_ONCE):
            y, x = np.divmod(chosen[start : start + AT_ONCE], out.shape[1])
            few = band.some(y, x, int(splits), across, along)
            read = np.zeros(few.footprint.shape, np.float32)
            add(amount, read, few)
            out[y, x] += read.reshape(along, len(y), across).mean(axis=(0, 2), dtype=np.float32)


LOST = 1.0
"""Cells in a sample from which nothing of cellular noise is left but its mean."""


def clear_share(cells: float, footprint: np.ndarray) -> np.ndarray:
    """How much of cellular noise a sample can carry: all up to half a cell, none from a whole one.

    Parameters
    ----------
    cells : float
        In a width of the tile.
    footprint : (n, W) float32
        In widths.

    Returns
    -------
    (n, W) float32, 0 to 1
    """
    out = np.empty(footprint.shape, np.float32)
    fill_clear(np.float32(cells), footprint.reshape(-1), out.reshape(-1))
    return out


@inlined
def _clear(cells):  # type: ignore[no-untyped-def]
    """See `clear_share`; from the cells in a sample."""
    return min(max(np.float32(2) - np.float32(2) * cells, np.float32(0)), np.float32(1))


@kernel
def fill_clear(cells, footprint, out):  # type: ignore[no-untyped-def]
    """`clear_share` of (n,) footprints."""
    for k in range(out.shape[0]):
        out[k] = _clear(cells * footprint[k])


@kernel
def fade_unclear(cells, mean, footprint, values):  # type: ignore[no-untyped-def]
    """Fade values to their mean by what samples cannot carry of them; see `clear_share`.

    Parameters
    ----------
    cells : float32
        In a width of the tile.
    mean : float32
    footprint : (n,) float32
        In widths.
    values : (n,) float32
        Changed.
    """
    for k in range(values.shape[0]):
        values[k] = mean + (values[k] - mean) * _clear(cells * footprint[k])


def average_fours(fine: np.ndarray) -> np.ndarray:
    """Each 2×2 block's mean: (2n, 2W, ...) to (n, W, ...)."""
    out = np.zeros((fine.shape[0] // 2, fine.shape[1] // 2, *fine.shape[2:]), np.float32)
    lines = np.ascontiguousarray(fine, np.float32).reshape(len(fine), -1)
    add_fours(lines, math.prod(fine.shape[2:]), out.reshape(len(out), -1))
    return out


@kernel
def add_fours(fine, values, out):  # type: ignore[no-untyped-def]
    """Add each 2×2 block's mean to rows of a map: (2n, 2W values) to (n, W values), both contiguous."""
    for y in range(out.shape[0]):
        upper, lower, line = fine[2 * y], fine[2 * y + 1], out[y]
        if values == 1:  # its own loop, which becomes vectors
            for x in range(out.shape[1]):
                total = (upper[2 * x] + upper[2 * x + 1]) + (lower[2 * x] + lower[2 * x + 1])
                line[x] += total * np.float32(0.25)
            continue
        for x in range(out.shape[1]):
            left = x // values * 2 * values + x % values
            total = (upper[left] + upper[left + values]) + (lower[left] + lower[left + values])
            line[x] += total * np.float32(0.25)


@dataclass(frozen=True, slots=True)
class Band:
    """The rows y0..y1 of a map of some size, with their own places, footprint and evolution.

    `around` holds the places of the whole map, or of these rows (then from 1 on) and their neighbours, for
    the steps to neighbouring samples; `least` and `most` are what its samples reach, in widths.
    """

    width: int
    height: int
    y0: int
    y1: int
    place: np.ndarray | None
    footprint: np.ndarray
    evolution: np.ndarray | None
    around: np.ndarray | None
    least: float
    most: float

    @classmethod
    def of(cls, reader: Reader, y0: int, y1: int) -> Band:
        """A reader's rows."""
        size, around = (reader.width, reader.height), reader.place
        moving = reader.evolution[y0:y1] if isinstance(reader.evolution, np.ndarray) else None
        if around is None:
            reach = (float(end.min()) for end in reader.ends)
            return cls(*size, y0, y1, None, reader.footprint, moving, None, *reach)
        footprint = reader.footprint[y0:y1]
        least, most = (end[y0:y1] for end in reader.ends)
        first = y0
        if reader.beside is not None:
            # With one more row above and below, for the steps to neighbours.
            shares = map(np.float32, reader.beside)
            around, first = np.empty((y1 - y0 + 2, *around.shape[1:]), np.float32), 1
            lay_beside(reader.place, reader.footprint, *shares, y0 - 1, around)
        place = around[first : first + y1 - y0]
        ends = float(least.min()), float(most.max())
        return cls(*size, first, first + y1 - y0, place, footprint, moving, around, *ends)

    def places(self) -> np.ndarray:
        """The place of each sample of these rows: (n, W, 2)."""
        if self.place is not None:
            return self.place
        return tile_places(self.width, self.height, range(self.y0, self.y1))

    def split(self) -> Band:
        """The same rows of the tile's own grid with each sample cut into four."""
        rows = (2 * self.y0, 2 * self.y1)
        reach = self.least / 2, self.most / 2
        return Band(2 * self.width, 2 * self.height, *rows, None, self.footprint / 2, None, None, *reach)

    def some(self, y: np.ndarray, x: np.ndarray, splits: int, across: int, along: int) -> Band:
        """Some samples of these rows in one row, each read so many times across and down.

        Parameters
        ----------
        y, x : (k,) whole
            The samples, counted from the band's first row.
        splits : int
            How often each is cut in two, for what a reading reaches.
        across, along : int
            In how many places each is read, across and down.

        Returns
        -------
        Band of one row: (1, along × k × across)
        """
        assert self.around is not None
        spread = np.empty((along, len(y), across, 2), np.float32)
        spread_places(self.around, y + self.y0, x, spread)
        place = spread.reshape(1, -1, 2)

        def repeated(values: np.ndarray) -> np.ndarray:
            return np.broadcast_to(values[y, x][:, None], (along, len(y), across)).reshape(1, -1)

        footprint = repeated(self.footprint) * np.float32(0.5**splits)
        evolution = None if self.evolution is None else repeated(self.evolution)
        reach = float(footprint.min()), float(footprint.max())
        return Band(self.width, self.height, self.y0, self.y1, place, footprint, evolution, None, *reach)
