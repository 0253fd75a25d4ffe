"""How points are varied, thinned and read from maps, and how drawings are chosen and toned."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import reedloom as rl
from reedloom.kernels.places import tile_places
from reedloom.kernels.points import make_points
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kinds.points.vary_points import SPREADS, spread_out
from reedloom.laws.draws import flow_of

SIZE = 64
RAMP = np.ascontiguousarray(np.broadcast_to((np.arange(SIZE, dtype=np.float32) + 0.5) / SIZE, (SIZE, SIZE)))
"""A map that rises from left to right."""


def work(kind_id: str, *inputs: Any, **values: Any) -> Any:
    """A kind's result for its first inputs."""
    ports = [p.name for p in built_in_kinds().get(kind_id).inputs]
    return flow_of(kind_id, dict(zip(ports, inputs, strict=False)), values, (SIZE, SIZE))


def row_of_points(count: int = 400) -> np.ndarray:
    """Points evenly along a line from left to right."""
    return make_points((np.arange(count) + 0.5) / count, np.full(count, 0.5))


@pytest.mark.parametrize("spread", SPREADS)
def test_spreads_keep_to_their_range_and_lean_where_they_say(spread: str) -> None:
    chance = (np.arange(1000, dtype=np.float32) + 0.5) / 1000
    shared = spread_out(chance, spread)
    assert shared.min() >= 0 and shared.max() <= 1 and (np.diff(shared) >= -1e-6).all()
    low, middle, high = ((shared < 0.25).mean(), np.abs(shared - 0.5) < 0.25, (shared > 0.75).mean())
    leans = {
        "even": abs(low - 0.25) < 0.01 and abs(high - 0.25) < 0.01,
        "mostly middle": middle.mean() > 0.6,
        "mostly low": low > 0.45 and high < 0.2,
        "mostly high": high > 0.45 and low < 0.2,
        "either end": low == 0.5 and high == 0.5,
    }
    assert leans[spread]


def test_each_value_keeps_to_its_own_range() -> None:
    points = row_of_points()
    ranges = {"turn": (-20.0, 70.0), "size": (0.5, 2.0), "stretch": (0.8, 1.6), "tone": (0.2, 0.9)}
    settings = {
        f"{name}_{end}": v
        for name, pair in ranges.items()
        for end, v in zip(("from", "to"), pair, strict=True)
    }
    varied = work("vary_points", points, **settings, offset_from=0.01, offset_to=0.03)
    for name, (low, high) in ranges.items():
        assert low <= varied[name].min() < low + 0.02 * (high - low) + 1e-6
        assert high - 0.02 * (high - low) - 1e-6 < varied[name].max() <= high + 1e-5
    du, dv = (varied[axis] - points[axis] for axis in ("u", "v"))
    way = np.hypot(du - np.round(du), dv - np.round(dv))
    assert way.min() >= 0.01 - 1e-9 and way.max() <= 0.03 + 1e-9
    for first, second in (("turn", "size"), ("size", "tone"), ("stretch", "turn")):
        assert abs(np.corrcoef(varied[first], varied[second])[0, 1]) < 0.15  # each by a chance of its own
    assert (varied["u"] >= 0).all() and (varied["u"] < 1).all()
    again = work("vary_points", points, **settings, offset_from=0.01, offset_to=0.03)
    assert np.array_equal(varied, again)
    assert not np.array_equal(varied["turn"], work("vary_points", points, **settings, seed=5)["turn"])


@pytest.mark.parametrize("name", ["turn", "size", "stretch", "tone"])
def test_a_map_takes_the_place_of_chance(name: str) -> None:
    points = row_of_points(50)
    maps = [RAMP if n == name else None for n in ("turn", "size", "stretch", "tone", "offset")]
    varied = work("vary_points", points, *maps, **{f"{name}_from": 0.0, f"{name}_to": 2.0})
    inside = slice(2, 48)  # at both ends the map mixes around the tile
    assert np.allclose(varied[name][inside], 2 * points["u"][inside], atol=0.02)


def test_points_are_kept_by_order_size_mask_and_board() -> None:
    points = row_of_points(100)
    points["size"] = np.linspace(0.5, 1.5, 100)
    assert work("keep_points", points, order_from=0.2, order_to=0.5)["id"].tolist() == list(range(20, 50))
    assert (work("keep_points", points, size_from=1.2)["size"] >= 1.2).all()
    masked = work("keep_points", points, RAMP, level=0.5)
    assert masked["u"].min() > 0.48 and 45 <= len(masked) <= 52
    board = work("grid_points", columns=6, rows=6)
    even = work("keep_points", board, checks="even")
    odd = work("keep_points", board, checks="odd")
    assert len(even) == len(odd) == 18 and not set(even["id"]) & set(odd["id"])
    assert np.array_equal(even, work("grid_points", columns=6, rows=6, alternate="even"))


def test_grids_stray_no_further_than_they_may_and_keep_their_numbers() -> None:
    plain, strayed = (
        work("grid_points", columns=9, rows=7),
        work("grid_points", columns=9, rows=7, jitter=0.5),
    )
    for axis, count in (("u", 9), ("v", 7)):
        away = strayed[axis] - plain[axis]
        away -= np.round(away)
        assert 0.1 / count < np.abs(away).max() <= 0.25 / count + 1e-9
    wider = work("grid_points", columns=12, rows=7, jitter=0.5)
    at = {int(p["id"]): p for p in wider}
    for point in strayed:  # more columns leave each its own stray, in shares of a column
        other = at[int(point["id"])]
        assert abs((point["u"] * 9 - other["u"] * 12 + 4.5) % 9 - 4.5) < 1e-4 or point["column"] in (0, 8)
    shifted = work("grid_points", columns=4, rows=4, row_shift=0.5)
    assert np.allclose((shifted["u"][4:8] - shifted["u"][:4]) % 1, 0.125)


@pytest.mark.parametrize(
    ("face", "degrees"), [("right", None), ("outward", 0), ("inward", 180), ("around", 90)]
)
def test_rings_face_where_they_should_and_keep_their_distance(face: str, degrees: float | None) -> None:
    ring = work("ring_points", count=10, rings=3, radius=0.1, ring_spacing=0.1, face=face)
    away = np.degrees(np.arctan2(ring["v"] - 0.5, ring["u"] - 0.5))
    wanted = np.zeros(len(ring)) if degrees is None else away + degrees
    assert np.allclose((ring["turn"] - wanted + 180) % 360 - 180, 0, atol=1e-3)
    counts = np.bincount(ring["row"])
    assert counts.tolist() == [10, 20, 30]
    assert work("ring_points", count=10, rings=3, evenly=False)["row"].tolist().count(2) == 10


def test_stamps_take_their_drawing_tone_and_height_from_maps() -> None:
    flat = np.ones((SIZE, SIZE), np.float32)
    points = row_of_points(8)
    ports = {p.name for p in built_in_kinds().get("stamp").inputs}

    def stamped(**more: Any) -> dict[str, np.ndarray]:
        maps = {"points": points, "drawing": flat}
        maps |= {name: more.pop(name) for name in list(more) if name in ports}
        made: dict[str, np.ndarray] = flow_of("stamp", maps, {"size": 0.1} | more, (SIZE, SIZE))
        return made

    middle = (points["u"] * SIZE).astype(int)
    by_map = stamped(drawing_2=flat * 2, choice="by map", choice_map=RAMP)
    assert by_map["height"][32, middle].tolist() == pytest.approx([1] * 4 + [2] * 4)
    toned = stamped(tone_map=RAMP, tone_height=1.0)
    assert np.allclose(toned["tone"][32, middle], points["u"], atol=0.02)
    assert np.allclose(toned["height"][32, middle], toned["tone"][32, middle], atol=1e-4)
    place = tile_places(SIZE, SIZE)
    hole = (np.abs(place - 0.5).max(axis=-1) > 0.2).astype(np.float32)
    framed = stamped(drawing_mask=hole, size=0.12)
    assert framed["mask"][32, middle].max() < 0.3 and framed["mask"].max() == 1
    low = stamped(points=np.repeat(points, 2), drawing_2=flat * 0.25, choice="in turn", join="lowest")
    assert np.allclose(low["height"][32, middle], 0.25, atol=1e-5)


def test_no_two_nodes_just_hung_share_their_chances() -> None:
    weave = rl.Weave()
    first, second = weave.add("gradient_noise"), weave.add("gradient_noise")
    other, given = weave.add("fractal_noise"), weave.add("gradient_noise", seed=0)
    maps = [rl.evaluate(weave, node, 128).ravel() for node in (first, second, other)]
    assert np.abs(np.corrcoef(maps) - np.eye(3)).max() < 0.3
    assert np.array_equal(rl.evaluate(weave, first, 64), rl.evaluate(weave, given, 64))
    points = weave.add("grid_points", columns=20, rows=20)
    once, twice = (weave.add("vary_points", size_from=0.5) for _ in range(2))
    weave.connect(points, f"{once}.points")
    weave.connect(once, f"{twice}.points")
    one, two = (rl.evaluate(weave, node, 8) for node in (once, twice))
    share = two["size"] / one["size"]
    assert share.std() > 0.05 and abs(np.corrcoef(share, one["size"])[0, 1]) < 0.2
