"""Tables of colours averaged over tones, in LLVM's own vectors.

Where the ends of what is averaged over lie in a table is found for sixteen samples at once; then each sample
takes its three channels together, which no loop over channels compiles to.
"""

from __future__ import annotations

from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.vectors import LANES, Vectors

CHANNELS = 4
"""As many as a vector of the processor holds; colours leave the last one empty."""


@lowered
def find_ends(b, value, width, cells, parts, x, end, stride, size):  # type: ignore[no-untyped-def]
    """Where what samples cover begins and ends in a table, as long as sixteen of them lie before an end.

    Parameters
    ----------
    value, width : (n) float32
        Tones, and how far they change across each sample.
    cells : (2 × stride) int32
        Filled: the entries in which it begins; and from `stride` on, in which it ends.
    parts : (3 × stride) float64
        Filled: how far behind those entries' starts it does, in entries; and what sums are multiplied by.
    x, end, stride : int64
    size : float64
        Entries in the table.

    Returns
    -------
    int32, the first sample that was not looked at
    """
    v = Vectors(b)
    doubles = v.ir.VectorType(v.double, LANES)

    def splat(number: Any) -> Any:
        return v.splat(v.double(number) if isinstance(number, float) else number)

    half_size, last = b.fmul(size, v.double(0.5)), splat(b.fsub(size, v.double(1.0)))
    with v.each(x, end) as (at, _):
        tone, covered = (b.fpext(v.load(numbers, at), doubles) for numbers in (value, width))
        half = v.higher(b.fmul(covered, splat(half_size)), splat(0.5))
        middle = b.fmul(tone, splat(size))
        for number, place in enumerate((b.fsub(middle, half), b.fadd(middle, half))):
            held = v.lower(v.higher(place, splat(0.0)), last)
            cell = b.fptosi(held, v.ints)
            where = b.add(at, b.mul(stride, v.long(number)))
            b.store(cell, v.pointer(cells, where, v.ints), align=4)
            part = b.fsub(place, b.sitofp(cell, doubles))
            b.store(part, v.pointer(parts, where, doubles), align=8)
        scale = b.fdiv(splat(half_size), half)
        b.store(scale, v.pointer(parts, b.add(at, b.mul(stride, v.long(2))), doubles), align=8)
    return b.trunc(at, v.int)


@lowered
def average_colours(b, table, cells, parts, out, end, stride):  # type: ignore[no-untyped-def]
    """Fill samples 0 to `end` - 1 with averages of a table of colours.

    Parameters
    ----------
    table : (entries × 8) float64
        Of each entry the integral of four channels up to it, and then their steps to the next.
    cells, parts
        From `find_ends`.
    out : (n × 3) float32
    end, stride : int64

    Returns
    -------
    int32, `end`
    """
    v = Vectors(b)
    four = v.ir.VectorType(v.double, CHANNELS)

    def number(array: Any, at: Any, line: int) -> Any:
        return b.load(b.gep(array, [b.add(at, b.mul(stride, v.long(line)))]))

    def all_channels(value: Any) -> Any:
        return v.splat(value, CHANNELS)

    with v.each(v.long(0), end, 1) as (at, _):
        sums = []
        for line in range(2):
            entry = b.mul(b.zext(number(cells, at, line), v.long), v.long(2 * CHANNELS))
            up_to, step = (
                b.load(v.pointer(table, b.add(entry, v.long(first)), four), align=8)
                for first in (0, CHANNELS)
            )
            part = all_channels(number(parts, at, line))
            sums.append(v.call("llvm.fmuladd.v4f64", four, step, part, up_to))
        mean = b.fmul(b.fsub(sums[1], sums[0]), all_channels(number(parts, at, 2)))
        colour = b.fptrunc(mean, v.ir.VectorType(v.single, CHANNELS))
        colour = v.shuffle(colour, colour, range(3))
        b.store(colour, v.pointer(out, b.mul(at, v.long(3)), colour.type), align=4)
    return b.trunc(at, v.int)
