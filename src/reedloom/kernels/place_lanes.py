"""How far places are from others, and places beside them, in LLVM's own vectors: sixteen at once.

Places are pairs of numbers, which no loop over them takes apart in vectors; see `kernels/lanes.py`.
"""

from __future__ import annotations

from reedloom.kernels.jit import lowered
from reedloom.kernels.lanes import LANES, Vectors

LEAST_REACH = 1e-5
"""Places beside others are away by their share of so much of a width at least."""


@lowered
def measure_steps(b, here, there, out, x, end, aspect):  # type: ignore[no-untyped-def]
    """How far places are from others, as long as sixteen of them lie before an end.

    Parameters
    ----------
    here, there : (2 × W) float32
        Places u, v in tiles.
    out : (W) float32
        Filled: the shorter way around the tile, along the axis where that is more, in widths.
    x, end : int64
    aspect : float32
        The tile's height in widths.

    Returns
    -------
    int32, the first place that was not looked at
    """
    v = Vectors(b)
    high = v.splat(aspect)
    with v.each(x, end) as (at, _):
        u, down = (
            v.all_of("fabs", b.fsub(step, v.all_of("rint", step)))
            for step in map(b.fsub, v.load_pairs(there, at), v.load_pairs(here, at))
        )
        b.store(v.higher(u, b.fmul(down, high)), v.pointer(out, at), align=4)
    return b.trunc(at, v.int)


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
        u, down = v.load(us, at), v.load(vs, at)
        for half in range(2):
            first = half * LANES // 2
            order = [first + lane // 2 + LANES * (lane % 2) for lane in range(LANES)]
            start = b.add(b.mul(at, v.long(2)), v.long(half * LANES))
            b.store(v.shuffle(u, down, order), v.pointer(out, start), align=4)
    return b.trunc(at, v.int)


@lowered
def lean(b, place, reach, out, x, end, across, down):  # type: ignore[no-untyped-def]
    """Lay places beside others, by a share of how far each reaches, as long as sixteen lie before an end.

    Parameters
    ----------
    place : (2 × W) float32
        In tiles.
    reach : (W) float32
        In widths.
    out : (2 × W) float32
        Filled.
    x, end : int64
    across, down : float32
        The shares along u and v.

    Returns
    -------
    int32, the first place that was not looked at
    """
    v = Vectors(b)
    shares = v.shuffle(v.splat(across), v.splat(down), [LANES * (lane % 2) for lane in range(LANES)])
    with v.each(x, end) as (at, _):
        covered = v.higher(v.load(reach, at), v.constant(LEAST_REACH))
        for half in range(2):
            twice = v.shuffle(covered, covered, [(half * LANES + lane) // 2 for lane in range(LANES)])
            start = b.add(b.mul(at, v.long(2)), v.long(half * LANES))
            moved = v.all_of("fmuladd", twice, shares, v.load(place, start))
            b.store(moved, v.pointer(out, start), align=4)
    return b.trunc(at, v.int)
