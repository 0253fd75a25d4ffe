"""Means of what samples cover of a map, in LLVM's own vectors: sixteen samples are worked out at once.

Each of the places in which a sample is read then takes four channels together.
"""

from __future__ import annotations

from typing import Any, NamedTuple

from reedloom.kernels.jit import lowered
from reedloom.kernels.vectors import LANES, Vectors

TOGETHER = 4
"""Channels that are read together, at most; a map's values go on for so many beyond their end."""
MOST = 16
"""Places that a sample is read in along its longer way, and across it."""
ONE = 1.01
"""So many of the map's samples are read as one: places of a map that is only turned are rounded."""
LINES = 8
"""Numbers that are known of each sample: see `mean_covered`."""
SIZES = LANES
"""Sizes that a map has at most, from 2^15 samples across down to one."""


@lowered
def mean_covered(  # type: ignore[no-untyped-def]
    b, values, sizes, channels, last, known, stride, x, means
):
    """Means of four channels over what samples x to x + 15 cover, where that is more than one of the map's.

    Parameters
    ----------
    values : (n,) float32
        Of a map of several sizes; see `pyramid.Pyramid`.
    sizes : (3 × SIZES,) int32
        Where each size begins among the values, and its samples across and down.
    channels, last : int32
        Of the map, four or less; and the number of its last size.
    known : (LINES × stride,) float32
        Lines: u and v of each sample, in tiles; the ways to the next one across and to the one below, both
        along u and v, in the map's samples; and the squares of how long both ways are.
    stride, x : int64
    means : (TOGETHER × LANES + LANES,) float32
        Filled: the channels of each sample; and then 1 for those that cover more than one, 0 for others.

    Returns
    -------
    int32, 0 where no sample does
    """
    v = Vectors(b)
    four = v.ir.VectorType(v.single, TOGETHER)
    plan = _plan(v, sizes, last, [v.load(known, b.add(x, b.mul(stride, v.long(n)))) for n in range(LINES)])
    places = b.fmul(*plan.counts)
    readings = b.select(plan.covers, b.fptosi(places, v.ints), v.splat(v.int(0)))
    most = b.sext(v.call("llvm.vector.reduce.smax.v16i32", v.int, readings), v.long)
    into = [v.pointer(means, v.long(lane * TOGETHER), four) for lane in range(LANES)]
    for of_one in into:
        b.store(v.ir.Constant(four, [0.0] * TOGETHER), of_one, align=4)
    b.store(b.uitofp(plan.covers, v.floats), v.pointer(means, v.long(LANES * TOGETHER)), align=4)
    share = b.fdiv(v.constant(1), places)
    with v.each(v.long(0), most, 1) as (reading, _):
        corners, parts = _locate(v, plan, v.splat(b.sitofp(reading, v.single)), v.splat(channels))
        is_read = b.icmp_signed(">", readings, v.splat(b.trunc(reading, v.int)))
        for lane, of_one in enumerate(into):
            with b.if_then(b.extract_element(is_read, v.int(lane))):
                pixels = []
                for corner in corners:
                    index = b.zext(b.extract_element(corner, v.int(lane)), v.long)
                    pixels.append(b.load(v.pointer(values, index, four), align=4))
                right, below, counted = (
                    v.splat(b.extract_element(numbers, v.int(lane)), TOGETHER) for numbers in (*parts, share)
                )
                top, bottom = (v.mix(right, *pixels[n : n + 2]) for n in (0, 2))
                mean = v.all_of("fmuladd", v.mix(below, top, bottom), counted, b.load(of_one, align=4))
                b.store(mean, of_one, align=4)
    return b.trunc(most, v.int)


class _Plan(NamedTuple):
    """In which places sixteen samples are read, and at what size of the map.

    Attributes
    ----------
    start, columns, rows : vectors of int32
        Where the size begins among the values, and its samples across and down.
    counts : pair of vectors
        Places in a row, and rows.
    first : pair of vectors
        u and v of the first place, in tiles.
    steps : pair of pairs of vectors
        The ways to the next place in a row, and to the next row.
    covers : vector of flags
        Which samples cover more than one of the map's.
    """

    start: Any
    columns: Any
    rows: Any
    counts: list[Any]
    first: list[Any]
    steps: list[list[Any]]
    covers: Any


def _plan(v: Vectors, sizes: Any, last: Any, lines: list[Any]) -> _Plan:
    """Plan the places of sixteen samples, of which `mean_covered` is told what is known."""
    b, (first, ways, squares) = v.b, (lines[:2], (lines[2:4], lines[4:6]), lines[6:])
    lengths = [v.all_of("sqrt", square) for square in squares]
    longer, shorter = v.higher(*lengths), v.lower(*lengths)
    part = v.higher(b.fmul(shorter, v.constant(0.5)), b.fmul(longer, v.constant(1 / MOST)))
    size, part, per_part = _powers(v, v.higher(part, v.constant(1)), last)
    start, columns, rows = (
        v.picked(b.load(v.pointer(sizes, v.long(n * SIZES), v.ints), align=4), size) for n in range(3)
    )
    whole = [v.splat(b.sitofp(b.load(b.gep(sizes, [v.long(n * SIZES)])), v.single)) for n in (1, 2)]
    counts, steps = [], []
    for way, length in zip(ways, lengths, strict=True):
        count = v.higher(v.all_of("ceil", b.fmul(length, per_part)), v.constant(1))
        apart = _apart(v, length, part, count)
        steps.append([b.fmul(one, b.fdiv(apart, side)) for one, side in zip(way, whole, strict=True)])
        back = b.fmul(v.constant(0.5), b.fsub(v.constant(1), count))
        first = [v.all_of("fmuladd", back, *both) for both in zip(steps[-1], first, strict=True)]
        counts.append(count)
    return _Plan(start, columns, rows, counts, first, steps, b.fcmp_ordered(">", longer, v.constant(ONE)))


def _locate(v: Vectors, plan: _Plan, number: Any, channels: Any) -> tuple[list[Any], list[Any]]:
    """The four samples about the places of a number, row by row, and how far those are from the first."""
    b = v.b
    per_row = b.fdiv(v.constant(1), plan.counts[0])
    row = v.all_of("floor", b.fmul(b.fadd(number, v.constant(0.5)), per_row))
    column = b.fsub(number, b.fmul(row, plan.counts[0]))
    pairs, parts = [], []
    for axis, count in enumerate((plan.columns, plan.rows)):
        place = v.all_of("fmuladd", row, plan.steps[1][axis], plan.first[axis])
        *pair, part = _between(v, v.all_of("fmuladd", column, plan.steps[0][axis], place), count)
        pairs.append(pair)
        parts.append(part)
    lefts = [b.add(b.mul(corner, channels), plan.start) for corner in pairs[0]]
    uppers = [b.mul(b.mul(corner, plan.columns), channels) for corner in pairs[1]]
    return [b.add(upper, left) for upper in uppers for left in lefts], parts


def _powers(v: Vectors, part: Any, last: Any) -> tuple[Any, Any, Any]:
    """The number of the size whose samples are as long as a part, or less; how long, and 1 over that."""
    b = v.b
    size = b.sub(b.lshr(b.bitcast(part, v.ints), v.splat(v.int(23))), v.splat(v.int(127)))
    size = b.select(b.icmp_signed("<", size, v.splat(last)), size, v.splat(last))
    return size, v.whole_power(size), v.whole_power(b.neg(size))


def _apart(v: Vectors, whole: Any, part: Any, count: Any) -> Any:
    """How far apart so many places are read, as a share of the way that is covered.

    Such that they and what each reads of itself, a `part`, spread as far as the whole: where a sample covers
    just one of the map's, all are one place, and nothing is blurred.
    """
    b, one = v.b, v.constant(1)
    more = v.higher(b.fsub(b.fmul(whole, whole), b.fmul(part, part)), v.constant(0))
    spread = v.all_of("sqrt", b.fdiv(more, b.fsub(b.fmul(count, count), one)))
    return b.select(b.fcmp_ordered(">", count, one), b.fdiv(spread, whole), v.constant(0))


def _between(v: Vectors, place: Any, count: Any) -> tuple[Any, Any, Any]:
    """The samples before and after each place along an axis, and how far beyond the first it is."""
    b, none, one = v.b, v.splat(v.int(0)), v.splat(v.int(1))
    last = b.sub(count, one)
    at = v.all_of("fmuladd", v.within(place), b.sitofp(count, v.floats), v.constant(-0.5))
    cell = v.all_of("floor", at)
    before = b.fptosi(cell, v.ints)
    is_last = b.icmp_signed(">=", before, last)
    after = b.select(is_last, none, b.add(before, one))
    before = b.select(b.icmp_signed("<", before, none), last, b.select(is_last, last, before))
    return before, after, b.fsub(at, cell)
