"""The innermost loop of lattice noise at given places, in LLVM's own vectors: sixteen places at once.

As `kernels/lanes.py` for maps: a loop over scattered places compiles to single loads for each corner, and to
branches around the border; here all is done for sixteen places together, in one of three ways. Where all
lie in one cell, its corners are loaded once. Where they lie in a few cells beside one another, those of three
rows are, and each place takes its own out of them, if the processor can pick from a vector. Else two loads
bring each place's four corners.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

from reedloom.kernels.jit import lowered, processor_has
from reedloom.kernels.lanes import LANES, Vectors

RING = LANES, 3
"""How many columns and rows of corners stand again beyond a table's last cell: a load of sixteen numbers, and
three rows, may begin with it."""
KINDS = VALUES, SLOPES, TURNING_VALUES, TURNING_SLOPES = 0, 1, 2, 3
"""What corners give: a value, or slopes in u and v, which a table then has; or those that follow from a phase
and how often the corner turns, which it has instead, and from the evolution of each sample."""
WHOLES, NUMBERS = 7, 7
"""How many whole and other numbers a lattice is told in."""
FADE = 2
"""The first of the other numbers that tells how values fade."""


@lowered
def add_corners(b, wholes, numbers, octave, known, first, line, x, end):  # type: ignore[no-untyped-def]
    """Add an octave to samples of a row from x on, as long as sixteen of them lie before an end.

    Parameters
    ----------
    wholes : (k, 7) int64
        Of each octave: the address of a table of what is known of each corner, ((rows + 3) × (columns + 16)
        × 1 or 2) float32, of which the first rows and columns stand again at the end; cells across and down;
        the table's columns and rows without those that stand again; how many columns it has with them; and
        what corners give, such as SLOPES.
    numbers : (k, 7) float32
        Of each: offsets in u and v, in cells, less than one; and the coefficients of the fade's powers, the
        first one's first.
    octave : int64
        Which of them.
    known : (m) float32
        From the first number on, W of each: where samples lie along u in tiles, from 0 to less than 1; where
        along v; what each carries of the octave, times its amount; and then the evolution of each, where
        corners turn.
    first : int64
    line : (W) float32
        Added to.
    x, end : int64
        The end is W.

    Returns
    -------
    int32, the first sample that was not looked at
    """
    v = Vectors(b)
    return _add_run(v, Lattice.of(v, wholes, numbers, octave, around=False), (known, first), line, x, end)


@lowered
def add_corners_around(b, wholes, numbers, octave, known, first, line, x, end):  # type: ignore[no-untyped-def]
    """`add_corners` of a lattice that has more cells than its table, which it repeats.

    Parameters
    ----------
    wholes, numbers, octave, known, first, line, x, end
        As there; but offsets are up to the count of cells.

    Returns
    -------
    int32, as there; it stops before sixteen samples of which some lie in the last cell of a lattice that does
    not end with its table, since beside its corners those of the first do not stand
    """
    v = Vectors(b)
    return _add_run(v, Lattice.of(v, wholes, numbers, octave, around=True), (known, first), line, x, end)


@lowered
def bits_at(b, address, index):  # type: ignore[no-untyped-def]
    """A number of a table, as its bits.

    Parameters
    ----------
    address : int64
        Of the table.
    index : int64

    Returns
    -------
    int32
    """
    v = Vectors(b)
    return b.load(b.gep(b.inttoptr(address, v.int.as_pointer()), [index]))


Take = Callable[..., None]
"""Takes the corners above and below, each row's from the left to the right."""


class Lattice(NamedTuple):
    """What is the same for all samples."""

    table: Any
    axes: tuple[_Axis, _Axis]
    fade: list[Any]
    wide: Any
    gives: Any

    @classmethod
    def of(cls, v: Vectors, wholes: Any, numbers: Any, octave: Any, *, around: bool) -> Lattice:
        """For a run's loop.

        Parameters
        ----------
        v : Vectors
        wholes, numbers, octave
            As `add_corners` takes them.
        around : bool
            As `add_corners_around` is for.
        """
        wholes, numbers = (
            v.b.gep(array, [v.b.mul(octave, v.long(count))])
            for array, count in ((wholes, WHOLES), (numbers, NUMBERS))
        )
        address, *counts = v.numbers(wholes, WHOLES)
        table = v.b.inttoptr(address, v.single.as_pointer())
        columns, rows, table_columns, table_rows, wide, gives = (v.b.trunc(count, v.int) for count in counts)
        shift_u, shift_v, *fade = v.numbers(numbers, NUMBERS)
        axes = (
            _Axis.of(v, shift_u, columns, table_columns, around),
            _Axis.of(v, shift_v, rows, table_rows, around),
        )
        return cls(table, axes, [v.splat(power) for power in fade], wide, gives)


class _Axis(NamedTuple):
    """The cells along an axis.

    Attributes
    ----------
    count : vector
        How many there are.
    shift, whole_shift : vectors
        The offset, and what of it is whole.
    end : vector or None
        The greatest place, in cells with the offset, which rounding could bring beyond.
    table, per_table : vectors or None
        How many the table has, and one by that, if the lattice repeats it.
    last : vector or None
        The last cell, if those of the first do not stand beside its corners.
    """

    count: Any
    shift: Any
    whole_shift: Any | None = None
    end: Any | None = None
    table: Any | None = None
    per_table: Any | None = None
    last: Any | None = None

    @classmethod
    def of(cls, v: Vectors, shift: Any, count: Any, table: Any, around: bool) -> _Axis:
        b = v.b
        cells = b.sitofp(count, v.single)
        if not around:
            return cls(v.splat(cells), v.splat(shift))
        end = b.fmul(cells, v.single(2 - 2**-23))
        whole = b.call(v.floor_of_single(), [shift])
        size = b.sitofp(table, v.single)
        closes = b.icmp_signed("==", b.srem(count, table), v.int(0))
        last = b.select(closes, v.single(1e30), b.fsub(cells, v.single(1)))
        per_table = b.fdiv(v.single(1), size)
        apart = b.fsub(shift, whole)
        return cls(*map(v.splat, (cells, apart, whole, end, size, per_table, last)))


def _add_run(v: Vectors, lattice: Lattice, known: tuple[Any, Any], line: Any, x: Any, end: Any) -> Any:
    b = v.b
    with b.goto_entry_block():
        come_to = b.alloca(v.long)
    b.store(x, come_to)
    for gives in KINDS:
        # A loop for each, which needs fewer of the processor's registers than one for all.
        with b.if_then(b.icmp_signed("==", lattice.gives, v.int(gives))):
            with v.each(x, end) as (at, leave):
                _add_sixteen(v, lattice, gives, known, line, (at, end, leave))
            b.store(at, come_to)
    return b.trunc(b.load(come_to), v.int)


def _add_sixteen(
    v: Vectors, lattice: Lattice, gives: int, known: tuple[Any, Any], line: Any, where: tuple[Any, Any, Any]
) -> None:
    b, (numbers, first) = v.b, known
    at, end, leave = where
    start = b.add(first, at)
    u, down, weight = (v.load(numbers, b.add(start, b.mul(end, v.long(n)))) for n in range(3))
    into = v.pointer(line, at)
    before = b.load(into, align=4)

    def put(values: Any) -> None:
        b.store(v.all_of("fmuladd", weight, values, before), into, align=4)

    def evolution() -> Any:
        return v.load(numbers, b.add(start, b.mul(end, v.long(3))))

    # Where all lie in one cell, to read them takes no longer than to see whether that is of use.
    shows = partial(v.any_shows, weight)
    read_lattice(v, lattice, gives, (u, down), evolution, (0, LANES - 1), (put, shows), leave)


def read_lattice(
    v: Vectors,
    lattice: Lattice,
    gives: int,
    place: tuple[Any, Any],
    evolution: Callable[[], Any],
    ends: tuple[int, ...],
    into: tuple[Callable[[Any], None], Callable[[], Any] | None],
    leave: Any,
) -> None:
    """Read sixteen places and put what they hold, or leave the loop; see `add_corners_around`.

    Parameters
    ----------
    v : Vectors
    lattice : Lattice
    gives : int
        What its corners give, such as SLOPES.
    place : two vectors
        u and v, in tiles, from 0 to less than 1.
    evolution : callable
        Gives that of each place, where corners turn.
    ends : lanes
        Of which one mostly lies in the first column, and one in the first row, of all.
    into : callables
        One takes what the places hold, unless the other, if there is one, tells that it is of no use.
    leave : block
        Where leaving leads.
    """
    b, (put, shows) = v.b, into
    (left, fx), (upper, fy) = (_corner(v, *both) for both in zip(place, lattice.axes, strict=True))
    across, down = lattice.axes
    if across.last is not None:
        beyond = b.or_(_is_last(v, left, across), _is_last(v, upper, down))
        with b.if_then(b.icmp_signed("!=", v.told(beyond), v.int(0)), likely=False):
            b.branch(leave)
        left, upper = _repeated(v, left, across), _repeated(v, upper, down)
    wx, wy = (_fade(v, t, lattice.fade) for t in (fx, fy))

    def take_slopes(above: list[Any], below: list[Any]) -> None:
        gx, gy = (b.fsub(t, v.constant(1)) for t in (fx, fy))
        put(v.mix(wy, _mixed(v, wx, above, fx, gx, fy), _mixed(v, wx, below, fx, gx, gy)))

    def take_values(above: list[Any], below: list[Any]) -> None:
        put(v.mix(wy, v.mix(wx, *above), v.mix(wx, *below)))

    def turned(take: Take, shape: Callable[[Any, Any, Any], list[Any]]) -> Take:
        moving = evolution()

        def take_turning(*rows: list[Any]) -> None:
            take(*([*shape(a, b, moving), *shape(c, d, moving)] for a, b, c, d in rows))

        return take_turning

    makes: tuple[Callable[[], Take], ...] = (
        lambda: take_values,
        lambda: take_slopes,
        lambda: turned(take_values, partial(_swung, v)),
        lambda: turned(take_slopes, partial(_turned, v)),
    )
    table = Table(v, lattice.table, lattice.wide, 1 if gives == VALUES else 2)
    give_corners(v, table, (left, upper), makes[gives](), shows, ends)


def _swung(v: Vectors, phase: Any, turns: Any, evolution: Any) -> list[Any]:
    """The values of corners after some evolution."""
    b, number = v.b, v.constant
    t = v.all_of("fmuladd", b.fmul(number(2), turns), evolution, phase)
    t = v.all_of("fmuladd", number(-2), v.all_of("floor", b.fmul(t, number(0.5))), t)
    return [b.fsub(number(0.5), v.all_of("fabs", b.fsub(t, number(1))))]


def _turned(v: Vectors, phase: Any, turns: Any, evolution: Any) -> list[Any]:
    """The slopes of corners in u and v after some evolution."""
    turn = v.all_of("fmuladd", turns, evolution, phase)
    return [v.cosine_of_turn(turn), v.cosine_of_turn(v.b.fsub(turn, v.constant(0.25)))]


class Table:
    """Corners of so many numbers each."""

    def __init__(self, v: Vectors, numbers: Any, wide: Any, each: int) -> None:
        self.v, self.numbers, self.wide, self.each = v, numbers, wide, each

    def row(self, down: int) -> Any:
        """The table from some rows further down."""
        b = self.v.b
        return b.gep(self.numbers, [b.mul(self.wide, self.v.int(down * self.each))]) if down else self.numbers

    def start(self, corner: Any) -> Any:
        """Where a corner's numbers begin."""
        b = self.v.b
        return b.mul(b.zext(corner, self.v.long), self.v.long(self.each))


def give_corners(
    v: Vectors,
    table: Table,
    cells: tuple[Any, Any],
    take: Callable[[list[Any], list[Any]], None],
    shows: Callable[[], Any] | None = None,
    ends: tuple[int, ...] = (0, LANES - 1),
) -> None:
    """Load the corners beside each place, above and below, and hand them on.

    Parameters
    ----------
    v : Vectors
    table : Table
    cells : vectors
        The column and the row of each place's cell, whole numbers.
    take : callable
        Takes the numbers of the corners to the left and to the right, of those above and of those below.
    shows : callable, optional
        Tells whether anything of the places is of use.
    ends : lanes
        As in `read_lattice`.
    """
    b, (left, upper) = v.b, cells
    # Whole numbers up to 2^24 are exact, and no table of an octave has so many corners.
    at = v.all_of("fmuladd", upper, v.splat(b.sitofp(table.wide, v.single)), left)
    at = b.fptosi(at, v.ints)
    cell = b.extract_element(at, v.int(0))
    apart = v.told(b.icmp_signed("!=", at, v.splat(cell)))
    with b.if_else(b.icmp_signed("==", apart, v.int(0))) as (are_together, are_apart):
        with are_together:
            start = table.start(cell)
            where = [b.add(start, v.long(number)) for number in range(2 * table.each)]
            take(*([v.splat(b.load(b.gep(table.row(row), [n]))) for n in where] for row in (0, 1)))
        with are_apart, b.if_then(shows() if shows else v.flag(1)):
            if processor_has("avx512f"):
                _give_near_corners(v, table, cells, at, take, ends)
            else:
                _give_scattered_corners(v, table, at, take)


def _give_scattered_corners(
    v: Vectors, table: Table, at: Any, take: Callable[[list[Any], list[Any]], None]
) -> None:
    beside = v.pairs_beside if table.each == 2 else v.numbers_beside
    take(*(beside(table.row(row), at) for row in (0, 1)))


def _give_near_corners(
    v: Vectors,
    table: Table,
    cells: tuple[Any, Any],
    at: Any,
    take: Callable[[list[Any], list[Any]], None],
    ends: tuple[int, ...],
) -> None:
    """Corners out of three rows of a load each, unless some of the cells lie beyond those."""
    b, each = v.b, table.each
    column, row = (b.fptosi(cell, v.ints) for cell in cells)
    first_column, first_row = v.lower_end(column, ends), v.lower_end(row, ends)
    column, row = b.sub(column, v.splat(first_column)), b.sub(row, v.splat(first_row))
    # Those before the first are very large without their sign.
    beyond = b.or_(
        b.icmp_unsigned(">", column, v.splat(v.int(LANES // each - 2))),
        b.icmp_unsigned(">", row, v.splat(v.int(1))),
    )
    with b.if_else(b.icmp_signed("==", v.told(beyond), v.int(0))) as (are_near, are_scattered):
        with are_near:
            start = table.start(b.add(b.mul(first_row, table.wide), first_column))
            numbers = b.mul(column, v.splat(v.int(each)))
            picks = [b.add(numbers, v.splat(v.int(number))) for number in range(2 * each)]
            loads = [v.load(table.row(down), start) for down in range(3)]
            rows = [[v.picked(load, pick) for pick in picks] for load in loads]
            is_second = b.icmp_signed("==", row, v.splat(v.int(1)))
            take(*(
                [b.select(is_second, *both) for both in zip(rows[down + 1], rows[down], strict=True)]
                for down in (0, 1)
            ))  # fmt: skip
        with are_scattered:
            _give_scattered_corners(v, table, at, take)


def _corner(v: Vectors, place: Any, axis: _Axis) -> tuple[Any, Any]:
    """The cell a place lies in along an axis, and where between its two corners.

    Where between them is worked out without the cells before, so that a fine lattice is read as exactly as a
    coarse one.
    """
    b = v.b
    whole_shift = axis.whole_shift
    shift = axis.shift if whole_shift is None else b.fadd(axis.shift, whole_shift)
    at = v.all_of("fma", place, axis.count, shift)
    if axis.end is not None:
        at = v.lower(at, axis.end)
    cell = v.all_of("floor", at)
    before = b.fneg(cell) if whole_shift is None else b.fsub(whole_shift, cell)
    part = b.fadd(v.all_of("fma", place, axis.count, before), axis.shift)
    if whole_shift is not None:
        cell = b.select(b.fcmp_ordered(">=", cell, axis.count), b.fsub(cell, axis.count), cell)
    return cell, part


def _is_last(v: Vectors, cell: Any, axis: _Axis) -> Any:
    return v.b.fcmp_ordered(">=", cell, axis.last)


def _repeated(v: Vectors, cell: Any, axis: _Axis) -> Any:
    """Where cells along an axis stand in a table of fewer."""
    b = v.b
    turns = v.all_of("floor", b.fmul(cell, axis.per_table))
    return b.fsub(cell, b.fmul(turns, axis.table))


def _fade(v: Vectors, t: Any, coefficients: list[Any]) -> Any:
    """A polynomial without a constant, its halves side by side, which takes a processor less time."""
    first, second, third, fourth, fifth = coefficients
    square = v.b.fmul(t, t)
    low, high = v.all_of("fmuladd", second, t, first), v.all_of("fmuladd", fourth, t, third)
    high = v.all_of("fmuladd", fifth, square, high)
    return v.b.fmul(v.all_of("fmuladd", high, square, low), t)


def _mixed(v: Vectors, share: Any, planes: list[Any], left: Any, right: Any, down: Any) -> Any:
    """What two corners' planes give at places beside and below them, faded from the left to the right."""
    b = v.b
    first = v.all_of("fmuladd", planes[0], left, b.fmul(planes[1], down))
    second = v.all_of("fmuladd", planes[2], right, b.fmul(planes[3], down))
    return v.mix(share, first, second)
