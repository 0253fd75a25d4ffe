"""Handles on the tile: where they are, and what dragging them sets."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.handles import FreeHandles, handles_of, moved_knot
from reedloom.kit.kind import Kind
from reedloom.laws.draws import flow_of, run_as_it_flows

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


FREE = [k for k in built_in_kinds() if isinstance(k.handles, FreeHandles)]


@pytest.mark.parametrize("kind", FREE, ids=[k.id for k in FREE])
@pytest.mark.parametrize("aspect", [1.0, 2.0])
def test_a_mark_put_back_changes_nothing_and_one_moved_is_found_there(kind: Kind, aspect: float) -> None:
    chance = np.random.default_rng(5)
    values = kind.defaults()
    for handle in handles_of(kind.handles, values, aspect):
        back = values | handle.moved(handle.u, handle.v)
        again = next(h for h in handles_of(kind.handles, back, aspect) if h.name == handle.name)
        away = np.array([again.u - handle.u, (again.v - handle.v) * aspect])
        assert np.abs(away - np.round(away)).max() < 2e-3
        for du, dv in chance.uniform(-0.2, 0.2, (20, 2)):
            moved = handle.moved(handle.u + du, handle.v + dv)
            assert all(kind.parameter(name).check(value) == value for name, value in moved.items())


def test_a_place_is_moved_turned_and_scaled_by_its_marks() -> None:
    kind = built_in_kinds().get("transform_place")
    free = kind.defaults() | {"keep_tiling": False, "pivot_u": 0.4}
    centre, rim = handles_of(kind.handles, free)
    assert (centre.u, centre.v) == (0.4, 0.5)
    assert centre.moved(0.65, 0.4) == pytest.approx({"offset_u": 0.25, "offset_v": -0.1})
    assert rim.moved(0.4, 0.9) == pytest.approx({"turn": 90.0, "scale": 2.0})
    # What is drawn follows the mark: the disc that was at the pivot is where the centre was dragged.
    place = flow_of("transform_place", {}, free | centre.moved(0.65, 0.4), (64, 64))
    disc = flow_of("disc", {"place": place}, {"centre_u": 0.4, "radius": 0.1}, (64, 64))["mask"]
    down, across = np.average(np.indices(disc.shape).reshape(2, -1), axis=1, weights=disc.reshape(-1))
    assert ((across + 0.5) / 64, (down + 0.5) / 64) == pytest.approx((0.65, 0.4), abs=0.02)


def test_the_light_stands_where_its_mark_is() -> None:
    kind = built_in_kinds().get("light")
    (sun,) = handles_of(kind.handles, kind.defaults())
    assert sun.moved(0.5, 0.1) == pytest.approx({"direction": -90.0, "elevation": 1.0})
    assert sun.moved(0.5 + 0.2, 0.5) == pytest.approx({"direction": 0.0, "elevation": 45.0})


@pytest.mark.parametrize("aspect", [1.0, 2.0, 0.5])
@pytest.mark.parametrize("scale", [1.0, 0.45, 0.2])
def test_every_stop_closes_at_the_seam_and_is_not_snapped(aspect: float, scale: float) -> None:
    kind = built_in_kinds().get("transform_place")
    values = kind.defaults() | {"scale": scale}
    stops = kind.stops(values, aspect)  # type: ignore[misc]
    assert len(stops["turn"]) >= (4 if aspect != 1 else 20) and len(stops["scale"]) >= 2
    assert len({stop.value for stop in stops["turn"]}) == len(stops["turn"])
    for name in ("turn", "scale"):
        for stop in stops[name]:
            given = values | {name: stop.value} | dict(stop.also)
            size = (16, round(16 * aspect))
            notes = run_as_it_flows(kind, {}, given, size, physical=(1.0, aspect)).notes
            assert not notes, (stop, notes)
    assert not kind.stops(values | {"keep_tiling": False}, aspect)  # type: ignore[misc]
