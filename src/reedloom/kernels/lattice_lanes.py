"""The innermost loop of lattice noise at given places, in LLVM's own vectors: sixteen places at once.

As `kernels/lanes.py` for maps: a loop over scattered places compiles to single loads for each corner, and to
branches around the border; here all is done for sixteen places together, in one of three ways. Where all
lie in one cell, its corners are loaded once, and serve all that follow in the row as long as these lie there
too. Where they lie in a few cells beside one another, those of three rows are loaded, and each place takes
its own out of them, if the processor can pick from a vector. Else two loads bring each place's four corners.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, NamedTuple

from reedloom.kernels.jit import lowered, processor_has
from reedloom.kernels.lattice_cells import KINDS, VALUES, Parts, Rows, between, within_cell
from reedloom.kernels.vectors import LANES, Vectors

RING = LANES, 3
"""How many columns and rows of corners stand again beyond a table's last cell: a load of sixteen numbers, and
three rows, may begin with it."""
WHOLES, NUMBERS = 7, 7
"""How many whole and other numbers a lattice is told in."""
ONE = 0x3F800000
"""1 as bits: numbers from 0 up are in the order of their bits, and those below 0 beyond all of them."""
FADE = 2
"""The first of the other numbers that tells how values fade."""


@lowered
def add_corners(  # type: ignore[no-untyped-def]  # noqa: PLR0917
    b, wholes, numbers, octave, known, first, carried, factors, begin, line, x, end
):
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
        along v; and then the evolution of each, where corners turn.
    first : int64
    carried : (W) float32
        What tells what each carries of the octave.
    factors : (3) float32
        Of that, of its square and of 1: their sum is what it carries, times its amount.
    begin : float32
        What the octave is added to; no number for what is there.
    line : (W) float32
        Filled.
    x, end : int64
        The end is W.

    Returns
    -------
    int32, the first sample that was not looked at
    """
    v = Vectors(b)
    lattice = Lattice.of(v, wholes, numbers, octave, around=False)
    return _add_run(v, lattice, (known, first, carried, factors), (begin, line), x, end)


@lowered
def add_corners_around(  # type: ignore[no-untyped-def]  # noqa: PLR0917
    b, wholes, numbers, octave, known, first, carried, factors, begin, line, x, end
):
    """`add_corners` of a lattice that has more cells than its table, which it repeats.

    Parameters
    ----------
    wholes, numbers, octave, known, first, carried, factors, begin, line, x, end
        As there; but offsets are up to the count of cells.

    Returns
    -------
    int32, as there; it stops before sixteen samples of which some lie in the last cell of a lattice that does
    not end with its table, since beside its corners those of the first do not stand
    """
    v = Vectors(b)
    lattice = Lattice.of(v, wholes, numbers, octave, around=True)
    return _add_run(v, lattice, (known, first, carried, factors), (begin, line), x, end)


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


def _add_run(
    v: Vectors, lattice: Lattice, known: tuple[Any, ...], out: tuple[Any, Any], x: Any, end: Any
) -> Any:
    b = v.b
    with b.goto_entry_block():
        come_to = b.alloca(v.long)
    b.store(x, come_to)
    run = _Run(v, known, out, end)
    for gives in KINDS:
        # A loop for each, which needs fewer of the processor's registers than one for all.
        is_given = b.icmp_signed("==", lattice.gives, v.int(gives))
        with b.if_then(is_given), v.each_from(come_to, end) as (at, leave):
            shows, omit = partial(run.any_shows, at), partial(run.omit, at)
            into = Into(partial(run.put, at), shows, omit, partial(run.go_on, come_to))
            read_lattice(v, lattice, gives, run.places(at), partial(run.evolution, at), into, leave)
    return b.trunc(b.load(come_to), v.int)


class _Run:
    """What is known of a run of samples, and where what they read goes; see `add_corners`."""

    def __init__(self, v: Vectors, known: tuple[Any, ...], out: tuple[Any, Any], end: Any) -> None:
        b, (self.numbers, self.first, self.carried, factors), (begin, self.line) = v.b, known, out
        self.v, self.end = v, end
        self.factors = [v.splat(factor) for factor in v.numbers(factors, 3)]
        # What all samples begin with lies in the same place for each: no branch asks for it in the loop.
        with b.goto_entry_block():
            same = b.alloca(v.floats)
        b.store(v.splat(begin), same)
        is_there = b.fcmp_unordered("uno", begin, begin)
        self.before = b.select(is_there, self.line, b.bitcast(same, v.single.as_pointer()))
        self.mask = b.select(is_there, v.long(-1), v.long(0))

    def places(self, x: Any) -> tuple[Any, Any]:
        """u and v of sixteen samples."""
        return self._known(x, 0), self._known(x, 1)

    def evolution(self, x: Any) -> Any:
        """The evolution of each."""
        return self._known(x, 2)

    def any_shows(self, x: Any) -> Any:
        """Whether any carries something."""
        return self.v.any_shows(self._carried(x))

    def put(self, x: Any, values: Any) -> None:
        """Add what they read, times what they carry."""
        v = self.v
        total = v.all_of("fmuladd", self._carried(x), values, self._begun(x))
        v.b.store(total, v.pointer(self.line, x), align=4)

    def omit(self, x: Any) -> None:
        """Leave them as they begin."""
        self.v.b.store(self._begun(x), self.v.pointer(self.line, x), align=4)

    def _begun(self, x: Any) -> Any:
        return self.v.load(self.before, self.v.b.and_(x, self.mask))

    def _carried(self, x: Any) -> Any:
        v, (first, second, plain) = self.v, self.factors
        told = v.load(self.carried, x)
        return v.all_of("fmuladd", told, v.all_of("fmuladd", told, second, first), plain)

    def go_on(self, come_to: Any, stay: Stay) -> None:
        """Add those that follow as long as they lie in the same cell."""
        v, b = self.v, self.v.b
        following = b.load(come_to)
        stays, *parts = self._look(following, stay)
        with b.if_then(stays):
            held, before = stay.value(), b.block
            these = b.append_basic_block("these")
            b.branch(these)
            b.position_at_end(these)
            x, *within = (b.phi(kind) for kind in (v.long, v.floats, v.floats))
            self.put(x, held((within[0], within[1]), partial(self.evolution, x)))
            following_x = b.add(x, v.long(LANES))
            b.store(following_x, come_to)
            stays, *parts_then = self._look(following_x, stay)
            come, then = (following, *parts), (following_x, *parts_then)
            for phi, *both in zip((x, *within), come, then, strict=True):
                for value, block in zip(both, (before, b.block), strict=True):
                    phi.add_incoming(value, block)
            done = b.append_basic_block("done")
            b.cbranch(stays, these, done)
            b.position_at_end(done)

    def _look(self, x: Any, stay: Stay) -> list[Any]:
        """Whether sixteen more samples come, and lie in the cell; and where in it."""
        v, b = self.v, self.v.b
        before, look, told = b.block, b.append_basic_block("look"), b.append_basic_block("told")
        b.cbranch(b.icmp_signed("<=", b.add(x, v.long(LANES)), self.end), look, told)
        b.position_at_end(look)
        parts = stay.parts(self.places(x))
        found = [stay.holds(parts), *parts]
        b.branch(told)
        b.position_at_end(told)
        answers = [b.phi(value.type) for value in found]
        for answer, value, none in zip(answers, found, (v.flag(0), *[v.constant(0)] * 2), strict=True):
            answer.add_incoming(none, before)
            answer.add_incoming(value, look)
        return answers

    def _known(self, x: Any, number: int) -> Any:
        b = self.v.b
        return self.v.load(self.numbers, b.add(b.add(self.first, x), b.mul(self.end, self.v.long(number))))


class Stay:
    """A cell in which sixteen places lie.

    Parameters
    ----------
    v : Vectors
    lattice : Lattice
    gives : int
    before : two vectors
        What is added to places, in cells, but for the shift, so that they are told within their cell.
    rows : two lists of vectors
        The corners.
    """

    def __init__(self, v: Vectors, lattice: Lattice, gives: int, before: tuple[Any, Any], rows: Rows) -> None:
        self.v, self.lattice, self.gives, self.before, self.rows = v, lattice, gives, before, rows

    def parts(self, places: tuple[Any, Any]) -> Parts:
        """Where places lie in the cell: 0 to 1, if they do."""
        return _parts(self.v, places, self.lattice.axes, self.before)

    def holds(self, parts: Parts) -> Any:
        """Whether all of them do."""
        v, b = self.v, self.v.b
        one = v.splat(v.int(ONE))
        beyond = b.or_(*(b.icmp_unsigned(">=", b.bitcast(part, v.ints), one) for part in parts))
        return b.icmp_signed("==", v.told(beyond), v.int(0))

    def value(self) -> Callable[[Parts, Callable[[], Any]], Any]:
        """Gives what places hold, by their parts and what gives their evolution."""
        return within_cell(self.v, self.gives, self.rows, self.lattice.fade)


class Into(NamedTuple):
    """Where what sixteen places hold goes.

    Attributes
    ----------
    put : callable
        Takes it.
    shows : callable, optional
        Tells whether it is of any use. It is not asked where all lie in one cell, which are soon read.
    omit : callable, optional
        What is done instead if it is of none.
    stays : callable, optional
        Told of the cell if all lie in one, when they were put.
    ends : lanes
        Of which one mostly lies in the first column, and one in the first row, of all.
    """

    put: Callable[[Any], None]
    shows: Callable[[], Any] | None = None
    omit: Callable[[], None] | None = None
    stays: Callable[[Stay], None] | None = None
    ends: tuple[int, ...] = (0, LANES - 1)


def read_lattice(
    v: Vectors,
    lattice: Lattice,
    gives: int,
    place: tuple[Any, Any],
    evolution: Callable[[], Any],
    into: Into,
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
    into : Into
    leave : block
        Where leaving leads.
    """
    b, (across, down) = v.b, lattice.axes
    (left, before), (upper, above) = (_cell(v, *both) for both in zip(place, lattice.axes, strict=True))
    if across.last is not None:
        beyond = b.or_(_is_last(v, left, across), _is_last(v, upper, down))
        with b.if_then(b.icmp_signed("!=", v.told(beyond), v.int(0)), likely=False):
            b.branch(leave)
        left, upper = _repeated(v, left, across), _repeated(v, upper, down)
    parts = _parts(v, place, lattice.axes, (before, above))

    def take(*rows: list[Any]) -> None:
        into.put(between(v, gives, (rows[0], rows[1]), parts, lattice.fade, evolution))

    def take_one(*rows: list[Any]) -> None:
        take(*rows)
        if into.stays is not None:
            into.stays(Stay(v, lattice, gives, (before, above), (rows[0], rows[1])))

    table = Table(v, lattice.table, lattice.wide, 1 if gives == VALUES else 2)
    give_corners(v, table, (left, upper), (take, take_one), into.shows, into.omit, into.ends)


class Table:
    """Corners of so many numbers each."""

    def __init__(self, v: Vectors, numbers: Any, wide: Any, each: int) -> None:
        self.v, self.numbers, self.wide, self.each = v, numbers, wide, each

    def row(self, down: int) -> Any:
        """The table from some rows further down."""
        b = self.v.b
        return b.gep(self.numbers, [b.mul(self.wide, self.v.int(down * self.each))]) if down else self.numbers

    def start(self, cells: Sequence[Any]) -> Any:
        """Where the numbers of the first of some corners begin, by their columns and rows."""
        b = self.v.b
        column, row = (b.fptosi(b.extract_element(cell, self.v.int(0)), self.v.int) for cell in cells)
        corner = b.add(b.mul(row, self.wide), column)
        return b.mul(b.zext(corner, self.v.long), self.v.long(self.each))


def give_corners(
    v: Vectors,
    table: Table,
    cells: tuple[Any, Any],
    takes: tuple[Callable[..., None], Callable[..., None]],
    shows: Callable[[], Any] | None = None,
    omit: Callable[[], None] | None = None,
    ends: tuple[int, ...] = (0, LANES - 1),
) -> None:
    """Load the corners beside each place, above and below, and hand them on.

    Parameters
    ----------
    v : Vectors
    table : Table
    cells : vectors
        The column and the row of each place's cell, whole numbers.
    takes : callables
        Each takes the corners above and those below, each row's from the left to the right: the one of cells
        of their own, the other of one cell in which all places lie.
    shows : callable, optional
        Tells whether anything of the places is of use.
    omit : callable, optional
        Called if not.
    ends : lanes
        As `Into` has them.
    """
    b, (take, take_one) = v.b, takes
    first = [v.splat(b.extract_element(cell, v.int(0))) for cell in cells]
    apart = b.or_(*(b.fcmp_unordered("!=", *both) for both in zip(cells, first, strict=True)))
    with b.if_else(b.icmp_signed("==", v.told(apart), v.int(0))) as (are_together, are_apart):
        with are_together:
            start = table.start(first)
            where = [b.add(start, v.long(number)) for number in range(2 * table.each)]
            take_one(*([v.splat(b.load(b.gep(table.row(row), [n]))) for n in where] for row in (0, 1)))
        with are_apart, b.if_else(shows() if shows else v.flag(1)) as (do_show, do_not):
            with do_show:
                if processor_has("avx512f"):
                    _give_near_corners(v, table, cells, take, ends)
                else:
                    _give_scattered_corners(v, table, cells, take)
            with do_not:
                if omit is not None:
                    omit()


def _give_scattered_corners(
    v: Vectors, table: Table, cells: tuple[Any, Any], take: Callable[[list[Any], list[Any]], None]
) -> None:
    left, upper = cells
    # Whole numbers up to 2^24 are exact, and no table of an octave has so many corners.
    at = v.all_of("fmuladd", upper, v.splat(v.b.sitofp(table.wide, v.single)), left)
    beside = v.pairs_beside if table.each == 2 else v.numbers_beside
    take(*(beside(table.row(row), v.b.fptosi(at, v.ints)) for row in (0, 1)))


def _give_near_corners(
    v: Vectors,
    table: Table,
    cells: tuple[Any, Any],
    take: Callable[[list[Any], list[Any]], None],
    ends: tuple[int, ...],
) -> None:
    """Corners out of three rows of a load each, unless some of the cells lie beyond those."""
    b, each = v.b, table.each
    first = [v.lowest(cell, ends) for cell in cells]
    column, row = (b.fsub(*both) for both in zip(cells, first, strict=True))
    column = b.fptosi(column, v.ints)
    is_second = b.fcmp_ordered("==", row, v.constant(1))
    # Those before the first are very large without their sign.
    beyond = b.icmp_unsigned(">", column, v.splat(v.int(LANES // each - 2)))
    beyond = b.or_(beyond, b.fcmp_unordered("!=", b.fmul(row, row), row))  # neither in the first nor the next
    with b.if_else(b.icmp_signed("==", v.told(beyond), v.int(0))) as (are_near, are_scattered):
        with are_near:
            start = table.start(first)
            numbers = b.mul(column, v.splat(v.int(each)))
            picks = [b.add(numbers, v.splat(v.int(number))) for number in range(2 * each)]
            loads = [v.load(table.row(down), start) for down in range(3)]
            rows = [[v.picked(load, pick) for pick in picks] for load in loads]
            take(*(
                [b.select(is_second, *both) for both in zip(rows[down + 1], rows[down], strict=True)]
                for down in (0, 1)
            ))  # fmt: skip
        with are_scattered:
            _give_scattered_corners(v, table, cells, take)


def _cell(v: Vectors, place: Any, axis: _Axis) -> tuple[Any, Any]:
    """The cell a place lies in along an axis; and what is added to it, in cells, to tell its part."""
    b = v.b
    whole_shift = axis.whole_shift
    shift = axis.shift if whole_shift is None else b.fadd(axis.shift, whole_shift)
    at = v.all_of("fma", place, axis.count, shift)
    if axis.end is not None:
        at = v.lower(at, axis.end)
    cell = v.all_of("floor", at)
    if whole_shift is None:
        return cell, b.fneg(cell)
    around = b.select(b.fcmp_ordered(">=", cell, axis.count), b.fsub(cell, axis.count), cell)
    return around, b.fsub(whole_shift, cell)


def _parts(v: Vectors, places: tuple[Any, Any], axes: tuple[_Axis, _Axis], before: tuple[Any, Any]) -> Parts:
    """Where places lie in their cells, 0 to 1.

    It is worked out without the cells before, so that a fine lattice is read as exactly as a coarse one.
    """
    across, down = (
        v.b.fadd(v.all_of("fma", place, axis.count, moved), axis.shift)
        for place, axis, moved in zip(places, axes, before, strict=True)
    )
    return across, down


def _is_last(v: Vectors, cell: Any, axis: _Axis) -> Any:
    return v.b.fcmp_ordered(">=", cell, axis.last)


def _repeated(v: Vectors, cell: Any, axis: _Axis) -> Any:
    """Where cells along an axis stand in a table of fewer."""
    b = v.b
    turns = v.all_of("floor", b.fmul(cell, axis.per_table))
    return b.fsub(cell, b.fmul(turns, axis.table))
