"""What the corners of a lattice's cells give between them, in LLVM's own vectors: sixteen places at once.

Where many places in a row lie in one cell, what follows from its corners alone is worked out once for all of
them (`within_cell`), and no place need be looked up.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from reedloom.kernels.vectors import Vectors

KINDS = VALUES, SLOPES, TURNING_VALUES, TURNING_SLOPES = 0, 1, 2, 3
"""What corners give: a value, or slopes in u and v, which a table then has; or those that follow from a phase
and how often the corner turns, which it has instead, and from the evolution of each sample."""

Rows = tuple[list[Any], list[Any]]
"""The numbers of the corners above and of those below, each row's from the left to the right."""
Parts = tuple[Any, Any]
"""Where places lie between the corners, along u and along v."""


def between(
    v: Vectors, gives: int, rows: Rows, parts: Parts, fade: list[Any], evolution: Callable[[], Any]
) -> Any:
    """What places hold between four corners.

    Parameters
    ----------
    v : Vectors
    gives : int
        What corners give, such as SLOPES.
    rows : two lists of vectors
    parts : two vectors
    fade : list of vectors
        The factors of the fade's powers, the first one's first.
    evolution : callable
        Gives that of each place, where corners turn.
    """
    above, below = rows
    if gives in (TURNING_VALUES, TURNING_SLOPES):
        shape, moving = (_swung if gives == TURNING_VALUES else _turned), evolution()
        above, below = ([*shape(v, a, b, moving), *shape(v, c, d, moving)] for a, b, c, d in rows)
    wx, wy = (faded(v, part, fade) for part in parts)
    if gives in (VALUES, TURNING_VALUES):
        return v.mix(wy, v.mix(wx, *above), v.mix(wx, *below))
    fx, fy = parts
    gx, gy = (v.b.fsub(part, v.constant(1)) for part in parts)
    return v.mix(wy, _mixed(v, wx, above, fx, gx, fy), _mixed(v, wx, below, fx, gx, gy))


def within_cell(
    v: Vectors, gives: int, rows: Rows, fade: list[Any]
) -> Callable[[Parts, Callable[[], Any]], Any]:
    """`between` the corners of one cell, as a function of parts and evolution: what is the same is done here.

    Parameters
    ----------
    v, gives, rows, fade
        As there.
    """
    b = v.b
    if gives not in (VALUES, SLOPES):
        return lambda parts, evolution: between(v, gives, rows, parts, fade, evolution)
    # Between the corners a sum: of what the first gives, what the others give beyond it, and, faded both
    # ways, what the last gives beyond all of them. Each of the four is a plane, or just a number.
    corners = [_plane(v, row, right, down) for down, row in enumerate(rows) for right in (0, 1)]
    first, *others = corners
    right, low, last = ([b.fsub(*both) for both in zip(plane, first, strict=True)] for plane in others)
    last = [b.fsub(c, b.fadd(*both)) for c, *both in zip(last, right, low, strict=True)]

    def value(parts: Parts, _evolution: Callable[[], Any]) -> Any:
        wx, wy = (faded(v, part, fade) for part in parts)
        at, beside, under, both = (_on_plane(v, plane, parts) for plane in (first, right, low, last))
        upper = v.all_of("fmuladd", wx, beside, at)
        return v.all_of("fmuladd", wy, v.all_of("fmuladd", wx, both, under), upper)

    return value


def faded(v: Vectors, t: Any, coefficients: list[Any]) -> Any:
    """A polynomial without a constant."""
    total = coefficients[-1]
    for factor in coefficients[-2::-1]:
        total = v.all_of("fmuladd", total, t, factor)
    return v.b.fmul(total, t)


def _plane(v: Vectors, row: list[Any], right: int, down: int) -> list[Any]:
    """What a corner gives in the cell: its value; or a height at the first corner, and slopes in u and v."""
    b = v.b
    if len(row) == 2:
        return [row[right]]
    slopes = row[2 * right : 2 * right + 2]
    height = v.constant(0)
    for slope, away in zip(slopes, (right, down), strict=True):
        height = b.fsub(height, slope) if away else height
    return [height, *slopes]


def _on_plane(v: Vectors, plane: list[Any], parts: Parts) -> Any:
    height = plane[0]
    for slope, part in zip(plane[1:], parts, strict=False):
        height = v.all_of("fmuladd", slope, part, height)
    return height


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


def _mixed(v: Vectors, share: Any, planes: list[Any], left: Any, right: Any, down: Any) -> Any:
    """What two corners' planes give at places beside and below them, faded from the left to the right."""
    b = v.b
    first = v.all_of("fmuladd", planes[0], left, b.fmul(planes[1], down))
    second = v.all_of("fmuladd", planes[2], right, b.fmul(planes[3], down))
    return v.mix(share, first, second)
