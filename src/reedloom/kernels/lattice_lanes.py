"""The innermost step of lattice noise at given places, in LLVM's own vectors: sixteen places at once.

As `kernels/lanes.py` for maps: a loop over scattered places compiles to single loads for each corner, and to
branches around the border; here two loads bring a place's four corners, and everything else is done for
sixteen places together.
"""

from __future__ import annotations

from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.lanes import LANES, Vectors


@lowered
def add_corners(b, table, pairs, reach, line, x, shape, numbers):  # type: ignore[no-untyped-def]
    """Add an octave to samples x to x + 15 of a row.

    Parameters
    ----------
    table : ((rows + 1) × (columns + 1) × 1 or 2) float32
        Each corner's value, or its slopes in u and v; the first row and column stand again at the end.
    pairs : (2 × W) float32
        Places u, v in tiles.
    reach : (W) float32
        How far each sample reaches, in widths.
    line : (W) float32
        Added to.
    x : int64
    shape : (3,) int32
        Cells across and down, no more than the table has; and 1 if corners have slopes, 0 if a value.
    numbers : (9,) float32
        Offsets in u and v, in cells, from 0 to their count; cells in a width; what the octave is multiplied
        by; and the coefficients of the fade's powers, the first one's first.

    Returns
    -------
    int32, always 0
    """
    v = Vectors(b)
    finest, amount = v.numbers(numbers, 2, 2)
    weight = _weight(v, v.load(reach, x), finest, amount)
    shows = v.told(b.fcmp_unordered("!=", weight, v.constant(0)))
    with b.if_then(
        b.icmp_signed("!=", shows, v.int(0))
    ):  # where an octave is too fine for all, nothing is read
        _add(v, table, pairs, line, x, shape, numbers, weight)
    return v.int(0)


def _add(
    v: Vectors, table: Any, pairs: Any, line: Any, x: Any, shape: Any, numbers: Any, weight: Any
) -> None:
    """Add sixteen samples, by their weights; see `add_corners`."""
    b = v.b
    columns, rows, slopes = v.numbers(shape, 3)
    shift_u, shift_v, _, _, *fade = v.numbers(numbers, 9)
    twice = b.mul(x, v.long(2))
    first, second = v.load(pairs, twice), v.load(pairs, b.add(twice, v.long(LANES)))
    u, v_place = (v.shuffle(first, second, range(axis, 2 * LANES, 2)) for axis in range(2))
    left, fx = _corner(v, u, columns, shift_u)
    upper, fy = _corner(v, v_place, rows, shift_v)
    wide = b.add(columns, v.int(1))
    at = b.add(b.mul(upper, v.splat(wide)), left)
    coefficients = [v.splat(power) for power in fade]
    wx, wy = (_fade(v, t, coefficients) for t in (fx, fy))
    into = v.pointer(line, x)
    before = b.load(into, align=4)
    with b.if_else(b.icmp_signed("!=", slopes, v.int(0))) as (has_slopes, has_values):
        with has_slopes:
            gx, gy = (b.fsub(t, v.constant(1)) for t in (fx, fy))
            top = _mixed(v, wx, v.pairs_beside(table, at), fx, gx, fy)
            bottom = _mixed(v, wx, v.pairs_beside(b.gep(table, [b.shl(wide, v.int(1))]), at), fx, gx, gy)
            b.store(v.all_of("fmuladd", weight, v.mix(wy, top, bottom), before), into, align=4)
        with has_values:
            top = v.mix(wx, *v.neighbours(table, v.longs(at)))
            bottom = v.mix(wx, *v.neighbours(b.gep(table, [wide]), v.longs(at)))
            b.store(v.all_of("fmuladd", weight, v.mix(wy, top, bottom), before), into, align=4)


def _weight(v: Vectors, reach: Any, finest: Any, amount: Any) -> Any:
    """`lattice.octave_weight`, times an amount."""
    b, number = v.b, v.constant
    cells = b.fmul(reach, v.splat(finest))
    power = b.fmul(b.fmul(cells, cells), number(-0.65))
    soft = number(1 / 24)
    for term in (1 / 6, 1 / 2, 1, 1):
        soft = v.all_of("fmuladd", soft, power, number(term))
    t = b.fmul(b.fsub(number(0.6), cells), number(10))
    t = v.held(t, number(0), number(1))
    fade = b.fmul(b.fmul(t, t), v.all_of("fmuladd", t, number(-2), number(3)))
    return b.fmul(b.fmul(soft, fade), v.splat(amount))


def _corner(v: Vectors, place: Any, count: Any, shift: Any) -> tuple[Any, Any]:
    """The cell a place lies in along an axis, and where between its two corners.

    What the product of place and count loses in rounding is kept, so that a fine lattice is read as exactly
    as a coarse one.
    """
    b = v.b
    within = b.fsub(place, v.all_of("floor", place))
    whole = v.splat(b.sitofp(count, v.single))
    at = b.fmul(within, whole)
    lost = v.all_of("fma", within, whole, v.b.fneg(at))
    cell = v.all_of("floor", at)
    shifted = b.call(v.floor_of_single(), [shift])
    part = b.fadd(b.fadd(b.fsub(at, cell), lost), v.splat(b.fsub(shift, shifted)))
    on = b.fcmp_ordered(">=", part, v.constant(1))
    part = b.fsub(part, b.select(on, v.constant(1), v.constant(0)))
    number = b.add(b.fptosi(cell, v.ints), v.splat(b.fptosi(shifted, v.int)))
    number = b.add(number, b.zext(on, v.ints))
    limit = v.splat(count)
    number = b.sub(number, b.select(b.icmp_signed(">=", number, limit), limit, v.splat(v.int(0))))
    # A place that is no number has no cell; any will do.
    return b.select(b.icmp_unsigned("<", number, limit), number, v.splat(v.int(0))), part


def _fade(v: Vectors, t: Any, coefficients: list[Any]) -> Any:
    total = coefficients[-1]
    for coefficient in reversed(coefficients[:-1]):
        total = v.all_of("fmuladd", total, t, coefficient)
    return v.b.fmul(total, t)


def _mixed(v: Vectors, share: Any, planes: list[Any], left: Any, right: Any, down: Any) -> Any:
    """What two corners' planes give at places beside and below them, faded from the left to the right."""
    b = v.b
    first = v.all_of("fmuladd", planes[0], left, b.fmul(planes[1], down))
    second = v.all_of("fmuladd", planes[2], right, b.fmul(planes[3], down))
    return v.mix(share, first, second)
