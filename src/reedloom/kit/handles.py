"""Where a node's values can be dragged on the tile: a form's centre and knots, a place, a direction."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from msgspec import Struct

APART = 0.002
"""The least distance between two knots."""
RIM = 0.2
"""How far from its middle a form without a size is taken to be turned."""


class Handle(Struct, frozen=True):
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


class KnotPlaces(Struct, frozen=True):
    """Where the knots of a curve lie on the form that is drawn by it, so that they can be dragged there.

    Attributes
    ----------
    parameter : str
        The curve.
    to_form, from_form : callable
        From the values and a knot's (x, y) to the way from the form's middle, before it is turned, and back.
    shown : callable
        Whether the curve draws the form at all, with these values.
    closed : callable
        Whether the curve's end is its beginning, so that both are one handle.
    """

    parameter: str
    to_form: Callable[[Mapping[str, Any], float, float], tuple[float, float]]
    from_form: Callable[[Mapping[str, Any], float, float], tuple[float, float]]
    shown: Callable[[Mapping[str, Any]], bool] = lambda values: True
    closed: Callable[[Mapping[str, Any]], bool] = lambda values: False


class FormHandles(Struct, frozen=True):
    """Which parameters of a kind place a form on the tile, so that they can be dragged there.

    Attributes
    ----------
    centre : (name, name)
        The form's middle, across and down.
    size : str
        How far the form reaches from its middle, or nothing.
    turn : str
        The angle by which it is turned, or nothing.
    knots : KnotPlaces, optional
        The knots of its outline.
    """

    centre: tuple[str, str]
    size: str = ""
    turn: str = ""
    knots: KnotPlaces | None = None

    @property
    def parameters(self) -> tuple[str, ...]:
        """The names of all parameters it speaks of."""
        knots = (self.knots.parameter,) if self.knots is not None else ()
        return (*self.centre, *(name for name in (self.size, self.turn) if name), *knots)


class Mark(Struct, frozen=True):
    """A handle of a kind's own.

    Attributes
    ----------
    name : str
        "centre" or "rim", by which it is drawn.
    parameters : tuple of str
        What it sets.
    at : callable
        From the values and the tile's height in widths: where it is, in tiles.
    moved : callable
        From the values, the place (u, v) it is dragged to and the tile's height: what to set.
    """

    name: str
    parameters: tuple[str, ...]
    at: Callable[[Mapping[str, Any], float], tuple[float, float]]
    moved: Callable[[Mapping[str, Any], float, float, float], dict[str, Any]]


class FreeHandles(Struct, frozen=True):
    """Handles that are no form's.

    Attributes
    ----------
    marks : tuple of Mark
    of_place : bool
        Whether the kind gives a place, and is moved by hand where something is drawn at it.
    """

    marks: tuple[Mark, ...]
    of_place: bool = False

    @property
    def parameters(self) -> tuple[str, ...]:
        """The names of all parameters it speaks of."""
        return tuple(name for mark in self.marks for name in mark.parameters)


def handles_of(
    form: FormHandles | FreeHandles | None, values: Mapping[str, Any], aspect: float = 1.0
) -> list[Handle]:
    """The handles of a node with these values, in the order in which they are drawn.

    aspect : the tile's height in widths, by which forms are measured.
    """
    if form is None:
        return []
    if isinstance(form, FreeHandles):
        return [_free_handle(mark, values, aspect) for mark in form.marks]
    across, down = form.centre
    middle = values[across] % 1, values[down] % 1
    found = [Handle("centre", *middle, lambda u, v: {across: u % 1, down: v % 1})]
    turn = math.radians(values[form.turn]) if form.turn else 0.0
    c, s = math.cos(turn), math.sin(turn)
    if form.knots is not None and form.knots.shown(values):
        found += _knots(form.knots, values, middle, (c, s), aspect)
    if form.size or form.turn:
        found.append(_rim(form, values, middle, (c, s), aspect))
    return found


def _free_handle(mark: Mark, values: Mapping[str, Any], aspect: float) -> Handle:
    return Handle(mark.name, *mark.at(values, aspect), lambda u, v: mark.moved(values, u, v, aspect))


def _knots(
    knots: KnotPlaces,
    values: Mapping[str, Any],
    middle: tuple[float, float],
    way: tuple[float, float],
    aspect: float,
) -> list[Handle]:
    """A mark for each knot of the outline."""
    c, s = way
    found = []
    curve = values[knots.parameter]
    is_closed = knots.closed(values)
    for number, (x, y, *_) in enumerate(curve[:-1] if is_closed else curve):
        du, dv = knots.to_form(values, x, y)
        at = middle[0] + c * du - s * dv, middle[1] + (s * du + c * dv) / aspect

        def moved(u: float, v: float, number: int = number) -> dict[str, Any]:
            du, dv = u - middle[0], (v - middle[1]) * aspect
            x, y = knots.from_form(values, c * du + s * dv, c * dv - s * du)
            changed = moved_knot(curve, number, x, y)
            if is_closed and number == 0:
                changed = moved_knot(changed, len(curve) - 1, x, y)
            return {knots.parameter: changed}

        found.append(Handle(f"knot {number + 1}", *at, moved))
    return found


def _rim(
    form: FormHandles,
    values: Mapping[str, Any],
    middle: tuple[float, float],
    way: tuple[float, float],
    aspect: float,
) -> Handle:
    """The mark at the form's rim: drawn away it makes the form larger, drawn around it turns it."""
    reach = values[form.size] if form.size else RIM

    def moved(u: float, v: float) -> dict[str, Any]:
        du, dv = u - middle[0], (v - middle[1]) * aspect
        changed: dict[str, Any] = {}
        if form.size:
            changed[form.size] = round(max(math.hypot(du, dv), APART), 4)
        if form.turn:
            changed[form.turn] = round(math.degrees(math.atan2(dv, du)), 1)
        return changed

    return Handle("rim", middle[0] + reach * way[0], middle[1] + reach * way[1] / aspect, moved)


def moved_knot(knots: Any, number: int, x: float, y: float) -> tuple[tuple[float, ...], ...]:
    """Knots with one moved, between its neighbours; the first and the last keep their x."""
    if number in (0, len(knots) - 1):
        x = knots[number][0]
    else:
        x = min(max(x, knots[number - 1][0] + APART), knots[number + 1][0] - APART)
    moved = (round(x, 4), round(min(max(y, 0.0), 1.0), 4), *knots[number][2:])
    return (*knots[:number], moved, *knots[number + 1 :])
