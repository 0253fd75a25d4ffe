"""Where a node's values can be dragged on the tile: the centre of a form, the knots of its outline."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from reedloom.kit.declare import Kind

APART = 0.002
"""The least distance between two knots."""


@dataclass(frozen=True, slots=True)
class Handle:
    """A mark on the tile.

    Attributes
    ----------
    name : str
        What it moves.
    u, v : float
        Where it is, in tiles; beyond 0..1 where a form crosses the tile's edge.
    moved : callable
        The values to set when it is dragged to (u, v).
    """

    name: str
    u: float
    v: float
    moved: Callable[[float, float], dict[str, Any]]


def handles_of(kind: Kind, values: Mapping[str, Any]) -> list[Handle]:
    """The handles of a node with these values, in the order in which they are drawn."""
    names = {p.name for p in kind.parameters}
    if not {"centre_u", "centre_v"} <= names:
        return []
    middle = values["centre_u"] % 1, values["centre_v"] % 1
    found = [Handle("centre", *middle, lambda u, v: {"centre_u": u % 1, "centre_v": v % 1})]
    knots = kind.knots
    if knots is None or not knots.shown(values):
        return found
    turn = math.radians(values.get("turn", 0.0))
    c, s = math.cos(turn), math.sin(turn)
    curve = values[knots.parameter]
    is_closed = knots.closed(values)
    for number, (x, y, *_) in enumerate(curve[:-1] if is_closed else curve):
        du, dv = knots.to_form(values, x, y)
        at = middle[0] + c * du - s * dv, middle[1] + s * du + c * dv

        def moved(u: float, v: float, number: int = number) -> dict[str, Any]:
            du, dv = u - middle[0], v - middle[1]
            x, y = knots.from_form(values, c * du + s * dv, c * dv - s * du)
            changed = moved_knot(curve, number, x, y)
            if is_closed and number == 0:
                changed = moved_knot(changed, len(curve) - 1, x, y)
            return {knots.parameter: changed}

        found.append(Handle(f"knot {number + 1}", *at, moved))
    return found


def moved_knot(knots: Any, number: int, x: float, y: float) -> tuple[tuple[float, ...], ...]:
    """Knots with one moved, between its neighbours; the first and the last keep their x."""
    if number in (0, len(knots) - 1):
        x = knots[number][0]
    else:
        x = min(max(x, knots[number - 1][0] + APART), knots[number + 1][0] - APART)
    moved = (round(x, 4), round(min(max(y, 0.0), 1.0), 4), *knots[number][2:])
    return (*knots[:number], moved, *knots[number + 1 :])
