"""The corners of gradient and value noise over whole periodic lattices.

Gradient noise is K. Perlin's (*Improving noise*, SIGGRAPH 2002: quintic fade) with unit gradients.
Both kinds share one form: each lattice place carries a value and a slope in u and v, and the noise
is the faded mix of its four corners' planes. Value noise has slopes of 0, gradient noise values of 0.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from reedloom.kernels.hashing import hash_lattice, hash_seed
from reedloom.kernels.jit import inlined, kernel, read_only
from reedloom.kernels.kept import kept_tables
from reedloom.kernels.lattice_cells import SLOPES, TURNING_SLOPES, TURNING_VALUES, VALUES
from reedloom.kernels.lattice_lanes import RING
from reedloom.kernels.quick import cosine_of_turn, sine_of_turn
from reedloom.kernels.turned import Cosets

GRADIENT_DEVIATION = 0.2520
"""Standard deviation of one octave of gradient noise (measured, in lattice units)."""
VALUE_DEVIATION = 0.1740
"""Standard deviation of one octave of value noise with quintic fade (measured)."""
FADES = {"smooth": 0, "cubic": 1, "straight": 2}
"""How a lattice value passes into the next: K. Perlin's quintic, a cubic, or a straight line."""
FADE_POWERS = np.array([[0, 0, 10, -15, 6], [0, 3, -2, 0, 0], [1, 0, 0, 0, 0]], np.float32)
"""Each fade's coefficients, from the first power of a place between two corners to the fifth."""
ROOM = 2**26
"""Bytes of tables that are kept for the next evaluation: those of all noises of a weave on screen."""
DRAGGED = 2**19
"""Samples of the largest maps for which tables are kept: larger ones are not made many times a second."""
TABLE = 1024
"""Lattices finer than this reuse their corners after so many cells, which bounds the memory. Those that are
fine one way only are laid out in full nevertheless: so they can be read sixteen places at once."""


class Lattice(Struct, frozen=True):
    """The corners of one octave.

    Attributes
    ----------
    seed : int
        Of the corners.
    columns, rows : int
        Cells across and down the tile.
    shift : (float, float)
        Random offset in cells, so that the corners of several octaves do not fall together.
    is_value : bool
        Value noise rather than gradient noise.
    fade : int
        One of FADES.
    cosets : Cosets, optional
        Which corners are the same, of a lattice that is turned.
    """

    seed: int
    columns: int
    rows: int
    shift: tuple[float, float]
    is_value: bool
    fade: int = 0
    cosets: Cosets | None = None

    @classmethod
    def of(
        cls,
        seed: int,
        columns: int,
        rows: int,
        is_value: bool = False,
        fade: int = 0,
        cosets: Cosets | None = None,
    ) -> Lattice:
        """Random corners.

        Gradients turn once, twice, or back while evolution goes from 0 to 1; values swing once or
        twice through their range, as many up as down, so that the mean stays. So noise changes
        without moving and comes back to itself after
        every whole step of evolution.

        Parameters
        ----------
        columns, rows : int
            Cells, from 1 up.
        fade : int
            One of FADES.
        cosets : Cosets, optional
            Of a turned lattice; columns and rows are those of its whole period.
        """
        shift = (hash_seed(seed, 101) / 2**31, hash_seed(seed, 202) / 2**31)
        return cls(seed, columns, rows, shift, is_value, fade, cosets)

    def _table(self) -> tuple[int, int]:
        if self.cosets is not None:
            table = self.cosets.table()
            return table.columns, table.rows
        return min(self.columns, TABLE), min(self.rows, TABLE)

    def moved(self, u: float, v: float) -> Lattice:
        """The same lattice read so many tiles further on."""
        shift = (
            (self.shift[0] + u * self.columns) % self.columns,
            (self.shift[1] + v * self.rows) % self.rows,
        )
        return self if u == v == 0 else replace(self, shift=shift)

    @property
    def _fits(self) -> bool:
        """Whether all corners are laid out, rather than a table that repeats."""
        return self.cosets is None and self.columns * self.rows <= TABLE**2

    def planes(
        self,
        evolution: float | None,
        keep: bool = True,
        first: tuple[int, int] = (0, 0),
        ring: tuple[int, int] = (1, 1),
    ) -> np.ndarray:
        """What each corner holds after some evolution, the first columns and rows once more at the end.

        Parameters
        ----------
        evolution : float, optional
            In turns; if there is none, phases and how often corners turn.
        keep : bool
            Whether the table is kept for the next time.
        first : (int, int)
            The column and row that it begins with.
        ring : (int, int)
            How many columns and rows stand again at the end.

        Returns
        -------
        (rows + ring, columns + ring, 1) float32 values, or (.., .., 2) float32 slopes in u and v or phases
        """
        turned = self.cosets and self.cosets.table()
        make, table = _kept_planes if keep else _make_planes, self._table()
        whole = (self.columns, self.rows) if self._fits else table
        after = None if evolution is None else evolution % 1.0
        return make(self.seed, table, whole, self.is_value, after, turned, first, ring)

    def corners(self, evolution: float, keep: bool = True) -> Corners:
        """For the grid: planes after so much evolution."""
        return Corners(
            read_only(self.planes(evolution, keep)), self.columns, self.rows, *self.shift, self.fade
        )

    def corners_at_places(self, evolution: float | None, keep: bool = True) -> PlacedCorners:
        """For given places: planes after so much evolution, which begin where the tile does if all fit.

        So the offsets are less than a cell, and nothing goes around but places. Corners turn where each
        sample has an evolution of its own, and so none is given.
        """
        across, down = self.shift
        first = (int(across), int(down)) if self._fits else (0, 0)
        table = self.planes(evolution, keep, (first[0] % self.columns, first[1] % self.rows), RING)
        gives = (SLOPES, VALUES, TURNING_SLOPES, TURNING_VALUES)[self.is_value + 2 * (evolution is None)]
        columns, rows = table.shape[1] - RING[0], table.shape[0] - RING[1]
        counts = self.columns, self.rows, columns, rows, table.shape[1], gives
        wholes = np.array([table.ctypes.data, *counts], np.int64)
        shift = across - first[0], down - first[1]
        numbers = np.array([*shift, *FADE_POWERS[self.fade]], np.float32)
        return PlacedCorners(table, wholes, numbers)


@kept_tables(ROOM // 16)
def _phases(seed: int, columns: int, rows: int, is_value: bool, cosets: Cosets | None) -> np.ndarray:
    """Each corner's phase, and how often it turns: (rows, columns, 2) float32."""
    bits = hash_lattice(seed, columns, rows) if cosets is None else cosets.bits(seed)
    phases = np.empty((rows, columns, 2), np.float32)
    choices = [1.0, 2.0, -1.0, -2.0] if is_value else [-2.0, -1.0, 1.0, 2.0]
    fill_phases(bits, np.array(choices, np.float32), phases)
    return phases


@kernel
def fill_phases(bits, choices, phases):  # type: ignore[no-untyped-def]
    """Make phases of a lattice's bits: (rows, columns, 2) float32; `choices` : (4,) how often they turn."""
    for j in range(bits.shape[0]):
        line, out = bits[j], phases[j]
        for i in range(bits.shape[1]):
            out[i, 0] = np.float32(np.int32(line[i] >> np.uint32(8))) * np.float32(2.0**-24)
            out[i, 1] = choices[line[i] & np.uint32(3)]


def _make_planes(
    seed: int,
    table: tuple[int, int],
    whole: tuple[int, int],
    is_value: bool,
    evolution: float | None,
    cosets: Cosets | None,
    first: tuple[int, int],
    ring: tuple[int, int],
) -> np.ndarray:
    """See `Lattice.planes`; so many corners across and down are made, and repeated up to the whole."""
    phases = _phases(seed, *table, is_value, cosets)
    columns, rows = (
        ((np.arange(count + more) + start) % count % made).astype(np.int32)
        for count, made, start, more in zip(whole, table, first, ring, strict=True)
    )
    if evolution is None:
        return phases[rows[:, None], columns]
    planes = np.empty((len(rows), len(columns), 1 if is_value else 2), np.float32)
    (fill_values if is_value else fill_slopes)(phases, np.float32(evolution), columns, rows, planes)
    return planes


_kept_planes = kept_tables(ROOM)(_make_planes)


@kernel
def fill_values(phases, evolution, columns, rows, planes):  # type: ignore[no-untyped-def]
    """The value of corners after some evolution, 0 to 1.

    Parameters
    ----------
    phases : (h, w, 2) float32
        Of all corners.
    evolution : float32
        In turns.
    columns, rows : (W,) and (H,) int32
        Which corners are wanted.
    planes : (H, W, 1) float32
        Filled.
    """
    values = np.empty(phases.shape[1], np.float32)
    for y in range(rows.shape[0]):
        line, out = phases[rows[y]], planes[y]
        for i in range(len(values)):
            values[i] = swung(line[i, 0], line[i, 1], evolution)
        for x in range(columns.shape[0]):
            out[x, 0] = values[columns[x]]


@kernel
def fill_slopes(phases, evolution, columns, rows, planes):  # type: ignore[no-untyped-def]
    """The gradient of corners after some evolution, of length 1.

    Parameters
    ----------
    phases, evolution, columns, rows
        As in `fill_values`.
    planes : (H, W, 2) float32
        Filled.
    """
    turns = np.empty(phases.shape[1], np.float32)
    across, down = np.empty_like(turns), np.empty_like(turns)
    for y in range(rows.shape[0]):
        line, out = phases[rows[y]], planes[y]
        for i in range(len(turns)):
            turns[i] = line[i, 0] + line[i, 1] * evolution
        for i in range(len(turns)):  # in vectors, which pairs of numbers are not made in
            across[i] = cosine_of_turn(turns[i])
            down[i] = sine_of_turn(turns[i])
        for x in range(columns.shape[0]):
            out[x, 0], out[x, 1] = across[columns[x]], down[columns[x]]


class Corners(NamedTuple):
    """One octave as the loops over the grid read it.

    Attributes
    ----------
    table : (rows + 1, columns + 1, 1 or 2) float32
        The planes that a `Lattice` has after some evolution.
    columns, rows : int
        Cells across and down the tile; the table may hold fewer and is then read around.
    shift_u, shift_v : float
        Offset in cells.
    fade : int
        One of FADES.
    """

    table: np.ndarray
    columns: int
    rows: int
    shift_u: float
    shift_v: float
    fade: int


class PlacedCorners(NamedTuple):
    """One octave as the loops over given places read it; `lattice_lanes.add_corners` tells of each.

    Attributes
    ----------
    table : (rows + 3, columns + 16, 1 or 2) float32
        The planes that a `Lattice` has after some evolution, or phases and how often corners turn. The loops
        know its address; so it is held here for as long as they may run.
    wholes : (WHOLES,) int64
    numbers : (NUMBERS,) float32
    """

    table: np.ndarray
    wholes: np.ndarray
    numbers: np.ndarray


@inlined
def faded(t, powers, row, first):  # type: ignore[no-untyped-def]
    """A place between two corners as a share of the second: by a row's five numbers from the first on.

    They are those of one of FADES, as in FADE_POWERS.
    """
    total = np.float32(0.0)
    for power in range(4, -1, -1):
        total = (total + powers[row, first + power]) * t
    return total


@inlined
def swung(phase, turns, evolution):  # type: ignore[no-untyped-def]
    """The value of a corner after some evolution."""
    t = phase + np.float32(2) * turns * evolution
    t -= np.float32(2) * np.floor(t * np.float32(0.5))
    return np.float32(0.5) - abs(t - np.float32(1))
