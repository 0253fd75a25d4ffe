"""How far places are from others, and places beside them, in LLVM's own vectors: sixteen at once.

Places are pairs of numbers, which no loop over them takes apart in vectors; see `kernels/vectors.py`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.vectors import LANES, TO_SECOND, Vectors

LEAST_REACH = 1e-5
"""Places beside others are away by their share of so much of a width at least."""

INFINITE = 0x7F800000
"""An infinite number's bits."""


@lowered
def lay_within(b, places, first, ahead, known, into, end):  # type: ignore[no-untyped-def]
    """Lay where places are within the tile in lines, of sixteen at a time as long as they lie before an end.

    Parameters
    ----------
    places : (2 × count) float32
        Places u, v in tiles.
    first : int64
        The first of them.
    ahead : int64
        How many further on the memory is asked for of those that come next.
    known : (m) float32
        Filled: u of each, and then v of each, from 0 to less than 1.
    into : int64
        Where in `known` the first is laid.
    end : int64
        How many they are.

    Returns
    -------
    int32, the first place that was not looked at
    """
    return _lay(Vectors(b), places, first, ahead, known, into, end, lambda _, pairs: pairs)


@lowered
def lay_beside(b, places, first, ahead, reach, known, into, end, shares):  # type: ignore[no-untyped-def]
    """`lay_within` of places beside those given, by a share of what each sample covers.

    Parameters
    ----------
    places, first, ahead, known, into, end
        As there.
    reach : (end) float32
        What each sample covers, in widths.
    shares : (2) float32
        Along u and v.

    Returns
    -------
    int32, the first place that was not looked at
    """
    v = Vectors(b)
    ways = [v.splat(share) for share in v.numbers(shares, 2)]

    def moved(at: Any, pairs: Any) -> list[Any]:
        covered = v.higher(v.load(reach, at), v.constant(LEAST_REACH))
        return [v.all_of("fmuladd", covered, share, place) for share, place in zip(ways, pairs, strict=True)]

    return _lay(v, places, first, ahead, known, into, end, moved)


def _lay(  # type: ignore[no-untyped-def]
    v: Vectors, places, first, ahead, known, into, end, moved: Callable[[Any, Any], Any]
) -> Any:
    """`lay_within` of what places, u and v of sixteen, are moved to."""
    b = v.b
    with v.each(v.long(0), end) as (at, _):
        _fetch(v, places, b.add(b.add(first, ahead), at))
        pairs = v.load_pairs(places, b.add(first, at))
        for place, line in zip(moved(at, pairs), _both(v, into, end, at), strict=True):
            b.store(v.within(place), v.pointer(known, line), align=4)
    return b.trunc(at, v.int)


@lowered
def lay_and_measure(  # type: ignore[no-untyped-def]  # noqa: PLR0917
    b, places, first, ahead, lines, size, turn, sides, down, reach, ends, end
):
    """Lay a row's places in lines, and tell how far those of the row above reach: sixteen at a time.

    A way between two is the shorter one around the tile, along the axis where that is more, in widths. Of
    those to both sides the shorter counts, and of those up and down; then the longer of these. Both are done
    in one loop, and memory is asked for in it: what it gives would be waited for in one that lays alone.

    Parameters
    ----------
    places, first, ahead
        As `lay_within` takes them, of the row below.
    lines : (m) float32
        u of the row's places within the tile, 0 to 1, and then v of each, from `size` times the turn on; the
        row below is laid from `size` times the other turn on.
    size, turn : int64
        The turn is 0 or 1.
    sides : (3) float32
        The way to the first from the place before, and from the last to that after; the tile's height in
        widths.
    down : (2 × end) float32
        The half of the turn is filled with the ways to those below; in the other are those from above.
    reach : (end) float32
        Filled.
    ends : (2 × LANES) int32
        Filled with the least and the most of them, as bits, in each lane.
    end : int64
        How many places there are.

    Returns
    -------
    int32, the first place that was not looked at
    """
    v = Vectors(b)
    before, last, aspect = v.numbers(sides, 3)
    high, other = v.splat(aspect), b.sub(v.long(1), turn)
    (here, below), (into, above) = ([b.mul(times, step) for step in (turn, other)] for times in (size, end))
    with b.goto_entry_block():
        kept = [b.alloca(kind) for kind in (v.floats, v.ints, v.ints)]
    for value, place in zip((before, v.int(INFINITE), v.int(0)), kept, strict=True):
        b.store(v.splat(value), place)
    with v.each(v.long(0), end) as (at, _):
        _fetch(v, places, b.add(b.add(first, ahead), at))
        under = [v.within(place) for place in v.load_pairs(places, b.add(first, at))]
        for place, line in zip(under, _both(v, below, end, at), strict=True):
            b.store(place, v.pointer(lines, line), align=4)
        starts = _both(v, here, end, at)
        own = [v.load(lines, start) for start in starts]
        after = [v.load(lines, b.add(start, v.long(1))) for start in starts]
        right = _farther(v, own, after, high)
        right = b.select(v.before(b.add(at, v.long(1)), end), right, v.splat(last))
        left = v.shuffle(b.load(kept[0]), right, range(LANES - 1, 2 * LANES - 1))
        low = _farther(v, own, under, high)
        up = v.load(down, b.add(above, at))
        b.store(low, v.pointer(down, b.add(into, at)), align=4)
        far = v.higher(v.lower(left, right), v.lower(up, low))
        b.store(far, v.pointer(reach, at), align=4)
        bits = b.bitcast(far, v.ints)  # in the same order, of numbers from 0 up
        for place, sign in zip(kept[1:], ("<", ">"), strict=True):
            most = b.load(place)
            b.store(b.select(b.icmp_signed(sign, bits, most), bits, most), place)
        b.store(right, kept[0])
    for number, place in enumerate(kept[1:]):
        b.store(b.load(place), v.pointer(ends, v.long(number * LANES), v.ints), align=4)
    return b.trunc(at, v.int)


def _fetch(v: Vectors, places: Any, soon: Any) -> None:
    """Ask for the places of sixteen samples."""
    start = v.b.mul(soon, v.long(2))
    v.fetch(places, [start, v.b.add(start, v.long(LANES))], TO_SECOND)


def _both(v: Vectors, into: Any, end: Any, at: Any) -> list[Any]:
    """Where u and v of a place stand in lines."""
    return [v.b.add(into, at), v.b.add(v.b.add(into, end), at)]


def _farther(v: Vectors, here: Any, there: Any, high: Any) -> Any:
    """How far places in the tile are from others along the axis where that is more, u and v of each."""
    steps = (v.all_of("fabs", v.b.fsub(*both)) for both in zip(there, here, strict=True))
    across, down = (v.lower(step, v.b.fsub(v.constant(1), step)) for step in steps)
    return v.higher(across, v.b.fmul(down, high))


@lowered
def locate_cells(b, pairs, columns, rows, cells, parts, x, end):  # type: ignore[no-untyped-def]
    """Find the cells in which places lie, as long as sixteen of them lie before an end.

    Parameters
    ----------
    pairs : (2 × W) float32
        In tiles.
    columns, rows : int32
        Cells across and down.
    cells : (3 × W) int32
        Filled: column + columns × row; the column; and the row.
    parts : (2 × W) float32
        Filled: where a place lies in its cell, 0 to 1, along u and along v.
    x, end : int64
        The end is W.

    Returns
    -------
    int32, the first place that was not looked at
    """
    v = Vectors(b)
    counts = [b.sitofp(count, v.single) for count in (columns, rows)]
    axes = [(v.splat(count), v.splat(b.fsub(count, v.single(1)))) for count in counts]
    with v.each(x, end) as (at, _):
        found = []
        for number, (place, (count, last)) in enumerate(zip(v.load_pairs(pairs, at), axes, strict=True)):
            within = b.fmul(b.fsub(place, v.all_of("floor", place)), count)
            # Held at both ends, for what is rounded up to the border and for places that are no numbers.
            cell = b.fptosi(v.lower(v.higher(within, v.constant(0)), last), v.ints)
            where = b.add(at, b.mul(end, v.long(number)))
            b.store(b.fsub(within, b.sitofp(cell, v.floats)), v.pointer(parts, where), align=4)
            b.store(cell, v.pointer(cells, b.add(where, end), v.ints), align=4)
            found.append(cell)
        cell = b.add(b.mul(found[1], v.splat(columns)), found[0])
        b.store(cell, v.pointer(cells, at, v.ints), align=4)
    return b.trunc(at, v.int)


@lowered
def lay_turned(b, shares, numbers, places, end):  # type: ignore[no-untyped-def]
    """Lay places of a row turned about a middle, less and less towards a radius: a whole sixteen at a time.

    Parameters
    ----------
    shares : (n) float32
        What the turn of each is multiplied by.
    numbers : (8) float32
        The middle's u and v, the tile's height in widths, the radius in widths, and the turn in the middle in
        whole turns; how far the first is from the middle in u, how far each is from the one before, and how
        far all are from the middle in v.
    places : (2 × n) float32
        Filled.
    end : int64
        Of how many; n is that or more, and a multiple of 16.

    Returns
    -------
    int32, the first place that was not laid
    """
    v = Vectors(b)
    one = v.constant(1)
    centre_u, centre_v, aspect, radius, most, across, step, off = map(v.splat, v.numbers(numbers, 8))
    down, slim, per_radius = b.fmul(off, aspect), b.fdiv(one, aspect), b.fdiv(b.fneg(one), radius)
    with v.each(v.long(0), v.up_to_whole(end)) as (at, _):
        number = b.fadd(v.splat(b.sitofp(at, v.single)), v.counted())
        u = v.all_of("fmuladd", number, step, across)
        away = v.all_of("sqrt", v.all_of("fmuladd", u, u, b.fmul(down, down)))
        fall = v.higher(v.all_of("fmuladd", away, per_radius, one), v.constant(0))
        smooth = b.fmul(b.fmul(fall, fall), v.all_of("fmuladd", v.constant(-2), fall, v.constant(3)))
        turn = b.fmul(b.fmul(most, smooth), v.load(shares, at))
        c, s = v.cosine_of_turn(turn), v.cosine_of_turn(b.fsub(turn, v.constant(0.25)))
        to_right = v.all_of("fmuladd", c, u, v.all_of("fmuladd", b.fneg(s), down, centre_u))
        below = v.all_of("fmuladd", s, u, b.fmul(c, down))
        v.store_pairs(to_right, v.all_of("fmuladd", below, slim, centre_v), places, at)
    return b.trunc(at, v.int)


@lowered
def part_pairs(b, pairs, us, vs, x, end):  # type: ignore[no-untyped-def]
    """Lay the first and the second numbers of pairs in lines, as long as sixteen of them lie before an end.

    Parameters
    ----------
    pairs : (2 × W) float32
    us, vs : (W) float32
        Filled.
    x, end : int64

    Returns
    -------
    int32, the first pair that was not looked at
    """
    v = Vectors(b)
    with v.each(x, end) as (at, _):
        for numbers, line in zip(v.load_pairs(pairs, at), (us, vs), strict=True):
            b.store(numbers, v.pointer(line, at), align=4)
    return b.trunc(at, v.int)


@lowered
def join_lines(b, us, vs, out, x, end):  # type: ignore[no-untyped-def]
    """Lay places beside one another as pairs, as long as sixteen of them lie before an end.

    Parameters
    ----------
    us, vs : (W) float32
    out : (2 × W) float32
        Filled.
    x, end : int64

    Returns
    -------
    int32, the first place that was not looked at
    """
    v = Vectors(b)
    with v.each(x, end) as (at, _):
        v.store_pairs(v.load(us, at), v.load(vs, at), out, at)
    return b.trunc(at, v.int)
