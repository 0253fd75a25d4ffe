"""Reads octaves of noise into a band of rows, on the tile's grid or at given places.

A `Reader` is made once per evaluation; `reader.sum(...)` prepares octaves and gives back a
function that adds rows of them. So kinds of noise know nothing of lattices, cells or places.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from functools import cache as once
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from reedloom.kernels.cell_lanes import EUCLID
from reedloom.kernels.cells import CELL_LIMIT, Cells, cell_points, cell_rows, swings
from reedloom.kernels.jit import inlined, kernel, read_only
from reedloom.kernels.lattice import DRAGGED, GRADIENT_DEVIATION, VALUE_DEVIATION, Corners, Lattice
from reedloom.kernels.lattice_grid import FadedColumns, add_lattice_rows
from reedloom.kernels.lattice_places import FAR, octave_weight
from reedloom.kernels.lattice_reads import NOT_GIVEN, Places
from reedloom.kernels.placed_sums import PlacedSum
from reedloom.kernels.places import tile_places
from reedloom.kernels.reach import Reach, measure_footprint, measure_reach
from reedloom.kernels.splitting import AddBand, Band, Fineness, add_where_fine
from reedloom.kernels.turned import Cosets

AddRows = Callable[[float, np.ndarray, int, int], None]
"""``add(amount, out, y0, y1)``: add rows y0..y1 of an octave, times amount, to the band ``out``."""
LayRows = Callable[[float, float, np.ndarray, int, int], None]
"""``lay(amount, begin, out, y0, y1)``: lay rows y0..y1, times amount, on a number, or on what there is if it
is none."""
TOGETHER = 4
"""Octaves that are read together where each is wanted by itself: more would not stay in the cache."""

DEVIATIONS = {"gradient": GRADIENT_DEVIATION, "value": VALUE_DEVIATION, "cellular": 0.245}
"""Standard deviation of one octave of each basis (measured)."""
CREASED = 1.6
"""How many times finer than a cell the creases between cells are."""
CELLULAR_MEAN = 0.48
"""Mean distance to the nearest point, in cell widths (measured with full jitter)."""


class Layer(NamedTuple):
    """An octave of a sum: its cells, from 1 up, and what it is multiplied by."""

    seed: int
    columns: int
    rows: int
    amount: float


class Reader(Struct):
    """Where noise is read.

    Attributes
    ----------
    place : (H, W, 2) float32 or None
        Tile units; the tile's own grid when None.
    evolution : float or (H, W) float32
        The third coordinate; a map gives each sample its own.
    bands : callable
        Runs band functions to the end.
    offset : (float, float)
        Moves the tile's own grid, in tiles; lattice noise only.
    aspect : float
        The tile's height in widths.
    cosets : Cosets, optional
        Of lattices that are turned, among whose corners the places then are; cells are told in its own.
    reach : Reach, optional
        What each sample covers; measured when first asked for.
    beside : (float, float)
        Lattices are read so much of what each sample covers, which then is given, away from given places,
        along u and v.
    """

    width: int
    height: int
    place: np.ndarray | None
    evolution: float | np.ndarray
    bands: Callable[..., None]
    offset: tuple[float, float] = (0.0, 0.0)
    aspect: float = 1.0
    cosets: Cosets | None = None
    reach: Reach | None = None
    beside: tuple[float, float] = (0.0, 0.0)

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
        """A reader of a tile's samples.

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
            whole = Reach.of(np.full((1, 1), sample, np.float32))
            return cls(width, height, None, evolution, bands, aspect=aspect, reach=whole)
        reach = None
        if place is None:
            place = tile_places(width, height)
            reach = Reach.of(np.full((height, width), sample, np.float32))
        if cosets is not None:
            footprint = measure_footprint(place, bands, aspect) if reach is None else reach.footprint
            place, footprint, aspect = cosets.among(place, footprint)
            reach = Reach.of(footprint)
        return cls(width, height, place, evolution, bands, aspect=aspect, cosets=cosets, reach=reach)

    @property
    def footprint(self) -> np.ndarray:
        """How far each sample reaches, in widths: (H, W) or (1, 1) float32."""
        return self.measured().footprint

    def measured(self) -> Reach:
        """What each sample covers; sums of octaves of a lattice find it on their way."""
        if self.reach is None:
            assert self.place is not None
            self.reach = measure_reach(self.place, self.bands, self.aspect)
        return self.reach

    def band(self, y0: int, y1: int) -> Band:
        """Some rows."""
        moving = self.evolution[y0:y1] if isinstance(self.evolution, np.ndarray) else None
        size, reach = (self.width, self.height, y0, y1), self.measured()
        if self.place is None:
            ends = float(reach.ends[0].min()), float(reach.ends[1].max())
            return Band(*size, None, reach.footprint, moving, None, *ends)
        footprint, least, most = reach.band(y0, y1)
        return Band(*size, self.place[y0:y1], footprint, moving, self.place, least, most)

    def per_width(self, columns: int, rows: int) -> float:
        """The cells of a lattice in one width of the tile, the way where there are more."""
        if self.cosets is not None:
            columns, rows = columns * self.cosets.times, rows * self.cosets.times
        return max(columns, rows / self.aspect)

    @property
    def finest(self) -> float:
        """Octaves with more cells than this lie below every sample's reach."""
        return float(FAR / max(self.measured().ends[0].min(), 1e-6))

    def _turned(self, columns: int, rows: int) -> tuple[int, int, Cosets | None]:
        """Cells of an octave along the ways of its lattice, and how that is turned."""
        cosets = None if self.cosets is None else self.cosets.finer(columns)
        return (columns, rows, None) if cosets is None else (cosets.g, cosets.h, cosets)

    def sum(self, name: str, layers: Sequence[Layer], fade: int = 0) -> AddRows:
        """Prepare a sum of octaves of "gradient", "value" or "cellular" noise, each centred on 0.

        Octaves near the sampling limit are read at several places in each sample and averaged;
        those beyond it add nothing.

        Parameters
        ----------
        name : str
            "gradient", "value" or "cellular".
        layers : Layers
            In the order in which they are added.
        fade : int
            One of `lattice.FADES`.

        Returns
        -------
        a function ``add(amount, out, y0, y1)`` that adds them to rows
        """
        lay = self.laid(name, layers, fade)
        return lambda amount, out, y0, y1: lay(amount, math.nan, out, y0, y1)

    def laid(self, name: str, layers: Sequence[Layer], fade: int = 0) -> LayRows:
        """Prepare a sum of octaves which are not always added to something.

        Parameters
        ----------
        name, layers, fade
            As in `sum`.

        Returns
        -------
        a function ``lay(amount, begin, out, y0, y1)`` that lays them in rows
        """
        if self._reads_together(name):
            (whole,) = self._sums(name, layers, fade, len(layers))

            def lay_all(amount: float, begin: float, out: np.ndarray, y0: int, y1: int) -> None:
                whole.lay(self._places(y0, y1), out[None], amount, begin)

            return lay_all
        adds = self._adds(name, layers, fade)

        def lay_each(amount: float, begin: float, out: np.ndarray, y0: int, y1: int) -> None:
            if not math.isnan(begin):
                out[...] = begin
            for share, add in adds:
                if add is not None:
                    add(share * amount, out, y0, y1)

        return lay_each

    def apart(self, name: str, layers: Sequence[Layer]) -> Callable[[int, int], Iterator[np.ndarray | None]]:
        """Prepare octaves of which each is wanted by itself.

        Parameters
        ----------
        name, layers
            As in `sum`.

        Returns
        -------
        a function ``each(y0, y1)`` that gives rows of one octave after another, (n, W) float32, which hold
        until the next is asked for; or None for one that lies below every sample's reach
        """
        if self._reads_together(name):
            sums = self._sums(name, layers, 0, TOGETHER)

            def together(y0: int, y1: int) -> Iterator[np.ndarray | None]:
                places = self._places(y0, y1)
                for some in sums:
                    planes = np.empty((len(some), y1 - y0, self.width), np.float32)
                    some.lay(places, planes, begin=0.0)
                    yield from planes

            return together
        adds = self._adds(name, layers, 0)

        def one_by_one(y0: int, y1: int) -> Iterator[np.ndarray | None]:
            for share, add in adds:
                rows = None if add is None else np.zeros((y1 - y0, self.width), np.float32)
                if add is not None and rows is not None:
                    add(share, rows, y0, y1)
                yield rows

        return one_by_one

    def _reads_together(self, name: str) -> bool:
        """Whether all octaves are read in one pass."""
        return self.place is not None and name != "cellular"

    def _sums(self, name: str, layers: Sequence[Layer], fade: int, most: int) -> list[PlacedSum]:
        evolution = None if isinstance(self.evolution, np.ndarray) else self.evolution
        keep = self.width * self.height <= DRAGGED
        lattices = self._lattices(name, layers, fade)
        finenesses = [self._fineness(*self._turned(o.columns, o.rows)[:2]) for o in layers]
        amounts = [layer.amount for layer in layers]
        parts = [slice(first, first + most) for first in range(0, len(layers), most)]
        return [PlacedSum(lattices[o], finenesses[o], amounts[o], evolution, keep) for o in parts]

    def _places(self, y0: int, y1: int) -> Places:
        """Where rows are read, for a pass over all octaves."""
        assert self.place is not None
        moving = self.evolution[y0:y1] if isinstance(self.evolution, np.ndarray) else NOT_GIVEN
        reach = NOT_GIVEN if self.reach is None else self.reach.footprint[y0:y1]
        beside = np.array(self.beside, np.float32)
        return Places(self.place, y0, np.float32(self.aspect), reach, moving, beside)

    def _adds(self, name: str, layers: Sequence[Layer], fade: int) -> list[tuple[float, AddRows | None]]:
        """What each octave is multiplied by, and what adds it; None if it lies below every sample's reach."""
        lost = [self.per_width(layer.columns, layer.rows) > self.finest for layer in layers]
        return [
            (layer.amount, None if gone else self._add(name, layer, fade))
            for layer, gone in zip(layers, lost, strict=True)
        ]

    def _add(self, name: str, layer: Layer, fade: int) -> AddRows:
        if name != "cellular":
            return self._on_grid(name, layer, fade)
        columns, rows, cosets = self._turned(layer.columns, layer.rows)
        return self.split_where_fine(
            self._cellular(layer.seed, columns, rows, cosets), columns, rows, CREASED
        )

    def _lattices(self, name: str, layers: Sequence[Layer], fade: int) -> list[Lattice]:
        out = []
        for layer in layers:
            columns, rows, cosets = self._turned(layer.columns, layer.rows)
            whole = (columns, rows) if cosets is None else (cosets.columns, cosets.rows)
            out.append(Lattice.of(layer.seed, *whole, name == "value", fade, cosets))
        return out

    def split_where_fine(self, add: AddBand, columns: int, rows: int, detail: float = 1.0) -> AddRows:
        """Add bands of any noise with so many cells, read several times a sample where fine.

        Parameters
        ----------
        add : callable
            Adds a band, read once in each sample.
        columns, rows : int
            Cells, from 1 up.
        detail : float
            How many times finer than a cell what lies in it is.

        Returns
        -------
        a function ``add(amount, out, y0, y1)``; see `sum`
        """
        cells, fineness = self.per_width(columns, rows), self._fineness(columns, rows, detail)
        self.measured()  # before bands ask for it side by side

        def add_rows(amount: float, out: np.ndarray, y0: int, y1: int) -> None:
            band = self.band(y0, y1)
            if cells * band.least >= FAR:
                return
            add_where_fine(add, amount, out, band, fineness)

        return add_rows

    def _fineness(self, columns: int, rows: int, detail: float = 1.0) -> Fineness:
        cells, whole = self.per_width(columns, rows), 1 if self.cosets is None else self.cosets.times
        limit = FAR / cells
        return Fineness(columns * whole * detail, rows * whole * detail, cells * detail, limit)

    def _on_grid(self, name: str, layer: Layer, fade: int) -> AddRows:
        evolution = self.evolution
        assert not isinstance(evolution, np.ndarray)  # each sample's own is read at its place
        (lattice,) = self._lattices(name, [layer], fade)
        moved, keep = lattice.moved(*self.offset), self.width * self.height <= DRAGGED

        @once
        def gridded() -> Corners:
            return moved.corners(evolution, keep)

        def add(amount: float, out: np.ndarray, band: Band) -> None:
            per_sample = max(lattice.columns / band.width, lattice.rows / band.height)
            share = np.float32(octave_weight(np.float32(per_sample)) * amount)
            columns = FadedColumns.of(moved, band.width)
            add_lattice_rows(gridded(), columns, band.height, share, out, band.y0, band.y1)

        return self.split_where_fine(add, layer.columns, layer.rows)

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
            cell_rows(cells, read_only(place), swing, False, False, False, found, 0, len(out))
            numbers = map(np.float32, (self.per_width(columns, rows), CELLULAR_MEAN, amount))
            add_clear(*numbers, band.footprint, found[0], out)

        return add


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


@kernel
def add_clear(cells, mean, amount, footprint, found, out):  # type: ignore[no-untyped-def]
    """Add an amount of how far values are from their mean, as far as samples carry it; see `clear_share`.

    Parameters
    ----------
    cells : float32
        In a width of the tile.
    mean, amount : float32
    footprint : (n, W) or (1, 1) float32
        In widths.
    found : (n, W) float32
    out : (n, W) float32
        Added to.
    """
    same = footprint.shape[0] * footprint.shape[1] == 1
    share = amount * _clear(cells * footprint[0, 0])
    for y in range(out.shape[0]):
        values, line = found[y], out[y]
        if same:
            for x in range(line.shape[0]):
                line[x] += share * (values[x] - mean)
            continue
        reach = footprint[y]
        for x in range(line.shape[0]):
            line[x] += amount * _clear(cells * reach[x]) * (values[x] - mean)
