"""Lattices turned about the tile, that still have whole periods across and down it and repeat nothing.

A lattice of cells can only be turned by angles at which whole numbers of its cells meet the seam: those of
a grid's own ways (a, b). Its corners then run through a period that is larger than the tile; where the tile
repeats, so do they, which is seen to by giving all corners that are whole tiles apart the same chances
(the cosets of the tile's periods among the corners). So loops that know only straight lattices read it.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from fractions import Fraction
from functools import lru_cache

import numpy as np
from msgspec import Struct

from reedloom.kernels.hashing import hash_lattice
from reedloom.kernels.jit import kernel

FARTHEST = 26
"""The greatest a² + b² of a way: more ways would be closer, and need larger tables."""
LARGEST = 1024
"""Corners along a side of a table, beyond which it repeats within the tile if it can."""
FRACTIONS = 4
"""The greatest divisor that a tile's height in widths is taken to have."""


class Cosets(Struct, frozen=True):
    """Which corners of a lattice are whole tiles apart.

    Attributes
    ----------
    a, b : int
        The way of the lattice's first axis, clockwise from the tile's u, in its own cells.
    p, q : int
        The tile's height in widths, p / q.
    g, h : int
        Cells along both axes in a way's length, multiples of q.
    """

    a: int
    b: int
    p: int
    q: int
    g: int
    h: int

    @property
    def times(self) -> int:
        """How many times g (or h) cells there are until corners come again along an axis."""
        return self.p * (self.a * self.a + self.b * self.b)

    @property
    def columns(self) -> int:
        """Corners until they come again along the first axis."""
        return self.times * self.g

    @property
    def rows(self) -> int:
        """Corners until they come again along the second axis."""
        return self.times * self.h

    @property
    def width(self) -> float:
        """How long a width of the tile is among the corners, where what comes again is one whole."""
        return math.hypot(self.a, self.b) / self.times

    def finer(self, columns: int) -> Cosets:
        """The same as often finer as comes nearest to `columns` in the place of g."""
        times = max(1, round(columns / self.g))
        return Cosets(self.a, self.b, self.p, self.q, self.g * times, self.h * times)

    def table(self) -> Cosets:
        """What corners are told apart by: repeating within the tile where there would be too many."""
        common = math.gcd(self.g, self.h) // self.q
        for times in range(1, common + 1):
            if common % times == 0 and max(self.columns, self.rows) <= LARGEST * times:
                return Cosets(self.a, self.b, self.p, self.q, self.g // times, self.h // times)
        return Cosets(self.a, self.b, self.p, self.q, self.g // common, self.h // common)

    def same(self, ring: int = 0) -> tuple[np.ndarray, np.ndarray]:
        """For each corner of the table, the one that stands for all that are whole tiles away from it.

        Parameters
        ----------
        ring : int
            How many corners are told beyond the table's ends, all around.

        Returns
        -------
        i, j : (rows + 2 ring, columns + 2 ring) int32, from 0 up
        """
        numbers = np.array([self.a, self.b, self.p, self.q, self.g, self.h])
        i, j = np.empty((2, self.rows + 2 * ring, self.columns + 2 * ring), np.int32)
        fill_same(numbers, ring, i, j)
        return i - i.min(), j - j.min()

    def bits(self, seed: int) -> np.ndarray:
        """Well mixed bits for each corner of the table: (rows, columns) uint32."""
        i, j = self.same()
        return hash_lattice(seed, int(i.max()) + 1, int(j.max()) + 1)[j, i]

    def laid(self, make: Callable[[int, int], np.ndarray], ring: int) -> np.ndarray:
        """A table of cells, with wrapped copies around it, in which those whole tiles apart are the same.

        make : gives such a table, straight, for so many columns and rows; ring : how wide the copies are
        """
        i, j = self.same(ring)
        straight = make(int(i.max()) + 1, int(j.max()) + 1)
        out = np.empty((*i.shape, straight.shape[2]), np.float32)
        lay_cells_of(straight, i + np.int32(ring), j + np.int32(ring), out)
        return out

    @property
    def _matrix(self) -> np.ndarray:
        """From places on the tile to those among the corners, of which the table is one whole."""
        aspect = self.p / self.q
        return np.array([[self.a, self.b * aspect], [-self.b, self.a * aspect]]) * (1 / self.times)

    def places_back(self, place: np.ndarray) -> np.ndarray:
        """Places among the corners as places on the tile: what `places` takes."""
        return _times(place, np.linalg.inv(self._matrix))

    def places(self, place: np.ndarray) -> np.ndarray:
        """Places (..., 2) on the tile as places among the table's corners, of which it is one whole."""
        return _times(place, self._matrix)

    def among(self, place: np.ndarray, footprint: np.ndarray) -> tuple[np.ndarray, np.ndarray, float]:
        """Places on the tile among the corners, how far samples reach there, and that table's height.

        The last, in widths, is 1: among the corners a width is as long both ways, whatever the tile's shape.
        """
        return self.places(place), footprint * np.float32(self.width), 1.0


def _times(place: np.ndarray, matrix: np.ndarray) -> np.ndarray:
    """Places (..., 2) times a matrix, as one list of them: rows by themselves take twice as long."""
    return (place.reshape(-1, 2) @ matrix.T.astype(np.float32)).reshape(place.shape)


@kernel
def fill_same(numbers, ring, i, j):  # type: ignore[no-untyped-def]
    """Which corner stands for each of a table, and for some beyond its ends.

    Parameters
    ----------
    numbers : (6,) int64
        A lattice's a, b, p, q, g and h; see `Cosets`.
    ring : int
        How many are beyond each end.
    i, j : (rows + 2 ring, columns + 2 ring) int32
        Filled; columns and rows, which may be below 0.
    """
    a, b, p, q, g, h = numbers
    norm = g * h * (a * a + b * b)
    tall = p * norm
    wide, high = p * g // q, p * h // q
    for y in range(i.shape[0]):
        down_to = y - ring
        # How many tiles across and down a corner is from the one that stands for it, without a division each.
        first, second = -h * a * ring - g * b * down_to, q * (g * a * down_to - h * b * ring)
        across, down = first // norm, second // tall
        first, second = first - across * norm, second - down * tall
        for x in range(i.shape[1]):
            i[y, x] = x - ring - across * g * a - down * wide * b
            j[y, x] = down_to + across * h * b - down * high * a
            first += h * a
            second += q * h * b
            more = (1 if first >= norm else 0) - (1 if first < 0 else 0)
            across, first = across + more, first - more * norm
            more = (1 if second >= tall else 0) - (1 if second < 0 else 0)
            down, second = down + more, second - more * tall


@kernel
def lay_cells_of(straight, i, j, out):  # type: ignore[no-untyped-def]
    """Lay cells of a table anew.

    Parameters
    ----------
    straight : (h, w, values) float32
    i, j : (rows, columns) int32
        Which column and row of it each cell is.
    out : (rows, columns, values) float32
        Filled.
    """
    values, wide = straight.shape[2], straight.shape[1]
    cells = straight.reshape(-1)
    for y in range(out.shape[0]):
        line = out[y].reshape(-1)
        for x in range(out.shape[1]):
            start, into = np.uint64((j[y, x] * wide + i[y, x]) * values), np.uint64(x * values)
            for k in range(values):
                line[into + np.uint64(k)] = cells[start + np.uint64(k)]


@lru_cache
def ways() -> tuple[tuple[float, int, int], ...]:
    """Angles in degrees, clockwise from -180, by which lattices can be turned, with their ways (a, b)."""
    reach = range(-math.isqrt(FARTHEST), math.isqrt(FARTHEST) + 1)
    found = [
        (math.degrees(math.atan2(b, a)), a, b)
        for a in reach
        for b in reach
        if 0 < a * a + b * b <= FARTHEST and math.gcd(a, b) == 1
    ]
    return tuple(sorted(found))


@lru_cache(256)
def _nearest_way(angle: float) -> tuple[int, int]:
    """The way (a, b) whose angle is nearest."""
    _, a, b = min(ways(), key=lambda way: abs((way[0] - angle + 180) % 360 - 180))
    return a, b


def turned_by(angle: float, columns: int, rows: int, aspect: float) -> Cosets | None:
    """A lattice turned by the nearest angle there is, with about as many cells; None where it stays straight.

    Parameters
    ----------
    angle : float
        In degrees, clockwise.
    columns, rows : int
        Cells across and down the tile, were it not turned.
    aspect : float
        The tile's height in widths.
    """
    a, b = _nearest_way(angle)
    if (a, b) == (1, 0):
        return None
    ratio = Fraction(aspect).limit_denominator(FRACTIONS)
    p, q = max(ratio.numerator, 1), ratio.denominator
    length = math.hypot(a, b)
    g, h = (max(1, round(count / length / q)) * q for count in (columns, rows / aspect))
    # Of so many corners that a table must repeat within the tile, as few as can be: by a common divisor.
    over = math.ceil(p * (a * a + b * b) * max(g, h) / LARGEST)
    if over > 1:
        g, h = (max(1, round(count / (over * q))) * over * q for count in (g, h))
    return Cosets(a, b, p, q, g, h)
