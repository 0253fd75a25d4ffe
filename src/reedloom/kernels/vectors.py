"""The terms of innermost loops of which a compiler would make no vectors, in LLVM's own vectors.

Sixteen numbers at a time. Nothing is special to one processor: LLVM cuts the vectors to those it has.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any

import numpy as np

from reedloom.kernels.jit import inlined

COSINE = 3.14159265, -5.16771278, 2.55016404, -0.59926453, 0.08214589
"""The factors of `quick.cosine_of_turn`."""

LANES = 16
"""Numbers in a vector."""

TO_SECOND, TO_FIRST = 2, 3
"""How near LLVM's prefetch brings a line: to the processor's second level of cache, or to its first."""


@inlined
def lined(count):  # type: ignore[no-untyped-def]
    """So many numbers to be filled, which begin where a line of the cache does: (count,) float32.

    Sixteen of them, read or written at once, are then in one line and not across two: a tenth of a reading.
    """
    room = np.empty(count + LANES, np.float32)
    begin = -(room.ctypes.data >> 2) % LANES
    return room[begin : begin + count]


class Vectors:
    """The few vector terms the step is written in, over one LLVM builder."""

    def __init__(self, builder: Any) -> None:
        from llvmlite import ir

        self.ir = ir
        self.b = builder
        self.int, self.long, self.bits = ir.IntType(32), ir.IntType(64), ir.IntType(LANES)
        self.single, self.double = ir.FloatType(), ir.DoubleType()
        self.flag = ir.IntType(1)
        self.ints = ir.VectorType(self.int, LANES)
        self.floats = ir.VectorType(self.single, LANES)

    def call(self, name: str, result: Any, *values: Any) -> Any:
        """An intrinsic function of LLVM."""
        kind = self.ir.FunctionType(result, [value.type for value in values])
        function = self.b.module.globals.get(name) or self.ir.Function(self.b.module, kind, name)
        return self.b.call(function, values)

    def all_of(self, name: str, *values: Any) -> Any:
        """An intrinsic function over each of the lanes."""
        kind = values[0].type
        return self.call(f"llvm.{name}.v{kind.count}f32", kind, *values)

    def floor_of_single(self) -> Any:
        """The function that rounds one number down."""
        kind = self.ir.FunctionType(self.single, [self.single])
        name = "llvm.floor.f32"
        return self.b.module.globals.get(name) or self.ir.Function(self.b.module, kind, name)

    def constant(self, value: float) -> Any:
        """One number in all lanes."""
        return self.ir.Constant(self.floats, [value] * LANES)

    def table(self, numbers: Sequence[float], name: str) -> Any:
        """Numbers that are known when a kernel is compiled, where they lie in it."""
        kind = self.ir.ArrayType(self.single, len(numbers))
        where = self.b.module.globals.get(name)
        if where is None:
            where = self.ir.GlobalVariable(self.b.module, kind, name)
            where.initializer = self.ir.Constant(kind, [float(number) for number in numbers])
            where.global_constant, where.linkage = True, "internal"
        return self.b.bitcast(where, self.single.as_pointer())

    def splat(self, value: Any, lanes: int = LANES) -> Any:
        """One computed number in all lanes."""
        kind = self.ir.VectorType(value.type, lanes)
        empty = self.ir.Constant(kind, self.ir.Undefined)
        return self.shuffle(self.b.insert_element(empty, value, self.int(0)), empty, [0] * lanes)

    def shuffle(self, first: Any, second: Any, order: Any) -> Any:
        """Lanes of two vectors in a new order."""
        order = list(order)
        lanes = self.ir.Constant(self.ir.VectorType(self.int, len(order)), order)
        return self.b.shuffle_vector(first, second, lanes)

    def pointer(self, array: Any, index: Any, kind: Any = None) -> Any:
        """Where a vector begins in an array."""
        return self.b.bitcast(self.b.gep(array, [index]), (kind or self.floats).as_pointer())

    def load(self, array: Any, index: Any) -> Any:
        """Sixteen numbers that lie side by side."""
        return self.b.load(self.pointer(array, index), align=4)

    def load_pairs(self, array: Any, index: Any) -> tuple[Any, Any]:
        """The first and the second numbers of sixteen pairs that lie side by side."""
        start = self.b.mul(index, self.long(2))
        first, second = self.load(array, start), self.load(array, self.b.add(start, self.long(LANES)))
        even, odd = range(0, 2 * LANES, 2), range(1, 2 * LANES, 2)
        return self.shuffle(first, second, even), self.shuffle(first, second, odd)

    def store_pairs(self, first: Any, second: Any, array: Any, index: Any) -> None:
        """Lay the first and the second numbers of sixteen pairs beside one another.

        Parameters
        ----------
        first, second : vectors
        array, index
            As `load_pairs` takes them.
        """
        b, start = self.b, self.b.mul(index, self.long(2))
        for half in (0, LANES // 2):
            order = [half + lane // 2 + LANES * (lane % 2) for lane in range(LANES)]
            where = b.add(start, self.long(2 * half))
            b.store(self.shuffle(first, second, order), self.pointer(array, where), align=4)

    def picked(self, numbers: Any, at: Any) -> Any:
        """Out of sixteen numbers those at given places, each 0 to 15; slow unless a processor has it."""
        b = self.b
        # LLVM knows this form, and makes one instruction of it.
        out = self.ir.Constant(numbers.type, self.ir.Undefined)
        for lane in range(LANES):
            index = b.extract_element(at, self.int(lane))
            out = b.insert_element(out, b.extract_element(numbers, index), self.int(lane))
        return out

    def up_to_whole(self, count: Any) -> Any:
        """A count brought up to a multiple of sixteen."""
        return self.b.and_(self.b.add(count, self.long(LANES - 1)), self.long(-LANES))

    @contextmanager
    def each(self, first: Any, end: Any, count: int = LANES) -> Iterator[tuple[Any, Any]]:
        """Write what is done with so many samples, for all from the first on while they lie before the end.

        Yields
        ------
        the first of them, int64, which afterwards is the one that was come to; and where leaving leads
        """
        b, before = self.b, self.b.block
        head, body, after = (b.append_basic_block(name) for name in ("each", "these", "done"))
        b.branch(head)
        b.position_at_end(head)
        x = b.phi(self.long)
        x.add_incoming(first, before)
        following = b.add(x, self.long(count))
        b.cbranch(b.icmp_signed("<=", following, end), body, after)
        b.position_at_end(body)
        yield x, after
        x.add_incoming(following, b.block)
        b.branch(head)
        b.position_at_end(after)

    @contextmanager
    def each_from(self, come_to: Any, end: Any, count: int = LANES) -> Iterator[tuple[Any, Any]]:
        """`each`, of which the first is kept at an address: what is done may move it on by more."""
        b = self.b
        head, body, leave, after = (b.append_basic_block(name) for name in ("each", "these", "leave", "done"))
        b.branch(head)
        b.position_at_end(head)
        x = b.load(come_to)
        following = b.add(x, self.long(count))
        b.cbranch(b.icmp_signed("<=", following, end), body, after)
        b.position_at_end(body)
        b.store(following, come_to)
        yield x, leave
        b.branch(head)
        b.position_at_end(leave)
        b.store(x, come_to)
        b.branch(after)
        b.position_at_end(after)

    def numbers(self, array: Any, count: int, first: int = 0) -> list[Any]:
        """Some numbers of an array, each by itself."""
        return [self.b.load(self.b.gep(array, [self.int(n)])) for n in range(first, first + count)]

    def four(self, array: Any, index: Any, beyond: int) -> Any:
        """Four numbers that lie side by side."""
        kind = self.ir.VectorType(self.single, 4)
        return self.b.load(self.pointer(array, self.b.add(index, self.long(beyond)), kind), align=4)

    def lane(self, vector: Any, lane: int) -> Any:
        """One lane's number, four times."""
        return self.shuffle(vector, vector, [lane] * 4)

    def counted(self) -> Any:
        """From 0 up, a number a lane."""
        return self.ir.Constant(self.floats, [float(lane) for lane in range(LANES)])

    def before(self, x: Any, end: Any) -> Any:
        """Which of sixteen places from x on come before an end."""
        left = self.b.trunc(self.b.sub(end, x), self.int)
        places = self.ir.Constant(self.ints, list(range(LANES)))
        return self.b.icmp_signed("<", places, self.splat(left))

    def lower_end(self, numbers: Any) -> Any:
        """The lower of the first and the last of sixteen whole numbers, which mostly is the lowest of all."""
        first, last = (self.b.extract_element(numbers, self.int(lane)) for lane in (0, LANES - 1))
        return self.b.select(self.b.icmp_signed("<", last, first), last, first)

    def lowest(self, numbers: Any, ends: Sequence[int]) -> Any:
        """The lowest of those of sixteen numbers that stand at some ends, in all lanes."""
        least, *others = (self.shuffle(numbers, numbers, [lane] * LANES) for lane in ends)
        for other in others:
            least = self.lower(other, least)
        return least

    def told(self, lanes: Any) -> Any:
        """Which lanes are meant, as one bit each."""
        return self.b.zext(self.b.bitcast(lanes, self.bits), self.int)

    def within(self, place: Any) -> Any:
        """Places along an axis within the tile, from 0 to less than 1; at its end if they are no numbers."""
        return self.lower(self.b.fsub(place, self.all_of("floor", place)), self.constant(1 - 2**-24))

    def any_shows(self, numbers: Any) -> Any:
        """Whether any of sixteen numbers is not 0."""
        shows = self.told(self.b.fcmp_unordered("!=", numbers, self.constant(0)))
        return self.b.icmp_signed("!=", shows, self.int(0))

    def masked_load(self, pointer: Any, lanes: Any) -> Any:
        """Numbers that lie side by side, of which only some lanes are looked at; 0 in the others."""
        kind = pointer.type.pointee
        zeros = self.ir.Constant(kind, [0] * LANES)
        return self.call(f"llvm.masked.load.{_name(kind)}.p0", kind, pointer, self.int(4), lanes, zeros)

    def masked_store(self, value: Any, pointer: Any, lanes: Any) -> None:
        """Write only some lanes."""
        name = f"llvm.masked.store.{_name(value.type)}.p0"
        self.call(name, self.ir.VoidType(), value, pointer, self.int(4), lanes)

    def held(self, value: Any, least: Any, most: Any) -> Any:
        """A value held within two ends in each lane; what is no number is at the lower one."""
        return self.all_of("minnum", self.all_of("maxnum", value, least), most)

    def longs(self, at: Any) -> list[Any]:
        """Sixteen indices, each by itself."""
        return [self.b.zext(self.b.extract_element(at, self.int(lane)), self.long) for lane in range(LANES)]

    def numbers_beside(self, table: Any, at: Any) -> list[Any]:
        """Of a table, the number at each index, and the one just after it."""
        return list(self.neighbours(table, self.longs(at)))

    def pairs_beside(self, table: Any, at: Any) -> list[Any]:
        """Of a table of pairs, the two numbers at each index, and the two of the pair just after."""
        indices = self.longs(self.b.shl(at, self.splat(self.int(1))))
        return self.turned([self.four(table, index, 0) for index in indices])

    def mix(self, share: Any, first: Any, second: Any) -> Any:
        """From the first to the second by a share, as the plain loop contracts it."""
        return self.all_of("fmuladd", share, self.b.fsub(second, first), first)

    def weigh(self, shares: list[Any], parts: list[Any]) -> Any:
        """The sum of parts times their shares."""
        total = self.b.fmul(shares[0], parts[0])
        for share, part in zip(shares[1:], parts[1:], strict=True):
            total = self.all_of("fmuladd", share, part, total)
        return total

    def lower(self, first: Any, second: Any) -> Any:
        """The lower of two numbers in each lane."""
        return self.b.select(self.b.fcmp_ordered("<", first, second), first, second)

    def higher(self, first: Any, second: Any) -> Any:
        """The higher of two numbers in each lane."""
        return self.b.select(self.b.fcmp_ordered(">", first, second), first, second)

    def cosine_of_turn(self, turn: Any) -> Any:
        """As `quick.cosine_of_turn`."""
        b, number = self.b, self.constant
        part = b.fsub(turn, self.all_of("floor", turn))
        y = self.all_of("fabs", b.fsub(part, number(0.5)))
        y = self.all_of("fmuladd", y, number(2), number(-0.5))
        return b.fmul(y, self.series(b.fmul(y, y), COSINE))

    def power_of_two(self, x: Any) -> Any:
        """As `quick.power_of_two`."""
        b = self.b
        x = self.lower(self.higher(x, self.constant(-126)), self.constant(126))
        whole = self.all_of("floor", b.fadd(x, self.constant(0.5)))
        t = b.fmul(b.fsub(x, whole), self.constant(0.69314718))
        part = self.series(t, [1 / math.factorial(n) for n in range(7)])
        return b.fmul(part, self.whole_power(b.fptosi(whole, self.ints)))

    def whole_power(self, exponent: Any) -> Any:
        """2 to the power of whole numbers, from -126 to 127."""
        b = self.b
        bits = b.shl(b.add(exponent, self.splat(self.int(127))), self.splat(self.int(23)))
        return b.bitcast(bits, self.floats)

    def logarithm_of_two(self, x: Any) -> Any:
        """As `quick.logarithm_of_two`."""
        b = self.b
        bits = b.bitcast(self.higher(x, self.constant(1e-37)), self.ints)
        shift = self.splat(self.int(23))
        whole = b.ashr(b.sub(bits, self.splat(self.int(0x3F3504F3))), shift)
        rest = b.bitcast(b.sub(bits, b.shl(whole, shift)), self.floats)
        one = self.constant(1)
        s = b.fdiv(b.fsub(rest, one), b.fadd(rest, one))
        odd = self.series(b.fmul(s, s), [1 / n for n in range(1, 10, 2)])
        times = b.fmul(b.fmul(self.constant(2.88539008), s), odd)
        return b.fadd(b.sitofp(whole, self.floats), times)

    def series(self, x: Any, factors: Sequence[float]) -> Any:
        """A polynomial, by its factors from that of 1 up."""
        total = self.constant(factors[-1])
        for factor in factors[-2::-1]:
            total = self.all_of("fmuladd", x, total, self.constant(factor))
        return total

    def hold(self, value: Any, least: list[Any], most: list[Any]) -> Any:
        """A value held between the lower of two and the higher of two others."""
        return self.lower(self.higher(value, self.lower(*least)), self.higher(*most))

    def spline_weights(self, t: Any) -> list[Any]:
        """The shares of four samples in a Catmull-Rom spline between the middle two."""
        b, number = self.b, self.constant
        half = b.fmul(number(0.5), t)
        square = b.fmul(t, t)
        return [
            b.fmul(half, b.fsub(b.fmul(t, b.fsub(number(2), t)), number(1))),
            b.fmul(number(0.5), b.fadd(b.fmul(square, b.fsub(b.fmul(number(3), t), number(5))), number(2))),
            b.fmul(half, b.fadd(b.fmul(t, b.fsub(number(4), b.fmul(number(3), t))), number(1))),
            b.fmul(b.fmul(number(0.5), square), b.fsub(t, number(1))),
        ]

    def cell_of(self, place: Any, count: Any, beside: int) -> tuple[Any, Any, Any]:
        """The sample before each place along an axis, how far beyond it the place is, and which are inside.

        Those inside have so many samples more on both sides of their two before the seam comes; a place that
        is no number has not.
        """
        within = self.b.fsub(place, self.all_of("floor", place))
        whole = self.splat(self.b.sitofp(count, self.single))
        at = self.all_of("fmuladd", within, whole, self.constant(-0.5))
        cell = self.all_of("floor", at)
        inside = self.b.and_(
            self.b.fcmp_ordered(">=", at, self.constant(beside)),
            self.b.fcmp_ordered("<", at, self.b.fsub(whole, self.constant(1 + beside))),
        )
        return self.b.fptosi(cell, self.ints), self.b.fsub(at, cell), inside

    def neighbours(self, array: Any, at: list[Any]) -> tuple[Any, Any]:
        """The samples at given indices, and those just after them."""
        two = self.ir.VectorType(self.single, 2)
        first, second = self._join([self.b.load(self.pointer(array, index, two), align=4) for index in at], 2)
        even, odd = range(0, 2 * LANES, 2), range(1, 2 * LANES, 2)
        return self.shuffle(first, second, even), self.shuffle(first, second, odd)

    def four_beside(self, fours: list[Any]) -> Any:
        """Four vectors of four in one of sixteen."""
        return self._join(fours, 1)[0]

    def each_of(self, numbers: Any, group: int) -> Any:
        """Of each four of sixteen numbers the one at a place, four times."""
        return self.shuffle(numbers, numbers, [lane // 4 * 4 + group for lane in range(LANES)])

    def columns(self, groups: list[Any]) -> list[Any]:
        """The four columns of sixteen rows of four numbers, of which each group has every fourth."""
        a, b, c, d = groups
        left, right = (
            [self._of_fours(*both, ((0, n), (1, n), (0, n + 1), (1, n + 1))) for n in (0, 2)]
            for both in ((a, b), (c, d))
        )
        return [
            self._of_fours(*both, ((0, n), (0, n + 1), (1, n), (1, n + 1)))
            for both in zip(left, right, strict=True)
            for n in (0, 2)
        ]

    def _of_fours(self, first: Any, second: Any, order: Sequence[tuple[int, int]]) -> Any:
        """Of each four of two vectors as many, told by which of the two and which of the four they are."""
        fours = range(0, LANES, 4)
        return self.shuffle(
            first, second, [LANES * which + four + at for four in fours for which, at in order]
        )

    def turned(self, fours: list[Any]) -> list[Any]:
        """The first, second, third and fourth numbers of sixteen vectors of four."""
        first, second = self._join(fours, 2)
        return [self.shuffle(first, second, range(number, 4 * LANES, 4)) for number in range(4)]

    def pixels(self, array: Any, index: Any) -> list[Any]:
        """Two colours that lie side by side, in the first three lanes of four."""
        left, right = self.four(array, index, 0), self.four(array, index, 2)
        return [left, self.shuffle(right, right, (1, 2, 3, 3))]

    def cut(self, thirds: list[Any]) -> list[Any]:
        """Four colours that lie side by side over three vectors, in the first three lanes of four."""
        a, b, c = thirds
        return [
            a,
            self.shuffle(a, b, (3, 4, 5, 5)),
            self.shuffle(b, c, (2, 3, 4, 4)),
            self.shuffle(c, c, (1, 2, 3, 3)),
        ]

    def _join(self, parts: list[Any], pieces: int) -> list[Any]:
        while len(parts) > pieces:
            size = 2 * parts[0].type.count
            parts = [self.shuffle(a, b, range(size)) for a, b in zip(parts[::2], parts[1::2], strict=True)]
        return parts

    def fetch(self, array: Any, at: list[Any], near: int) -> None:
        """Ask for lines of an array to be brought into the cache; beyond its end this does nothing."""
        byte = self.ir.IntType(8).as_pointer()
        read, data = self.int(0), self.int(1)
        for index in at:
            line = self.b.bitcast(self.b.gep(array, [index]), byte)
            self.call("llvm.prefetch.p0i8", self.ir.VoidType(), line, read, self.int(near), data)


def _name(kind: Any) -> str:
    """What LLVM calls a vector's type in the names of its functions."""
    return f"v{kind.count}{'i32' if str(kind.element) == 'i32' else 'f32'}"
