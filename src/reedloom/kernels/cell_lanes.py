"""The innermost steps of the search among cells, in LLVM's own vectors: sixteen samples at once.

As `kernels/lattice_lanes.py` for lattices. Runs of samples that share a cell go through it together
(`cells.py`); where cells are as small as a few samples, or each sample sees points that have circled by an
evolution of its own, no run is long enough, and a load brings two of the points that a sample looks at.

The steps take: spots, (rows × wide × 2) float32, where each cell's point lies in it, from `fill_spots` or,
of points that circle, from `fill_circling`; values, (9 × n) float32, and numbers, (3 × n) int32, what is
known of a row's samples, line after line as named below; x, int64, the first of the samples; shape, (4,)
int32: wide, n, 1 if the second distance is to be exact, and one of `WAYS`; slack, float32, how far points
keep from their cells' edges; and power, (POWER,) float32, Minkowski's with the terms of `root_terms`. Points
are told by `label`. Steps that look at the cells around answer with one bit a sample: 1 where a point farther
out may count; the others answer 0.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import numpy as np

from reedloom.kernels.jit import lowered
from reedloom.kernels.kept import COUNT
from reedloom.kernels.vectors import Vectors

SIDE = 7
"""Cells a side of the square in which points are looked for."""
FAR = 1e9
U, V, FIRST, SECOND, TO_U, TO_V, BORDER, COS, SIN = range(VALUES := 9)
"""Lines of values: where a sample lies in its cell, its distance to the nearest point and to the second
(squares of Euclid's, while they are looked for), the way to the nearest, the distance to the border, and how
far points have circled."""
EUCLID, MANHATTAN, CHEBYSHEV, MINKOWSKI = range(4)
STILL, *CIRCLING = WAYS = tuple(range(5))
"""How a search goes: by Euclid's distance to points that stand still; by each metric to those that circle."""
POWER = 10
"""Minkowski's power, and the terms of its root."""
EDGE, SPOT = FIRST, SECOND
"""What a spot needs instead: what a sample covers, in cells; and the height of the highest spot."""
CELL, NEAREST, BEYOND = range(NUMBERS := 3)
"""Lines of numbers: a sample's own cell in `spots`, the label of its nearest point, and of that across the
border."""

_AROUND = [(dj, di) for dj in (-1, 0, 1) for di in (-1, 1)]
_FARTHER = [(dj, di) for dj in (-2, 2) for di in (-2, 0, 2)] + [(dj, -3) for dj in (-1, 0, 1)]
"""The first cells of pairs side by side, rows and columns away from a sample's own: those next to it, with
one column more, and all others that can matter."""


@lru_cache(COUNT)
def root_terms(power: float) -> tuple[float, ...]:
    """The terms, highest first, of a polynomial in w - 0.5 that is (1 + w) to 1 / `power` for w from 0 to 1.

    To 1e-7 of it: it meets the root at the nodes of P. Chebyshev's polynomials. To find them takes 1.6 ms.
    """
    nodes = np.polynomial.chebyshev.chebpts1(POWER - 1) / 2
    fit = np.polynomial.Polynomial.fit(nodes, (1.5 + nodes) ** (1 / power), POWER - 2)
    return tuple(fit.convert().coef[::-1])


@lowered
def search_near(b, spots, values, numbers, x, shape, slack, power):  # type: ignore[no-untyped-def]
    """Find the nearest and the second nearest of the points around.

    Parameters
    ----------
    spots, values, numbers, x, shape, slack, power
        As the module says.
    """
    search = _Search(b, spots, values, numbers, x, shape, power)
    v = search.lanes
    far, none = v.constant(FAR), v.constant(0)
    for _ in search.ways():
        search.put_nearest(search.among(_AROUND, (far, far, v.splat(v.int(0)), none, none)))
    exact = v.splat(b.icmp_signed("!=", search.exact, v.int(0)))
    so_far, reach = b.select(exact, search.value(SECOND), search.value(FIRST)), search.reach(slack)
    is_squared = v.splat(b.icmp_signed("<=", search.way, v.int(CIRCLING[EUCLID])))
    return v.told(b.fcmp_ordered(">", so_far, b.select(is_squared, b.fmul(reach, reach), reach)))


@lowered
def search_far(b, spots, values, numbers, x, shape, slack, power):  # type: ignore[no-untyped-def]
    """Go on among the points farther out.

    Parameters
    ----------
    spots, values, numbers, x, shape, slack, power
        As the module says.
    """
    search = _Search(b, spots, values, numbers, x, shape, power)
    for _ in search.ways():
        so_far = search.value(FIRST), search.value(SECOND), search.number(NEAREST)
        search.put_nearest(search.among(_FARTHER, (*so_far, search.value(TO_U), search.value(TO_V))))
    return search.lanes.int(0)


@lowered
def find_spot(b, table, values, numbers, x, shape, hardness):  # type: ignore[no-untyped-def]
    """Find the highest of the round spots about some samples; see `grains.spot_rows`. Answers 0.

    Parameters
    ----------
    table : (rows × wide × 4) float32
        Where each cell's point lies in it, 0 to 1, its spot's radius, and tone.
    values : (4 × n) float32
        Where samples lie in their cells, and lines EDGE, what each covers, in cells, and SPOT, filled.
    numbers : (1 × n) int32
        Each sample's own cell in the table.
    x, shape
        As the module says; shape's last number is not looked at.
    hardness : float32
        0 for domes, 1 for discs.
    """
    v = Vectors(b)
    wide, count = v.numbers(shape, 2)
    lines = Lines(v, values, numbers, count, x)
    base, u, w, edge = lines.number(CELL), lines.value(U), lines.value(V), lines.value(EDGE)
    zero, one, half = v.constant(0), v.constant(1), v.constant(0.5)
    rim = v.splat(b.fsub(v.single(1), hardness))
    lines.put_value(SPOT, zero)
    for dj in (-1, 0, 1):
        for di in (-1, 0, 1):
            offset = b.add(b.mul(wide, v.int(dj)), v.int(di))
            at = v.longs(b.shl(b.add(base, v.splat(offset)), v.splat(v.int(2))))
            pu, pv, radius, tone = v.turned([v.four(table, index, 0) for index in at])
            du, dv = (b.fsub(b.fadd(p, v.constant(d)), s) for p, d, s in ((pu, di, u), (pv, dj, w)))
            square, most = v.all_of("fmuladd", du, du, b.fmul(dv, dv)), b.fadd(radius, edge)
            is_there = b.fcmp_ordered(">", radius, zero)
            near = b.and_(is_there, b.fcmp_ordered("<", square, b.fmul(most, most)))
            with b.if_then(b.icmp_signed("!=", v.told(near), v.int(0))):  # mostly no sample of them is
                soft = b.fmul(radius, rim)
                # An edge sharper than a sample is widened to both sides.
                more = v.higher(b.fsub(edge, soft), zero)
                inside = b.fsub(v.all_of("fmuladd", half, more, radius), v.all_of("sqrt", square))
                t = v.held(b.fdiv(inside, b.fadd(soft, more)), zero, one)
                t = b.fmul(b.fmul(t, t), v.all_of("fmuladd", v.constant(-2), t, v.constant(3)))
                t = b.select(is_there, b.fmul(t, tone), zero)
                lines.put_value(SPOT, v.higher(t, lines.value(SPOT)))
    return v.int(0)


@lowered
def bisect_near(b, spots, values, numbers, x, shape, slack, power):  # type: ignore[no-untyped-def]
    """Find how far the border to the points around is, and which point is beyond it.

    Parameters
    ----------
    spots, values, numbers, x, shape, slack, power
        As the module says.
    """
    search = _Search(b, spots, values, numbers, x, shape, power)
    v = search.lanes
    for _ in search.ways():
        search.put_border(search.bisected(_AROUND, (v.constant(FAR), v.splat(v.int(0)))))
    best = search.value(BORDER)
    most = b.fadd(search.value(FIRST), b.fadd(best, best))
    return v.told(b.fcmp_ordered(">", most, search.reach(slack)))


@lowered
def bisect_far(b, spots, values, numbers, x, shape, slack, power):  # type: ignore[no-untyped-def]
    """Go on among the points farther out.

    Parameters
    ----------
    spots, values, numbers, x, shape, slack, power
        As the module says.
    """
    search = _Search(b, spots, values, numbers, x, shape, power)
    for _ in search.ways():
        search.put_border(search.bisected(_FARTHER, (search.value(BORDER), search.number(BEYOND))))
    return search.lanes.int(0)


class Lines:
    """What is known of sixteen samples of a row, line after line."""

    def __init__(self, lanes: Vectors, values: Any, numbers: Any, count: Any, x: Any) -> None:
        self._lanes, self._values, self._numbers, self._x = lanes, values, numbers, x
        self._count = lanes.b.sext(count, lanes.long)

    def _where(self, array: Any, line: int, kind: Any) -> Any:
        b, lanes = self._lanes.b, self._lanes
        return lanes.pointer(array, b.add(b.mul(self._count, lanes.long(line)), self._x), kind)

    def value(self, line: int) -> Any:
        """From a line of values."""
        return self._lanes.b.load(self._where(self._values, line, self._lanes.floats), align=4)

    def number(self, line: int) -> Any:
        """From a line of numbers."""
        return self._lanes.b.load(self._where(self._numbers, line, self._lanes.ints), align=4)

    def put_value(self, line: int, value: Any) -> None:
        """Into a line of values."""
        self._lanes.b.store(value, self._where(self._values, line, value.type), align=4)

    def put_number(self, line: int, number: Any) -> None:
        """Into a line of numbers."""
        self._lanes.b.store(number, self._where(self._numbers, line, number.type), align=4)


class _Search:
    """Sixteen samples of a row, and the points about them."""

    def __init__(
        self, builder: Any, spots: Any, values: Any, numbers: Any, x: Any, shape: Any, power: Any
    ) -> None:
        self.b, self.lanes, self.spots = builder, Vectors(builder), spots
        self.wide, count, self.exact, self.way = self.lanes.numbers(shape, 4)
        self._lines = Lines(self.lanes, values, numbers, count, x)
        self.value, self.number = self._lines.value, self._lines.number
        self.base, self.u, self.v = self.number(CELL), self.value(U), self.value(V)
        self.power = [self.lanes.splat(number) for number in self.lanes.numbers(power, POWER)]
        self._written = STILL

    def ways(self) -> Iterator[int]:
        """Write what follows for each of `WAYS`; the one that is asked for is carried out."""
        for way in WAYS:
            with self.b.if_then(self.b.icmp_signed("==", self.way, self.lanes.int(way))):
                self._written = way
                yield way

    def put_nearest(self, found: tuple[Any, ...]) -> None:
        """Keep the nearest and second distances, which point is nearest, and the way to it."""
        first, second, which, to_u, to_v = found
        self._lines.put_number(NEAREST, which)
        for line, value in ((FIRST, first), (SECOND, second), (TO_U, to_u), (TO_V, to_v)):
            self._lines.put_value(line, value)

    def put_border(self, found: tuple[Any, ...]) -> None:
        """Keep the distance to the border, and the point beyond it."""
        self._lines.put_value(BORDER, found[0])
        self._lines.put_number(BEYOND, found[1])

    def reach(self, slack: Any) -> Any:
        """The least distance from each sample to any point beyond the cells around."""
        lanes, b = self.lanes, self.b
        one = lanes.constant(1)
        least = lanes.lower(self.u, b.fsub(one, self.u))
        least = lanes.lower(least, lanes.lower(self.v, b.fsub(one, self.v)))
        return b.fadd(least, b.fadd(one, lanes.splat(slack)))

    def points(self, pairs: list[tuple[int, int]]) -> Any:
        """For each point its label, and the way to it in u and v."""
        lanes, b = self.lanes, self.b
        circled = None if self._written == STILL else (self.value(COS), self.value(SIN))
        for dj, di in pairs:
            offset = b.add(b.mul(self.wide, lanes.int(dj)), lanes.int(di))
            four = lanes.pairs_beside(self.spots, b.add(self.base, lanes.splat(offset)))
            for beside in range(2):
                u, v = four[2 * beside : 2 * beside + 2]
                if circled is not None:
                    u, v = self._circled(u, v, *circled)
                du = b.fsub(b.fadd(u, lanes.constant(di + beside)), self.u)
                dv = b.fsub(b.fadd(v, lanes.constant(dj)), self.v)
                yield lanes.splat(lanes.int(label(dj, di + beside))), du, dv

    def _circled(self, first: Any, second: Any, cos: Any, sin: Any) -> tuple[Any, Any]:
        """Where points of `fill_circling` lie in their cells, 0 to 1."""
        lanes, b = self.lanes, self.b
        u = lanes.all_of("fmuladd", first, cos, b.fneg(b.fmul(second, sin)))
        v = lanes.all_of("fmuladd", first, sin, b.fmul(second, cos))
        way = b.shl(b.bitcast(first, lanes.ints), lanes.splat(lanes.int(31)))
        v = b.bitcast(b.xor(b.bitcast(v, lanes.ints), way), lanes.floats)
        half = lanes.constant(0.5)
        low = lanes.constant(-0.5)
        return tuple(b.fadd(half, lanes.lower(lanes.higher(at, low), half)) for at in (u, v))

    def _away(self, du: Any, dv: Any) -> Any:
        """How long a way is, by the metric that is written; Euclid's squared."""
        lanes, b = self.lanes, self.b
        if self._written in {STILL, CIRCLING[EUCLID]}:
            return lanes.all_of("fmuladd", du, du, b.fmul(dv, dv))
        du, dv = lanes.all_of("fabs", du), lanes.all_of("fabs", dv)
        if self._written == CIRCLING[MANHATTAN]:
            return b.fadd(du, dv)
        longer = lanes.higher(du, dv)
        if self._written == CIRCLING[CHEBYSHEV]:
            return longer
        part = b.fdiv(lanes.lower(du, dv), lanes.higher(longer, lanes.constant(1e-30)))
        power, *terms = self.power
        part = lanes.power_of_two(b.fmul(power, lanes.logarithm_of_two(part)))
        part, root = b.fsub(part, lanes.constant(0.5)), terms[0]
        for term in terms[1:]:
            root = lanes.all_of("fmuladd", root, part, term)
        return b.fmul(longer, root)

    def among(self, pairs: list[tuple[int, int]], nearest: tuple[Any, ...]) -> tuple[Any, ...]:
        """The nearest and second nearest point so far, with some more, and the way to the nearest."""
        lanes, b = self.lanes, self.b
        first, second, which, to_u, to_v = nearest
        for number, du, dv in self.points(pairs):
            away = self._away(du, dv)
            nearer = b.fcmp_ordered("<", away, first)
            second = b.select(nearer, first, lanes.lower(second, away))
            first, which = b.select(nearer, away, first), b.select(nearer, number, which)
            to_u, to_v = b.select(nearer, du, to_u), b.select(nearer, dv, to_v)
        return first, second, which, to_u, to_v

    def bisected(self, pairs: list[tuple[int, int]], so_far: tuple[Any, ...]) -> tuple[Any, ...]:
        """The nearest border so far and the point beyond it, with some points more."""
        b = self.b
        best, beyond = so_far
        for number, du, dv in self.points(pairs):
            if self._written in {STILL, CIRCLING[EUCLID]}:
                other, away = self._to_bisector(du, dv)
            else:  # it lies where the two nearest points are as far
                other = b.icmp_signed("!=", number, self.number(NEAREST))
                away = b.fsub(self._away(du, dv), self.value(FIRST))
                away = b.fmul(self.lanes.constant(0.5), away)
            nearer = b.and_(other, b.fcmp_ordered("<", away, best))
            best, beyond = b.select(nearer, away, best), b.select(nearer, number, beyond)
        return best, beyond

    def _to_bisector(self, du: Any, dv: Any) -> tuple[Any, Any]:
        """Whether a point is not the nearest itself, and how far the line between the two is."""
        lanes, b = self.lanes, self.b
        to_u, to_v = self.value(TO_U), self.value(TO_V)
        eu, ev = b.fsub(du, to_u), b.fsub(dv, to_v)
        square = lanes.all_of("fmuladd", eu, eu, b.fmul(ev, ev))
        both = lanes.all_of("fmuladd", b.fadd(du, to_u), eu, b.fmul(b.fadd(dv, to_v), ev))
        length = lanes.all_of("sqrt", b.fadd(square, lanes.constant(1e-24)))
        away = b.fdiv(b.fmul(lanes.constant(0.5), both), length)
        return b.fcmp_ordered(">", square, lanes.constant(1e-12)), away


def label(dj: int, di: int) -> int:
    """How a point is told whose cell is so many rows and columns away from a sample's own, up to 3."""
    half = SIDE // 2
    return (dj + half) * SIDE + di + half
