"""The innermost step of resampling in LLVM's own vectors: sixteen places read at once.

A loop over scattered places compiles to four single loads a sample, or to gathers, which many processors
carry out more slowly still. Here a place takes two loads, each of two neighbours side by side. And memory
is asked for ahead of its use, since no processor foresees a bent row's way through the source: that alone
was measured to save a third of the time. Nothing is special to one processor: LLVM cuts the vectors to
those it has.
"""

from __future__ import annotations

from typing import Any

from reedloom.kernels.jit import lowered

LANES = 16
"""Samples read at once."""

ROWS_AHEAD = 8
"""How many rows of the source are fetched before they are read."""

SAMPLES_AHEAD = 256
"""How many samples' places and results are fetched before they are reached."""

_EVERY = 2
"""One sample in this many fetches its part of the source: neighbours mostly share a line of the cache."""

_TO_SECOND, _TO_FIRST = 2, 3
"""How near LLVM's prefetch brings a line: to the processor's second level of cache, or to its first."""


@lowered
def read_lanes(b, source, pairs, line, x, width, height, opening):  # type: ignore[no-untyped-def]
    """Read samples x to x + 15 of a row linearly; those across the seam are left to the caller.

    source: (h × w) values in a row; pairs: (2 × W) places u, v; line: (W) results; width, height: of the
    source, int32, at least 2; x: int64; opening: whether no row was read just before, boolean. The answer has
    one bit a sample: 1 where its place lies across the seam, or is no number.
    """
    v = _Vectors(b)
    u_first, u_second = v.load(pairs, b.mul(x, v.long(2)), 0), v.load(pairs, b.mul(x, v.long(2)), LANES)
    column, across, in_width = v.cell_of(v.shuffle(u_first, u_second, range(0, 2 * LANES, 2)), width)
    row, along, in_height = v.cell_of(v.shuffle(u_first, u_second, range(1, 2 * LANES, 2)), height)
    inside = b.and_(in_width, in_height)
    soon = b.add(x, v.long(SAMPLES_AHEAD))
    v.fetch(pairs, [b.mul(soon, v.long(2)), b.add(b.mul(soon, v.long(2)), v.long(LANES))], _TO_FIRST)
    v.fetch(line, [soon], _TO_FIRST)
    places = b.select(inside, b.add(b.mul(row, v.splat(width)), column), v.splat(v.int(0)))
    at = [b.zext(b.extract_element(places, v.int(lane)), v.long) for lane in range(LANES)]
    step = b.sext(width, v.long)
    with b.if_then(opening, likely=False):
        for rows in range(1, ROWS_AHEAD):
            v.fetch(b.gep(source, [b.mul(step, v.long(rows))]), at[::_EVERY], _TO_SECOND)
    v.fetch(b.gep(source, [b.mul(step, v.long(ROWS_AHEAD))]), at[::_EVERY], _TO_SECOND)
    top = v.mix(across, *v.neighbours(source, at))
    bottom = v.mix(across, *v.neighbours(b.gep(source, [step]), at))
    b.store(v.mix(along, top, bottom), v.pointer(line, x), align=4)
    return b.zext(b.not_(b.bitcast(inside, v.bits)), v.int)


class _Vectors:
    """The few vector terms the step is written in, over one LLVM builder."""

    def __init__(self, builder: Any) -> None:
        from llvmlite import ir

        self.ir = ir
        self.b = builder
        self.int, self.long, self.bits = ir.IntType(32), ir.IntType(64), ir.IntType(LANES)
        self.single = ir.FloatType()
        self.ints = ir.VectorType(self.int, LANES)
        self.floats = ir.VectorType(self.single, LANES)

    def call(self, name: str, result: Any, *values: Any) -> Any:
        """An intrinsic function of LLVM."""
        kind = self.ir.FunctionType(result, [value.type for value in values])
        function = self.b.module.globals.get(name) or self.ir.Function(self.b.module, kind, name)
        return self.b.call(function, values)

    def all_of(self, name: str, *values: Any) -> Any:
        """An intrinsic function over each of the lanes."""
        return self.call(f"llvm.{name}.v{LANES}f32", self.floats, *values)

    def constant(self, value: float) -> Any:
        """One number in all lanes."""
        return self.ir.Constant(self.floats, [value] * LANES)

    def splat(self, value: Any) -> Any:
        """One computed number in all lanes."""
        kind = self.ir.VectorType(value.type, LANES)
        empty = self.ir.Constant(kind, self.ir.Undefined)
        return self.shuffle(self.b.insert_element(empty, value, self.int(0)), empty, [0] * LANES)

    def shuffle(self, first: Any, second: Any, order: Any) -> Any:
        """Lanes of two vectors in a new order."""
        order = list(order)
        lanes = self.ir.Constant(self.ir.VectorType(self.int, len(order)), order)
        return self.b.shuffle_vector(first, second, lanes)

    def pointer(self, array: Any, index: Any, kind: Any = None) -> Any:
        """Where a vector begins in an array."""
        return self.b.bitcast(self.b.gep(array, [index]), (kind or self.floats).as_pointer())

    def load(self, array: Any, index: Any, beyond: int) -> Any:
        """Numbers that lie side by side."""
        return self.b.load(self.pointer(array, self.b.add(index, self.long(beyond))), align=4)

    def mix(self, share: Any, first: Any, second: Any) -> Any:
        """From the first to the second by a share, as the plain loop contracts it."""
        return self.all_of("fmuladd", share, self.b.fsub(second, first), first)

    def cell_of(self, place: Any, count: Any) -> tuple[Any, Any, Any]:
        """The sample before each place along an axis, how far beyond it the place is, and which are inside.

        Those inside do not lie across the seam; a place that is no number does.
        """
        within = self.b.fsub(place, self.all_of("floor", place))
        whole = self.splat(self.b.sitofp(count, self.single))
        at = self.all_of("fmuladd", within, whole, self.constant(-0.5))
        cell = self.all_of("floor", at)
        inside = self.b.and_(
            self.b.fcmp_ordered(">=", at, self.constant(0.0)),
            self.b.fcmp_ordered("<", at, self.b.fsub(whole, self.constant(1.0))),
        )
        return self.b.fptosi(cell, self.ints), self.b.fsub(at, cell), inside

    def neighbours(self, array: Any, at: list[Any]) -> tuple[Any, Any]:
        """The samples at given indices, and those just after them."""
        two = self.ir.VectorType(self.single, 2)
        parts = [self.b.load(self.pointer(array, index, two), align=4) for index in at]
        while len(parts) > 2:
            size = 2 * parts[0].type.count
            parts = [self.shuffle(a, b, range(size)) for a, b in zip(parts[::2], parts[1::2], strict=True)]
        first, second = parts
        even, odd = range(0, 2 * LANES, 2), range(1, 2 * LANES, 2)
        return self.shuffle(first, second, even), self.shuffle(first, second, odd)

    def fetch(self, array: Any, at: list[Any], near: int) -> None:
        """Ask for lines of an array to be brought into the cache; beyond its end this does nothing."""
        byte = self.ir.IntType(8).as_pointer()
        read, data = self.int(0), self.int(1)
        for index in at:
            line = self.b.bitcast(self.b.gep(array, [index]), byte)
            self.call("llvm.prefetch.p0i8", self.ir.VoidType(), line, read, self.int(near), data)
