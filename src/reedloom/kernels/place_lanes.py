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
