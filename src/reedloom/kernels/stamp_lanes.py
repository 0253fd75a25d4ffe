"""The innermost steps of drawing and resting stamps, in LLVM's own vectors: sixteen samples at once.

As `kernels/lanes.py` for maps and `kernels/lattice_lanes.py` for lattices: two loads bring the four texels
about a sample, which lie side by side, and everything else is done for sixteen samples together.

The steps take: texels, (n × 2) float32, height times mask, and mask, row by row with a border of one texel;
sheet, int64: where the sheet begins, and its columns and rows without the border; walk, float32: the texel
across and down at a run's first sample, by how much it moves on with each, and how far the sheet's ends are
bent down against its middle, in texels; x and end, int64: of the run, samples x to x + 15 that are before
the end are meant. Sheet and walk hold up to three numbers more, which each step names. They answer 0.
"""

from __future__ import annotations

from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.vectors import LANES, Vectors

BOW_MEAN = 1 / 3
"""What is taken from the square of the way from the middle, so that a bent stamp stays where it was."""
EDGE = 0.99
"""How far beyond its last but one texel, in texels, a sheet is read: short of where the next would be."""
NOT_THERE = -1e30
"""A top where a stamp is not."""
SHEET, WALK = 5, 8
"""How many numbers a sheet and a walk hold, with those that only one step needs."""
JOINS = ("highest", "lowest", "add", "over")
HIGHEST, LOWEST, ADD, OVER = range(len(JOINS))


@lowered
def lay_texels(  # type: ignore[no-untyped-def]  # noqa: PLR0917
    b, texels, sheet, walk, x, end, at, out, cover, labels
):
    """Draw a stretch of a stamp's run.

    Parameters
    ----------
    texels, sheet, walk, x, end
        As the module says. A sheet's fourth number is HIGHEST, LOWEST, ADD or OVER, the fifth the
        stamp's label. A walk's last three: the share of what is covered that is hidden, and what heights are
        multiplied and raised by.
    at : int64
        Where sample x lies in the layer.
    out, cover, labels : float32, float32, int32
        The layer's maps, see `stamps.Layer`; changed.
    """
    v = Vectors(b)
    height, mask = _read(v, texels, sheet, walk, x)
    share, times, up = (v.splat(number) for number in v.numbers(walk, 3, 5))
    join, number = v.numbers(sheet, 2, 3)
    number = v.splat(b.trunc(number, v.int))
    zero, one, half, full = (v.constant(number) for number in (0, 1, 0.5, 0.9999))
    inside = v.before(x, end)
    seen_at_all = b.and_(inside, b.fcmp_ordered(">", mask, v.constant(1e-4)))
    height = b.select(b.fcmp_ordered(">", mask, full), height, b.fdiv(height, mask))
    value = b.select(seen_at_all, v.all_of("fmuladd", height, times, up), zero)
    mask = b.select(seen_at_all, b.fmul(mask, share), zero)
    maps = [v.pointer(map, at) for map in (out, cover)] + [v.pointer(labels, at, v.ints)]
    now, seen, won = (v.masked_load(map, inside) for map in maps)
    shows = b.fcmp_ordered(">=", mask, half)
    free = b.icmp_signed("==", won, v.splat(v.int(0)))

    def is_join(kind: int) -> Any:
        return v.splat(b.icmp_signed("==", join, v.long(kind)))

    higher, lower = b.fcmp_ordered(">", value, now), b.fcmp_ordered("<", value, now)
    # Where nothing can show any more, nothing is added to what is covered either.
    hidden = b.and_(is_join(HIGHEST), b.and_(b.not_(higher), b.fcmp_ordered(">", seen, full)))
    mask = b.select(hidden, zero, mask)
    wins = b.or_(free, b.select(is_join(HIGHEST), higher, b.or_(lower, b.not_(is_join(LOWEST)))))
    shows = b.and_(b.and_(shows, b.not_(hidden)), wins)
    lowest = b.select(b.or_(lower, b.fcmp_ordered("<", seen, half)), value, now)
    to = b.select(is_join(HIGHEST), b.select(higher, value, now), b.select(is_join(LOWEST), lowest, value))
    to = b.select(is_join(ADD), b.fadd(now, value), to)
    v.masked_store(v.mix(mask, now, to), maps[0], inside)
    v.masked_store(v.all_of("fmuladd", mask, b.fsub(one, seen), seen), maps[1], inside)
    v.masked_store(b.select(shows, number, won), maps[2], inside)
    return v.int(0)


@lowered
def find_touch(  # type: ignore[no-untyped-def]  # noqa: PLR0917
    b, texels, sheet, walk, x, end, tops, begin, ground, at, ends
):
    """Find how high a stretch of a stamp is, and how high the ground below it.

    Parameters
    ----------
    texels, sheet, walk, x, end
        As the module says. A walk's last two: what heights are multiplied by, and how round the stamp is
        below, as a share of its top.
    tops : float32
        From place `begin` on filled with sixteen heights, NOT_THERE where the stamp is not.
    begin, at : int64
        Where sample x lies in `tops` and in `ground`.
    ground : float32
        How high it is so far, at least sixteen numbers from `at` on.
    ends : (32,) float32
        Raised, in each lane: the highest top so far; and how high the stamp must be raised, at least, not to
        go into the ground.
    """
    v = Vectors(b)
    height, mask = _read(v, texels, sheet, walk, x)
    scale, underside = (v.splat(number) for number in v.numbers(walk, 2, 5))
    there = b.and_(v.before(x, end), b.fcmp_ordered(">=", mask, v.constant(0.5)))
    top = b.select(there, b.fmul(b.fdiv(height, mask), scale), v.constant(NOT_THERE))
    b.store(top, v.pointer(tops, begin), align=4)
    raised = v.all_of("fmuladd", underside, top, v.load(ground, at))
    for lane, found in ((0, top), (LANES, raised)):
        most = v.pointer(ends, v.long(lane))
        b.store(v.higher(found, b.load(most, align=4)), most, align=4)
    return v.int(0)


@lowered
def raise_ground(b, tops, begin, x, end, lift, ground, at):  # type: ignore[no-untyped-def]
    """Leave a stretch of a stamp's top in the ground.

    Parameters
    ----------
    tops, begin, x, end, ground, at
        As `find_touch` has them; ground is changed.
    lift : float32
        What the top is raised by.
    """
    v = Vectors(b)
    top, now = v.load(tops, begin), v.load(ground, at)
    to = b.fadd(top, v.splat(lift))
    there = b.and_(v.before(x, end), b.fcmp_ordered(">", top, v.constant(0)))
    b.store(b.select(there, v.higher(to, now), now), v.pointer(ground, at), align=4)
    return v.int(0)


def _read(v: Vectors, texels: Any, sheet: Any, walk: Any, x: Any) -> tuple[Any, Any]:
    """Height times mask, and mask, at sixteen samples, mixed from the four texels about each.

    Samples beyond a bent sheet have no mask; those beyond an even one have its border's.
    """
    b = v.b
    start, *size = v.numbers(sheet, 3)
    columns, rows = (b.trunc(number, v.int) for number in size)
    first_x, first_y, a, c, bow = v.numbers(walk, 5)
    steps = b.fadd(v.splat(b.sitofp(x, v.single)), v.counted())
    across = v.all_of("fmuladd", steps, v.splat(a), v.splat(first_x))
    down = v.all_of("fmuladd", steps, v.splat(c), v.splat(first_y))
    wide, high = (b.sitofp(count, v.single) for count in (columns, rows))
    zero, edge = v.constant(0), v.constant(EDGE)
    q = b.fmul(b.fsub(across, v.constant(0.5)), v.splat(b.fdiv(v.single(2), wide)))
    q = b.fsub(q, v.constant(1))
    down = v.all_of("fmuladd", v.splat(bow), v.all_of("fmuladd", q, q, v.constant(-BOW_MEAN)), down)
    limit_x, limit_y = (b.fadd(v.splat(size), edge) for size in (wide, high))
    on_sheet = b.and_(b.fcmp_ordered(">=", down, zero), b.fcmp_ordered("<=", down, limit_y))
    on_sheet = b.or_(on_sheet, v.splat(b.fcmp_ordered("==", bow, v.single(0))))
    across, down = v.held(across, zero, limit_x), v.held(down, zero, limit_y)
    i, j = (b.fptosi(place, v.ints) for place in (across, down))
    fx, fy = (b.fsub(place, b.sitofp(whole, v.floats)) for place, whole in ((across, i), (down, j)))
    stride = b.add(columns, v.int(2))
    at = b.add(b.mul(j, v.splat(stride)), i)
    begin = b.gep(texels, [b.shl(start, v.long(1))])
    top = v.pairs_beside(begin, at)
    bottom = v.pairs_beside(b.gep(begin, [b.shl(stride, v.int(1))]), at)
    height, mask = (
        v.mix(fy, v.mix(fx, top[n], top[n + 2]), v.mix(fx, bottom[n], bottom[n + 2])) for n in range(2)
    )
    return height, b.select(on_sheet, mask, zero)
