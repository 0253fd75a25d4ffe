"""Fields of vectors, and points that are joined, ordered and moved, against what they are said to do."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import make_points
from reedloom.laws.draws import flow_of, smooth_map, some_points

SIZE = (48, 96)
PHYSICAL = (1.0, 2.0)
"""A tile twice as high as wide, on which a way in tiles is not one in widths."""


def work(kind_id: str, inputs: dict[str, Any] | None = None, **values: Any) -> Any:
    return flow_of(kind_id, inputs, values, SIZE, physical=PHYSICAL)


def in_widths(vectors: np.ndarray) -> np.ndarray:
    found: np.ndarray = vectors * np.array([1, 2], np.float32)
    return found


def field(angle: float, length: float) -> np.ndarray:
    made: np.ndarray = work("angle_vectors", angle=angle, length=length)
    return made


def test_angles_lengths_and_turns_are_true_on_any_tile() -> None:
    for angle in (0.0, 30.0, 200.0):
        made = in_widths(field(angle, 0.2))
        assert np.allclose(np.hypot(*made[5, 5]), 0.2) and np.allclose(
            np.degrees(np.arctan2(made[..., 1], made[..., 0])) % 360, angle, atol=1e-3
        )
        turned = in_widths(work("turn_vectors", {"vectors": field(angle, 0.2)}, turn=50.0, strength=2.0))
        assert np.allclose(np.hypot(*turned[0, 0]), 0.4)
        assert np.allclose(
            np.degrees(np.arctan2(turned[..., 1], turned[..., 0])) % 360, angle + 50, atol=1e-3
        )
    quarter = np.full(SIZE[::-1], 0.25, np.float32)
    driven = in_widths(work("turn_vectors", {"vectors": field(0, 0.1), "turn_map": quarter}, turn=0.0))
    assert np.allclose(driven[3, 3], [0, 0.1], atol=1e-6)


def test_vectors_are_added_mixed_and_compared_by_their_true_length() -> None:
    across, down = field(0, 0.1), field(90, 0.12)
    both = {"first": across, "second": down}
    assert np.allclose(in_widths(work("combine_vectors", both)), [0.1, 0.12], atol=1e-6)
    assert np.allclose(in_widths(work("combine_vectors", both, way="mix", share=0.25)), [0.075, 0.03])
    # In shares of the tile the second is the shorter one; in widths it is not.
    assert np.allclose(in_widths(work("combine_vectors", both, way="longer")), [0, 0.12], atol=1e-6)
    assert np.allclose(
        in_widths(work("combine_vectors", both, way="longer", second_strength=0.5)), [0.1, 0], atol=1e-6
    )


def test_lengths_are_levelled_and_directions_stay() -> None:
    for length, wanted in ((0.01, 0.0), (0.06, 0.5), (0.2, 1.0)):
        made = work(
            "vector_lengths", {"vectors": field(70, length)}, shortest=0.02, longest=0.1, full=0.3, middle=1.0
        )
        assert np.allclose(made["length"], wanted, atol=1e-5)
        assert np.allclose(np.hypot(*in_widths(made["vectors"])[0, 0]), 0.3 * wanted, atol=1e-6)
        if wanted:
            assert np.allclose(np.degrees(np.arctan2(*in_widths(made["vectors"])[0, 0][::-1])), 70, atol=1e-2)


def test_the_longest_vectors_are_measured_though_their_squares_run_over() -> None:
    for length in (1e14, 1e16, 1e25):
        vectors = field(70, 1.0) * np.float32(length)
        made = work("vector_lengths", {"vectors": vectors}, shortest=0.0, longest=0.1, full=0.3, middle=1.0)
        assert np.allclose(np.hypot(*in_widths(made["vectors"])[0, 0]), 0.3, atol=1e-6)


def test_middles_between_bend_lengths() -> None:
    made = work("vector_lengths", {"vectors": field(70, 0.05)}, shortest=0.0, longest=0.1, middle=2.0)
    assert np.allclose(made["length"], 0.25, atol=1e-5)


def test_joined_points_keep_their_order_and_chances_of_their_own() -> None:
    sets = [some_points(12, seed=n) for n in range(3)]
    joined = work("join_points", {"points": sets[0], "points_2": sets[1], "points_4": sets[2]}, by_set=True)
    assert np.array_equal(joined["u"], np.concatenate([s["u"] for s in sets]))
    assert np.array_equal(joined["id"][:12], sets[0]["id"]) and len(set(joined["id"])) == 36
    assert np.allclose(np.unique(joined["level"]), [0, 0.2, 0.6])
    again = work("join_points", {"points": joined, "points_2": joined})
    assert len(set(again["id"])) == 72
    many = make_points(*np.random.default_rng(1).random((2, 2000)))
    twice = work("join_points", {"points": many, "points_2": many})
    chances = unit_chances(0, twice["id"])
    assert abs(np.corrcoef(chances[:2000], chances[2000:])[0, 1]) < 0.08


@pytest.mark.parametrize(
    ("order", "key"), [("by tone", "tone"), ("left to right", "u"), ("top to bottom", "v")]
)
def test_sorted_points_are_in_order_and_told_their_rank(order: str, key: str) -> None:
    points = some_points(30)
    made = work("sort_points", {"points": points}, order=order)
    assert np.all(np.diff(made[key]) >= 0) and sorted(made["id"]) == sorted(points["id"])
    assert made["level"][0] == 0 and made["level"][-1] == 1
    back = work("sort_points", {"points": points}, order=order, reversed=True, set_level=False)
    assert np.array_equal(back["id"], made["id"][::-1])
    ramp = smooth_map(*SIZE)
    by_map = work("sort_points", {"points": points, "map": ramp}, order="by map")
    assert not np.array_equal(by_map["id"], made["id"])


def test_points_follow_a_whirl_around_and_cross_the_seam() -> None:
    size = (256, 256)
    place = (np.mgrid[:256, :256].astype(np.float32) + 0.5) / 256 - 0.5
    whirl = np.stack([-place[0], place[1]], axis=-1) * np.float32(2 * np.pi)
    start = make_points(np.array([0.8]), np.array([0.5]))
    round_ = flow_of(
        "move_points",
        {"points": start, "along": whirl},
        {"distance": 1.0, "steps": 256, "face_it": True},
        size,
    )
    assert abs(round_["u"][0] - 0.8) < 0.02 and abs(round_["v"][0] - 0.5) < 0.02
    assert abs((round_["turn"][0] - 90 + 180) % 360 - 180) < 5
    facing = start.copy()
    facing["turn"] = 90
    moved = flow_of("move_points", {"points": facing}, {"distance": 0.7}, size)
    assert np.allclose([moved["u"][0], moved["v"][0]], [0.8, 0.2])


def test_dirt_lies_in_hollows_and_flipped_on_what_stands_out() -> None:
    bumps = smooth_map(128, 128)
    inputs = {"height": bumps}
    low = flow_of("dirt", inputs, {"creases": 0.0, "amount": 0.5})
    high = flow_of("dirt", inputs, {"creases": 0.0, "amount": 0.5, "flipped": True})
    likeness = [np.corrcoef(map.ravel(), bumps.ravel())[0, 1] for map in (low, high)]
    assert likeness[0] < -0.35 and likeness[1] > 0.35
    covered = [float(flow_of("dirt", inputs, {"amount": a}).mean()) for a in (0.0, 0.3, 0.6, 1.0)]
    assert covered[0] < 0.02 and covered[3] > 0.98 and covered == sorted(covered)
