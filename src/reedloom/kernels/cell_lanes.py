"""The innermost steps of the search among cells, in LLVM's own vectors: sixteen samples at once.

As `kernels/lattice_lanes.py` for lattices. Runs of samples that share a cell go through it together
(`cells.py`); where cells are as small as a few samples no run is long enough, and each sample's own points are
brought by two loads for each four of them. Distances are Euclid's, and points stand still.

The steps take: spots, (rows × wide × 2) float32, where each cell's point lies in it, 0 to 1; values, (7 × n)
float32, and numbers, (3 × n) int32, what is known of a row's samples, line after line as named below; x, int64,
the first of the samples; shape, (3,) int32: wide, n, and 1 if the second distance is to be exact; and slack,
float32, how far points keep from their cells' edges. Points are told by `label`. Steps that look at the cells
around answer with one bit a sample: 1 where a point farther out may count; the others answer 0.
"""

from __future__ import annotations

from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.lanes import Vectors

SIDE = 7
"""Cells a side of the square in which points are looked for."""
FAR = 1e9
U, V, FIRST, SECOND, TO_U, TO_V, BORDER = range(VALUES := 7)
"""Lines of values: where a sample lies in its cell, its distance to the nearest point and to the second (squares,
while they are looked for), the way to the nearest, and the distance to the border."""
CELL, NEAREST, BEYOND = range(NUMBERS := 3)
"""Lines of numbers: a sample's own cell in `spots`, the label of its nearest point, and of that across the
border."""

_AROUND = [(dj, di) for dj in (-1, 0, 1) for di in (-1, 1)]
_FARTHER = [(dj, di) for dj in (-2, 2) for di in (-2, 0, 2)] + [(dj, -3) for dj in (-1, 0, 1)]
"""The first cells of pairs side by side, rows and columns away from a sample's own: those next to it, with
one column more, and all others that can matter."""


@lowered
def search_near(b, spots, values, numbers, x, shape, slack):  # type: ignore[no-untyped-def]
    """Find the nearest and the second nearest of the points around."""
    search = _Search(b, spots, values, numbers, x, shape)
    v = search.lanes
    found = search.among(_AROUND, (v.constant(FAR), v.constant(FAR), v.splat(v.int(0))))
    search.put_nearest(found)
    exact = v.splat(b.icmp_signed("!=", search.exact, v.int(0)))
    so_far, reach = b.select(exact, found[1], found[0]), search.reach(slack)
    return v.told(b.fcmp_ordered(">", so_far, b.fmul(reach, reach)))


@lowered
def search_far(b, spots, values, numbers, x, shape, slack):  # type: ignore[no-untyped-def]
    """Go on among the points farther out."""
    search = _Search(b, spots, values, numbers, x, shape)
    so_far = search.value(FIRST), search.value(SECOND), search.number(NEAREST)
    search.put_nearest(search.among(_FARTHER, so_far))
    return search.lanes.int(0)


@lowered
def bisect_near(b, spots, values, numbers, x, shape, slack):  # type: ignore[no-untyped-def]
    """Find how far the border to the points around is, and which point is beyond it."""
    search = _Search(b, spots, values, numbers, x, shape)
    v = search.lanes
    found = search.bisected(_AROUND, (v.constant(FAR), v.splat(v.int(0))))
    search.put_border(found)
    most = b.fadd(search.value(FIRST), b.fadd(found[0], found[0]))
    return v.told(b.fcmp_ordered(">", most, search.reach(slack)))


@lowered
def bisect_far(b, spots, values, numbers, x, shape, slack):  # type: ignore[no-untyped-def]
    """Go on among the points farther out."""
    search = _Search(b, spots, values, numbers, x, shape)
    search.put_border(search.bisected(_FARTHER, (search.value(BORDER), search.number(BEYOND))))
    return search.lanes.int(0)


class _Search:
    """Sixteen samples of a row, and the points about them."""

    def __init__(self, builder: Any, spots: Any, values: Any, numbers: Any, x: Any, shape: Any) -> None:
        self.b, self.lanes, self.spots, self.x = builder, Vectors(builder), spots, x
        self._values, self._numbers = values, numbers
        self.wide, count, self.exact = (
            builder.load(builder.gep(shape, [self.lanes.int(n)])) for n in range(3)
        )
        self._count = builder.sext(count, self.lanes.long)
        self.base, self.u, self.v = self.number(CELL), self.value(U), self.value(V)

    def _where(self, array: Any, line: int, kind: Any) -> Any:
        at = self.b.add(self.b.mul(self._count, self.lanes.long(line)), self.x)
        return self.lanes.pointer(array, at, kind)

    def value(self, line: int) -> Any:
        """What is known of the samples, from a line of values."""
        return self.b.load(self._where(self._values, line, self.lanes.floats), align=4)

    def number(self, line: int) -> Any:
        """What is known of the samples, from a line of numbers."""
        return self.b.load(self._where(self._numbers, line, self.lanes.ints), align=4)

    def put_nearest(self, found: tuple[Any, ...]) -> None:
        """Keep the nearest and second distances, and which point is nearest."""
        for line, value in zip((FIRST, SECOND), found[:2], strict=True):
            self.b.store(value, self._where(self._values, line, value.type), align=4)
        self.b.store(found[2], self._where(self._numbers, NEAREST, found[2].type), align=4)

    def put_border(self, found: tuple[Any, ...]) -> None:
        """Keep the distance to the border, and the point beyond it."""
        self.b.store(found[0], self._where(self._values, BORDER, found[0].type), align=4)
        self.b.store(found[1], self._where(self._numbers, BEYOND, found[1].type), align=4)

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
        for dj, di in pairs:
            offset = b.add(b.mul(self.wide, lanes.int(dj)), lanes.int(di))
            four = lanes.pairs_beside(self.spots, b.add(self.base, lanes.splat(offset)))
            for beside in range(2):
                du = b.fsub(b.fadd(four[2 * beside], lanes.constant(di + beside)), self.u)
                dv = b.fsub(b.fadd(four[2 * beside + 1], lanes.constant(dj)), self.v)
                yield lanes.splat(lanes.int(label(dj, di + beside))), du, dv

    def among(self, pairs: list[tuple[int, int]], nearest: tuple[Any, ...]) -> tuple[Any, ...]:
        """The nearest and second nearest point so far, with some more."""
        lanes, b = self.lanes, self.b
        first, second, which = nearest
        for number, du, dv in self.points(pairs):
            away = lanes.all_of("fmuladd", du, du, b.fmul(dv, dv))
            nearer = b.fcmp_ordered("<", away, first)
            second = b.select(nearer, first, lanes.lower(second, away))
            first, which = b.select(nearer, away, first), b.select(nearer, number, which)
        return first, second, which

    def bisected(self, pairs: list[tuple[int, int]], so_far: tuple[Any, ...]) -> tuple[Any, ...]:
        """The nearest border so far and the point beyond it, with some points more."""
        lanes, b = self.lanes, self.b
        to_u, to_v = self.value(TO_U), self.value(TO_V)
        best, beyond = so_far
        for number, du, dv in self.points(pairs):
            eu, ev = b.fsub(du, to_u), b.fsub(dv, to_v)
            square = lanes.all_of("fmuladd", eu, eu, b.fmul(ev, ev))
            both = lanes.all_of("fmuladd", b.fadd(du, to_u), eu, b.fmul(b.fadd(dv, to_v), ev))
            length = lanes.all_of("sqrt", b.fadd(square, lanes.constant(1e-24)))
            away = b.fdiv(b.fmul(lanes.constant(0.5), both), length)
            other = b.fcmp_ordered(">", square, lanes.constant(1e-12))  # not the nearest point itself
            nearer = b.and_(other, b.fcmp_ordered("<", away, best))
            best, beyond = b.select(nearer, away, best), b.select(nearer, number, beyond)
        return best, beyond


def label(dj: int, di: int) -> int:
    """How a point is told whose cell is so many rows and columns away from a sample's own, up to 3."""
    half = SIDE // 2
    return (dj + half) * SIDE + di + half
