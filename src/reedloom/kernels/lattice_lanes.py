"""The innermost step of lattice noise at given places, in LLVM's own vectors: sixteen places at once.

As `kernels/lanes.py` for maps: a loop over scattered places compiles to single loads for each corner, and to
branches around the border; here two loads bring a place's four corners, and everything else is done for
sixteen places together. Where all sixteen lie in one cell, its corners are loaded once for all.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.lanes import Vectors


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
    shape : (5,) int32
        Cells across and down; 1 if corners have slopes, 0 if a value; and the table's columns and rows, no
        fewer than the cells.
    numbers : (9,) float32
        Offsets in u and v, in cells, from 0 to their count; cells in a width; what the octave is multiplied
        by; and the coefficients of the fade's powers, the first one's first.

    Returns
    -------
    int32, always 0
    """
    return _step(Vectors(b), table, pairs, reach, line, x, shape, numbers, around=False)


@lowered
def add_corners_around(b, table, pairs, reach, line, x, shape, numbers):  # type: ignore[no-untyped-def]
    """`add_corners` of a lattice that has more cells than its table, which it repeats.

    Parameters
    ----------
    table, pairs, reach, line, x, shape, numbers
        As there; the way in which there are more cells, the table has a power of two.

    Returns
    -------
    int32, 0; or what is not 0 if nothing was added, since some of the samples lie in the last cell that way,
    beside whose corners those of the first do not stand
    """
    return _step(Vectors(b), table, pairs, reach, line, x, shape, numbers, around=True)


def _step(
    v: Vectors,
    table: Any,
    pairs: Any,
    reach: Any,
    line: Any,
    x: Any,
    shape: Any,
    numbers: Any,
    *,
    around: bool,
) -> Any:
    """Add sixteen samples, unless the octave is too fine for all: then nothing is read."""
    b = v.b
    finest, amount = v.numbers(numbers, 2, 2)
    weight = _weight(v, v.load(reach, x), finest, amount)
    shows = v.told(b.fcmp_unordered("!=", weight, v.constant(0)))
    before = b.block
    with b.if_then(b.icmp_signed("!=", shows, v.int(0))):
        left_out = _add(v, table, pairs, line, x, shape, numbers, weight, around)
        inside = b.block
    told = b.phi(v.int)
    told.add_incoming(v.int(0), before)
    told.add_incoming(left_out, inside)
    return told


def _add(
    v: Vectors,
    table: Any,
    pairs: Any,
    line: Any,
    x: Any,
    shape: Any,
    numbers: Any,
    weight: Any,
    around: bool,
) -> Any:
    """Add sixteen samples by their weights, unless some are left out; see `add_corners_around`."""
    b = v.b
    columns, rows, slopes, table_columns, table_rows = v.numbers(shape, 5)
    shift_u, shift_v, _, _, *fade = v.numbers(numbers, 9)
    u, v_place = v.load_pairs(pairs, x)
    left, fx = _corner(v, u, columns, shift_u)
    upper, fy = _corner(v, v_place, rows, shift_v)
    left_out = v.int(0)
    if around:
        left, last_across = _repeated(v, left, columns, table_columns)
        upper, last_down = _repeated(v, upper, rows, table_rows)
        left_out = v.told(b.or_(last_across, last_down))
    wide = b.add(table_columns, v.int(1))
    # Whole numbers up to 2^24 are exact, and no table of an octave has so many corners.
    at = v.all_of("fmuladd", upper, v.splat(b.sitofp(wide, v.single)), left)
    at = b.fptosi(at, v.ints)
    coefficients = [v.splat(power) for power in fade]
    wx, wy = (_fade(v, t, coefficients) for t in (fx, fy))
    into = v.pointer(line, x)
    before = b.load(into, align=4)

    def add(top: Any, bottom: Any) -> None:
        b.store(v.all_of("fmuladd", weight, v.mix(wy, top, bottom), before), into, align=4)

    def add_slopes(above: list[Any], below: list[Any]) -> None:
        gx, gy = (b.fsub(t, v.constant(1)) for t in (fx, fy))
        add(_mixed(v, wx, above, fx, gx, fy), _mixed(v, wx, below, fx, gx, gy))

    def add_values(above: list[Any], below: list[Any]) -> None:
        add(v.mix(wx, *above), v.mix(wx, *below))

    nothing_left_out = b.icmp_signed("==", left_out, v.int(0))
    has_any = b.icmp_signed("!=", slopes, v.int(0))
    with b.if_then(nothing_left_out), b.if_else(has_any) as (has_slopes, has_values):
        with has_slopes:
            lines = table, b.gep(table, [b.shl(wide, v.int(1))])
            _give_corners(v, lines, at, 2, v.pairs_beside, add_slopes)
        with has_values:
            _give_corners(v, (table, b.gep(table, [wide])), at, 1, v.numbers_beside, add_values)
    return left_out


def _repeated(v: Vectors, cell: Any, count: Any, columns: Any) -> tuple[Any, Any]:
    """Where cells along an axis stand in a table of fewer, and which are the last one, if it has fewer."""
    b = v.b
    size = b.sitofp(columns, v.single)
    turns = v.all_of("floor", b.fmul(cell, v.splat(b.fdiv(v.single(1), size))))
    last = b.sitofp(b.sub(count, v.int(1)), v.single)
    last = b.select(b.icmp_signed(">", count, columns), last, v.single(1e30))
    within = b.fsub(cell, b.fmul(turns, v.splat(size)))
    return within, b.fcmp_ordered(">=", cell, v.splat(last))


def _give_corners(
    v: Vectors,
    lines: tuple[Any, Any],
    at: Any,
    each: int,
    scattered: Callable[[Any, Any], list[Any]],
    take: Callable[[list[Any], list[Any]], None],
) -> None:
    """Load the corners beside each place, above and below, of so many numbers each, and hand them on."""
    b = v.b
    cell = b.extract_element(at, v.int(0))
    apart = v.told(b.icmp_signed("!=", at, v.splat(cell)))
    with b.if_else(b.icmp_signed("==", apart, v.int(0))) as (are_together, are_scattered):
        with are_together:
            start = b.mul(b.zext(cell, v.long), v.long(each))
            where = [b.add(start, v.long(number)) for number in range(2 * each)]
            above, below = ([v.splat(b.load(b.gep(line, [n]))) for n in where] for line in lines)
            take(above, below)
        with are_scattered:
            take(*(scattered(line, at) for line in lines))


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

    Where between them is worked out without the cells before, so that a fine lattice is read as exactly as a
    coarse one.
    """
    b = v.b
    within = b.fsub(place, v.all_of("floor", place))
    columns = b.sitofp(count, v.single)
    whole = v.splat(columns)
    # Twice around is the end of the table; a place that is no number is held there too.
    end = v.splat(b.fmul(columns, v.single(2 - 2**-23)))
    at = v.lower(v.all_of("fma", within, whole, v.splat(shift)), end)
    cell = v.all_of("floor", at)
    full = b.call(v.floor_of_single(), [shift])
    part = v.all_of("fma", within, whole, b.fsub(v.splat(full), cell))
    part = b.fadd(part, v.splat(b.fsub(shift, full)))
    return b.select(b.fcmp_ordered(">=", cell, whole), b.fsub(cell, whole), cell), part


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
