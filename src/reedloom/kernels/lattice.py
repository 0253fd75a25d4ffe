"""Gradient and value noise over whole periodic lattices, on the tile's own grid or at given places.

Gradient noise is K. Perlin's (*Improving noise*, SIGGRAPH 2002: quintic fade) with unit gradients.
Both kinds share one form: each lattice place carries a value and a slope in u and v, and the noise
is the faded mix of its four corners' planes. Value noise has slopes of 0, gradient noise values of 0.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from reedloom.kernels.hashing import hash_lattice, hash_seed
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.kept import kept_tables
from reedloom.kernels.lanes import LANES
from reedloom.kernels.lattice_lanes import (
    AMOUNT,
    COUNTS,
    FINEST,
    NUMBERS,
    RING,
    SLOPES,
    TURNING_SLOPES,
    TURNING_VALUES,
    VALUES,
    add_corners,
    add_corners_around,
)
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
LIMIT = 0.6
"""Octaves with so many cells a sample or more add nothing."""
ROOM = 2**26
"""Bytes of tables that are kept for the next evaluation: those of all noises of a weave on screen."""
DRAGGED = 2**19
"""Samples of the largest maps for which tables are kept: larger ones are not made many times a second."""
NOT_TURNING = np.zeros((0, 0), np.float32)
"""The evolutions of samples that all have the same."""
TABLE = 1024
"""Lattices finer than this reuse their corners after so many cells, which bounds the memory. Those that are
fine one way only are laid out in full nevertheless: so they can be read sixteen places at once."""


@dataclass(frozen=True, slots=True)
class Lattice:
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
        gives = VALUES if self.is_value else SLOPES
        return Corners(
            self.planes(evolution, keep), self.columns, self.rows, *self.shift, self.fade, gives, NOT_TURNING
        )

    def corners_at_places(self, evolution: float | np.ndarray, keep: bool = True) -> Corners:
        """For given places: planes after so much evolution, which begin where the tile does if all fit.

        So the offsets are less than a cell, and nothing goes around but places. Where each sample that is
        read has an evolution of its own, (n, W), corners turn.
        """
        if isinstance(evolution, np.ndarray):
            after, moving, gives = None, evolution, (TURNING_VALUES, TURNING_SLOPES)
        else:
            after, moving, gives = evolution, NOT_TURNING, (VALUES, SLOPES)
        across, down = self.shift
        first = (int(across), int(down)) if self._fits else (0, 0)
        table = self.planes(after, keep, (first[0] % self.columns, first[1] % self.rows), RING)
        shift = across - first[0], down - first[1]
        kind = gives[0 if self.is_value else 1]
        return Corners(table, self.columns, self.rows, *shift, self.fade, kind, moving)


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
    """One octave as the loops read it.

    Attributes
    ----------
    table : float32
        The planes that a `Lattice` has after some evolution, or phases and how often corners turn.
    columns, rows : int
        Cells across and down the tile; the table may hold fewer and is then read around.
    shift_u, shift_v : float
        Offset in cells.
    fade : int
        One of FADES.
    gives : int
        What corners give, as `lattice_lanes` tells it.
    evolution : (n, W) float32
        That of each sample that is read, where corners turn; else NOT_TURNING.
    """

    table: np.ndarray
    columns: int
    rows: int
    shift_u: float
    shift_v: float
    fade: int
    gives: int
    evolution: np.ndarray


@inlined
def faded(t, fade):  # type: ignore[no-untyped-def]
    """A place between two corners as a share of the second, by one of FADES."""
    total = np.float32(0.0)
    for power in range(4, -1, -1):
        total = (total + FADE_POWERS[fade, power]) * t
    return total


@inlined
def _corner(place, shift, count, table):  # type: ignore[no-untyped-def]
    """The two corners beside a place along one axis, and where it lies between them.

    The place is brought into the tile first, so that no whole number need be divided.
    """
    whole = np.int32(place)
    whole = whole - np.int32(1) if place < np.float32(whole) else whole
    at = (np.float64(place) - whole) * count + shift
    cell = np.int32(at)
    part = np.float32(at - cell)
    first = cell - np.int32(count) if cell >= count else cell
    first = max(min(first, np.int32(count - 1)), np.int32(0))  # both ends, for places that are no numbers
    second = first + np.int32(1) if first < count - 1 else np.int32(0)
    if count > table:
        return first % table, second % table, part
    return first, second, part


@inlined
def _mix(a, b, c, d, fx, fy, fade):  # type: ignore[no-untyped-def]
    """The faded mix of what four corners give: two above, two below."""
    wx = faded(fx, fade)
    top = a + wx * (b - a)
    bottom = c + wx * (d - c)
    return top + faded(fy, fade) * (bottom - top)


@kernel
def add_lattice_places(corners, finest, place, footprint, amount, out):  # type: ignore[no-untyped-def]
    """Add one octave at given places, fading it where it is finer than a sample.

    Parameters
    ----------
    corners : Corners
        From `corners_at_places`.
    finest : float
        Cells in what footprints are measured by.
    place : (n, W, 2) float32
        In tiles.
    footprint : (n, W) float32
        What each sample covers.
    amount : float32
        What the octave is multiplied by.
    out : (n, W) float32
        The rows of one band.
    """
    form = row_form(corners, finest, amount)
    n = out.shape[1]
    known = np.empty(2 * n, np.float32)
    for y in range(out.shape[0]):
        if corners.gives < TURNING_VALUES:
            add_row(corners, form, place[y].reshape(-1), footprint[y], out[y])
            continue
        for x in range(n):
            known[x] = footprint[y, x]
        for x in range(n):
            known[n + x] = corners.evolution[y, x]
        add_row(corners, form, place[y].reshape(-1), known, out[y])


class Form(NamedTuple):
    """An octave as rows of readings take it.

    Attributes
    ----------
    counts : (COUNTS,) int32
    numbers : (NUMBERS,) float32
        As `add_corners` takes both.
    """

    counts: np.ndarray
    numbers: np.ndarray


@inlined
def row_form(corners, finest, amount):  # type: ignore[no-untyped-def]
    """What `add_row` takes.

    Parameters
    ----------
    corners : Corners
        From `corners_at_places`.
    finest : float
        Cells in what reaches are measured by.
    amount : float32
        What the octave is multiplied by.
    """
    planes, columns, rows, shift_u, shift_v, fade, gives, _ = corners
    form = Form(np.empty(COUNTS, np.int32), np.empty(NUMBERS, np.float32))
    counts, numbers = form
    counts[0], counts[1] = columns, rows
    counts[2], counts[3] = planes.shape[1] - RING[0], planes.shape[0] - RING[1]
    counts[4], counts[5] = planes.shape[1], gives
    numbers[0], numbers[1], numbers[FINEST], numbers[AMOUNT] = shift_u, shift_v, finest, amount
    numbers[4:-2] = FADE_POWERS[fade]
    numbers[-2], numbers[-1] = columns, rows
    return form


@kernel
def add_row(corners, form, pairs, reach, line):  # type: ignore[no-untyped-def]
    """Add one octave to samples in a row.

    Parameters
    ----------
    corners : Corners
        From `corners_at_places`.
    form : Form
        From `row_form`.
    pairs : (2 W,) float32
        Places in tiles, u and v of each.
    reach : (W,) float32, or (2 W,)
        What each sample covers; and then the evolution of each, where corners turn.
    line : (W,) float32
        Added to.
    """
    counts, numbers = form
    n, x = np.int64(line.shape[0]), np.int64(0)
    table = corners.table.reshape(-1)
    if counts[0] <= counts[2] and counts[1] <= counts[3]:
        x = np.int64(add_corners(table, pairs, reach, line, x, n, counts, numbers))
    else:
        while x + LANES <= n:
            x = np.int64(add_corners_around(table, pairs, reach, line, x, n, counts, numbers))
            if x + LANES <= n:
                _add_each(corners, form, pairs, reach, line, x, x + LANES)
                x += LANES
    _add_each(corners, form, pairs, reach, line, x, n)


@inlined
def _add_each(corners, form, pairs, reach, line, x, end):  # type: ignore[no-untyped-def]
    """`add_row` from sample x on to an end, one after the other."""
    amount, last = form.numbers[AMOUNT], reach.shape[0] - 1
    while x < end:
        evolution = reach[min(x + line.shape[0], last)]  # which is looked at where corners turn only
        line[x] += amount * read_place(corners, form, reach[x], pairs[2 * x], pairs[2 * x + 1], evolution)
        x += 1


@inlined
def read_place(corners, form, reach, u, v, evolution):  # type: ignore[no-untyped-def]
    """What a sample that reaches so far carries of one octave at a place in tiles."""
    weight = octave_weight(form.numbers[FINEST] * reach)
    return weight * _read(corners, u, v, evolution) if weight != 0.0 else weight


@inlined
def _given(corner, gives, evolution, x, y):  # type: ignore[no-untyped-def]
    """What a corner gives at (x, y) from it."""
    if gives == VALUES:
        return corner[0]
    if gives == SLOPES:
        return corner[0] * x + corner[1] * y
    if gives == TURNING_VALUES:
        return swung(corner[0], corner[1], evolution)
    turn = corner[0] + corner[1] * evolution
    return cosine_of_turn(turn) * x + sine_of_turn(turn) * y


@inlined
def swung(phase, turns, evolution):  # type: ignore[no-untyped-def]
    """The value of a corner after some evolution."""
    t = phase + np.float32(2) * turns * evolution
    t -= np.float32(2) * np.floor(t * np.float32(0.5))
    return np.float32(0.5) - abs(t - np.float32(1))


@inlined
def _read(corners, u, v, evolution):  # type: ignore[no-untyped-def]
    """One octave at a place."""
    planes, columns, rows, shift_u, shift_v, fade, gives, _ = corners
    i0, i1, fx = _corner(u, shift_u, columns, planes.shape[1] - RING[0])
    j0, j1, fy = _corner(v, shift_v, rows, planes.shape[0] - RING[1])
    gx = fx - np.float32(1.0)
    gy = fy - np.float32(1.0)
    a = _given(planes[j0, i0], gives, evolution, fx, fy)
    b = _given(planes[j0, i1], gives, evolution, gx, fy)
    c = _given(planes[j1, i0], gives, evolution, fx, gy)
    d = _given(planes[j1, i1], gives, evolution, gx, gy)
    return _mix(a, b, c, d, fx, fy, fade)


@inlined
def octave_weight(cells_per_sample):  # type: ignore[no-untyped-def]
    """How much of an octave a sample can carry: 1 for coarse ones, 0 from 0.6 cells a sample.

    It follows the mean of the noise's spectrum under a box the size of a sample, so that a large
    map averaged down is the small map.
    """
    if cells_per_sample >= LIMIT:
        return np.float32(0.0)
    q = np.float32(cells_per_sample)
    p = np.float32(-0.65) * q * q  # from here on exp(p), to 5e-6
    soft = np.float32(1.0) + p * (
        np.float32(1.0) + p * (np.float32(1 / 2) + p * (np.float32(1 / 6) + p * np.float32(1 / 24)))
    )
    if q <= 0.5:
        return soft
    t = (np.float32(0.6) - q) * np.float32(10.0)
    return soft * t * t * (np.float32(3.0) - np.float32(2.0) * t)
