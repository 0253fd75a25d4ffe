"""The innermost loop of Gabor noise at given places, in vectors: sixteen places, and all waves near them.

All waves that may reach a run of samples are summed before the next sixteen are looked at, so that sums stay
in the processor; a loop over samples for each wave loads and stores them each time, and compiles to vectors
of half the width. It goes away with `lanes.py`, or if a plain loop is within a quarter of it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.vectors import LANES, Vectors

WAVE = 6
"""Numbers that a wave is told in."""


@lowered
def add_waves(b, parts, total, near, count, span, numbers):  # type: ignore[no-untyped-def]
    """Add waves to a run of samples.

    Parameters
    ----------
    parts : (2 × W) float32
        Where samples lie in their cell, along u and then along v.
    total : (W) float32
        Added to.
    near : (count × 6) float32
        Of each wave: its place in cells from the corner of that cell, u and v; its phase, in turns; its
        weight; and how many waves there are in a cell along u and along v.
    count : int64
        Of the waves.
    span : (3) int64
        The first sample; the one after the last; and W.
    numbers : (2) float32
        What a bell falls by: its logarithm to the base of 2 at the square of a distance of one cell; and the
        square of how far a wave reaches, in cells.

    Returns
    -------
    int32, 0
    """
    v = Vectors(b)

    def along(_at: Any, wave: list[Any], du: Any, dv: Any) -> Any:
        turn = v.all_of("fmuladd", du, wave[4], wave[2])
        return v.all_of("fmuladd", dv, wave[5], turn)

    return _add(v, along, parts, total, near, count, span, numbers)


@lowered
def add_turned_waves(b, parts, turns, total, near, count, span, numbers):  # type: ignore[no-untyped-def]
    """`add_waves` where each sample has a direction of its own.

    Parameters
    ----------
    parts, total, count, span, numbers
        As there.
    turns : (W) float32
        The direction of each sample, in turns.
    near : (count × 6) float32
        As there; but the last two are how many waves there are in a cell, and by how many turns the direction
        of this one departs from that.

    Returns
    -------
    int32, 0
    """
    v = Vectors(b)

    def along(at: Any, wave: list[Any], du: Any, dv: Any) -> Any:
        turn = b.fadd(at, wave[5])
        sine = v.cosine_of_turn(b.fsub(turn, v.constant(0.25)))
        way = v.all_of("fmuladd", du, v.cosine_of_turn(turn), b.fmul(dv, sine))
        return v.all_of("fmuladd", wave[4], way, wave[2])

    return _add(v, along, parts, total, near, count, span, numbers, turns)


Along = Callable[[Any, list[Any], Any, Any], Any]
"""Where along a wave samples lie, in turns: by their direction, the wave, and how far they are from it."""


def _add(  # type: ignore[no-untyped-def]
    v: Vectors, along: Along, parts, total, near, count, span, numbers, turns: Any = None
) -> Any:
    b = v.b
    start, end, width = v.numbers(span, 3)
    fall, limit = (v.splat(number) for number in v.numbers(numbers, 2))
    with b.goto_entry_block():
        held = b.alloca(v.floats)
    with v.each(start, b.add(end, v.long(LANES - 1))) as (x, _):
        inside = v.before(x, end)
        u, down = (v.masked_load(v.pointer(parts, first), inside) for first in (x, b.add(x, width)))
        turn = None if turns is None else v.masked_load(v.pointer(turns, x), inside)
        into = v.pointer(total, x)
        b.store(v.masked_load(into, inside), held)
        with v.each(v.long(0), count, 1) as (number, _):
            first = b.mul(number, v.long(WAVE))
            wave = [v.splat(b.load(b.gep(near, [b.add(first, v.long(k))]))) for k in range(WAVE)]
            du, dv = b.fsub(u, wave[0]), b.fsub(down, wave[1])
            square = v.all_of("fmuladd", dv, dv, b.fmul(du, du))
            bell = b.fmul(v.power_of_two(b.fmul(fall, square)), wave[3])
            bell = b.select(b.fcmp_ordered("<", square, limit), bell, v.constant(0))
            wavy = v.cosine_of_turn(along(turn, wave, du, dv))
            b.store(v.all_of("fmuladd", bell, wavy, b.load(held)), held)
        v.masked_store(b.load(held), into, inside)
    return v.int(0)
