"""Handles on the tile: where they are, and what dragging them sets."""

from __future__ import annotations

from typing import Any

import pytest

from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.handles import handles_of, moved_knot

CURVE = ((0.0, 0.2, 1.0), (0.4, 0.8, 0.0), (1.0, 0.5, 1.0))


def values_of(kind_id: str, **values: Any) -> dict[str, Any]:
    """A kind's defaults with some values changed."""
    return built_in_kinds().get(kind_id).defaults() | values


def test_every_kind_with_a_centre_is_moved_by_it() -> None:
    moved = [k for k in built_in_kinds() if {"centre_u", "centre_v"} <= {p.name for p in k.parameters}]
    assert len(moved) >= 10
    for kind in moved:
        handle = handles_of(kind.handles, kind.defaults() | {"centre_u": 1.25, "centre_v": 0.5})[0]
        assert (handle.name, handle.u, handle.v) == ("centre", 0.25, 0.5)
        changed = handle.moved(-0.1, 0.7)
        assert changed == pytest.approx({"centre_u": 0.9, "centre_v": 0.7})
    assert handles_of(built_in_kinds().get("blur").handles, built_in_kinds().get("blur").defaults()) == []


@pytest.mark.parametrize(
    ("kind_id", "values"),
    [
        ("drawn_outline", {"turn": 30.0, "radius": 0.3}),
        ("drawn_outline", {"parts": 5, "centre_u": 0.95}),
        ("drawn_outline", {"mirrored": True, "turn": -100.0}),
        ("plot", {"turn": 75.0, "width": 0.5}),
        ("plot", {"mirrored": False, "centre_v": 0.1}),
    ],
)
def test_a_knot_put_back_where_it_is_changes_nothing_and_moves_alone(
    kind_id: str, values: dict[str, Any]
) -> None:
    kind = built_in_kinds().get(kind_id)
    name = kind.handles.knots.parameter  # type: ignore[union-attr]
    given = values_of(kind_id, **values, **{name: CURVE})
    knots = [h for h in handles_of(kind.handles, given) if h.name.startswith("knot")]
    assert len(knots) == (2 if kind_id == "drawn_outline" and not values.get("mirrored") else 3)
    middle = knots[1]
    same = middle.moved(middle.u, middle.v)[name]
    assert [pytest.approx(knot, abs=2e-4) for knot in CURVE] == list(same)
    # Half-way towards the form's middle the knot is half as high.
    centre = handles_of(kind.handles, given)[0]
    if kind_id == "drawn_outline":
        half = middle.moved((middle.u + centre.u) / 2, (middle.v + centre.v) / 2)[name]
        assert half[1][:2] == pytest.approx((0.4, 0.4), abs=2e-4)
        assert half[0] == CURVE[0] and half[2] == CURVE[2]


def test_knots_stay_between_their_neighbours_and_within_the_curve() -> None:
    assert moved_knot(CURVE, 1, -3.0, 2.0)[1] == (0.002, 1.0, 0.0)
    assert moved_knot(CURVE, 1, 3.0, -2.0)[1] == (0.998, 0.0, 0.0)
    assert moved_knot(CURVE, 0, 0.5, 0.7)[0] == (0.0, 0.7, 1.0)
    assert moved_knot(CURVE, 2, 0.5, 0.7)[2] == (1.0, 0.7, 1.0)
    formula = values_of("plot", drawn_by="formula")
    assert [h.name for h in handles_of(built_in_kinds().get("plot").handles, formula)] == ["centre", "rim"]


def test_the_rim_is_dragged_to_turn_and_size_a_form() -> None:
    kind = built_in_kinds().get("polygon")
    given = values_of("polygon", centre_u=0.4, centre_v=0.5, radius=0.2, turn=90.0)
    rim = next(h for h in handles_of(kind.handles, given) if h.name == "rim")
    assert (rim.u, rim.v) == pytest.approx((0.4, 0.7))
    assert rim.moved(rim.u, rim.v) == pytest.approx({"radius": 0.2, "turn": 90.0})
    assert rim.moved(0.7, 0.5) == pytest.approx({"radius": 0.3, "turn": 0.0})
    assert rim.moved(0.4, 0.5)["radius"] > 0
