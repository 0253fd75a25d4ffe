"""What strengths, maps of them, ranges and fall-offs of filters and heights do, against what they say."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import ndimage

from reedloom.kernels.curves import evaluate_curve
from reedloom.laws.draws import flow_of, smooth_map

SIDE = 96
HALVES = np.repeat((np.arange(SIDE) >= SIDE // 2).astype(np.float32)[None], SIDE, axis=0)
LEFT, RIGHT = np.s_[:, 8 : SIDE // 2 - 8], np.s_[:, SIDE // 2 + 8 : -8]


def compute(kind_id: str, inputs: dict[str, Any], **values: Any) -> Any:
    """A kind's outputs as they flow, or its only one."""
    return flow_of(kind_id, inputs, values, (SIDE, SIDE))


def specks(seed: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).random((SIDE, SIDE), np.float32)


@pytest.mark.parametrize(
    ("kind_id", "port", "values"),
    [
        ("sharpen", "amount_map", {"radius": 0.02}),
        ("median", "strength_map", {"radius": 0.03}),
        ("edge_keeping_blur", "strength_map", {"radius": 0.03}),
        ("blur", "radius_map", {"radius": 0.03}),
        ("grow", "radius_map", {"radius": 0.02}),
        ("push", "strength_map", {"strength": 0.05, "centred": False}),
        ("fan_warp", "strength_map", {"strength": 0.05, "centred": False}),
        ("drift", "distance_map", {"distance": 0.03}),
        ("streak", "length_map", {"length": 0.03, "angle": 90.0}),
    ],
)
def test_a_driven_filter_leaves_one_half_and_changes_the_other_in_full(
    kind_id: str, port: str, values: dict[str, Any]
) -> None:
    inputs: dict[str, Any] = {"map": specks() if kind_id == "median" else smooth_map(SIDE, SIDE)}
    if kind_id in {"push", "fan_warp", "drift"}:
        inputs["guide"] = smooth_map(SIDE, SIDE, 3)
    whole = compute(kind_id, inputs, **values)
    halves = compute(kind_id, inputs | {port: HALVES}, **values)
    assert np.abs(halves[LEFT] - inputs["map"][LEFT]).max() < 2e-3
    assert np.abs(halves[RIGHT] - whole[RIGHT]).max() < 0.02
    assert np.abs(whole - inputs["map"])[RIGHT].max() > 0.02


@pytest.mark.parametrize(
    ("least", "most"), [(0, 0), (0.02, 0.02), (1 / 1.4, 1 / 1.4), (1, 1), (0.3, 0.45), (0, 0.2), (0.6, 1)]
)
def test_a_driven_blur_is_between_those_of_the_radii_around_its_own(least: float, most: float) -> None:
    """Of which only those are made that a sample is between."""
    map, radius = smooth_map(SIDE, SIDE), 0.05
    share = least + (most - least) * smooth_map(SIDE, SIDE).clip(0, 1)
    made = compute("blur", {"map": map, "radius_map": share.astype(np.float32)}, radius=radius)
    for reach in np.unique(np.quantile(share, [0, 0.3, 0.7, 1])):
        there = np.abs(share - reach) < 1e-3
        whole = ndimage.gaussian_filter(map, reach * radius * SIDE, mode="wrap", truncate=8)
        assert np.abs(made - whole)[there].max() < 2e-3


@pytest.mark.parametrize(
    ("kind_id", "port", "values"),
    [
        ("contrast", "contrast_map", {"contrast": 1.5, "gamma": 1.3}),
        ("sharpen", "amount_map", {"radius": 0.02}),
        ("high_pass", "strength_map", {"radius": 0.05}),
        ("median", "strength_map", {"radius": 0.03}),
    ],
)
def test_what_drives_a_colour_drives_each_of_its_channels(
    kind_id: str, port: str, values: dict[str, Any]
) -> None:
    greys, share = [smooth_map(SIDE, SIDE, k) for k in range(3)], smooth_map(SIDE, SIDE, 7)
    made = compute(kind_id, {"map": np.stack(greys, axis=-1), port: share}, **values)
    for channel, grey in enumerate(greys):
        alone = compute(kind_id, {"map": grey, port: share}, **values)
        assert np.abs(made[..., channel] - alone).max() < 1e-6


@pytest.mark.parametrize("kind_id", ["median", "edge_keeping_blur"])
def test_half_a_strength_is_half_the_change(kind_id: str) -> None:
    map = specks()
    whole, half = (compute(kind_id, {"map": map}, radius=0.03, strength=s) for s in (1.0, 0.5))
    assert np.abs(half - (map + whole) / 2).max() < 1e-6


def test_a_streak_of_two_breadths_is_a_gaussian_of_two_deviations() -> None:
    map = specks()
    for angle, sigma in ((0.0, (1.2, 4.8)), (90.0, (4.8, 1.2))):
        made = compute("streak", {"map": map}, length=0.05, breadth=0.25, angle=angle)
        assert np.abs(made - ndimage.gaussian_filter(map, sigma, mode="wrap", truncate=8)).max() < 2e-3
    # Along a field it is the same, but for its steps.
    turn = np.full((SIDE, SIDE), 0.125, np.float32)
    driven = compute("streak", {"map": smooth_map(SIDE, SIDE), "angle_map": turn}, length=0.05, breadth=0.5)
    given = compute("streak", {"map": smooth_map(SIDE, SIDE)}, length=0.05, breadth=0.5, angle=45.0)
    assert np.abs(driven - given).max() < 0.02


def test_tones_are_held_where_they_are_asked_to_be() -> None:
    map = smooth_map(SIDE, SIDE)
    for gamma in (1.0, 1.7):
        free, held = (
            compute("contrast", {"map": map}, contrast=4.0, gamma=gamma, keep_within=k) for k in (False, True)
        )
        assert free.min() < 0 and free.max() > 1 and np.abs(held - np.clip(free, 0, 1)).max() < 1e-6
    values = {"measure": "percentiles", "left_out": 0.2, "low": 0.8, "high": 0.1}
    free, held = (compute("normalise", {"map": map}, **values, keep_within=k) for k in (False, True))
    assert free.max() > 0.85 and np.abs(held - np.clip(free, 0.1, 0.8)).max() < 1e-6


def test_curvature_turns_over_spreads_and_is_held() -> None:
    height = smooth_map(SIDE, SIDE)
    plain, flipped = (compute("curvature", {"height": height}, flipped=f) for f in (False, True))
    assert np.array_equal(plain["ridges"], flipped["cavities"])
    held = compute("curvature", {"height": height}, strength=3.0, keep_within=True)["curvature"]
    assert held.min() == -1 and held.max() == 1
    ridge = np.zeros((SIDE, SIDE), np.float32)
    ridge[:, 46:50] = 0.02
    breadths = []
    for spread in (0.0, 0.05):
        made = compute("curvature", {"height": ridge}, spread=spread)["ridges"]
        breadths.append(int((made[40] > 0.2 * made.max()).sum()))
    assert breadths[1] - breadths[0] == pytest.approx(2 * 0.05 * SIDE, abs=3)
    soft = compute("curvature", {"height": ridge}, softness=0.02)["ridges"][40]
    hard = compute("curvature", {"height": ridge})["ridges"][40]
    assert np.abs(np.diff(soft)).max() < np.abs(np.diff(hard)).max()


def test_what_spreads_fades_along_its_curve() -> None:
    mask = np.zeros((SIDE, SIDE), np.float32)
    mask[40:56, 40:56] = 1
    curve = ((0.0, 0.0, 0.0), (0.5, 0.9, 0.0), (1.0, 1.0, 0.0))
    made = compute(
        "spread", {"mask": mask, "carried": mask * 0.7}, limit=0.2, curve=curve, carried_fades=True
    )
    wanted = evaluate_curve(curve, 1 - made["distance"].astype(np.float64))
    assert np.abs(made["fading"] - wanted).max() < 0.01
    assert np.abs(made["carried"] - 0.7 * made["fading"])[made["distance"] < 0.99].max() < 1e-5
    plain = compute("spread", {"mask": mask}, limit=0.2)
    assert np.abs(plain["fading"] - (1 - plain["distance"])).max() < 1e-6


def test_stains_that_wander_leave_their_column_and_stay_whole() -> None:
    source = np.zeros((SIDE, SIDE), np.float32)
    source[4, 46:50] = 1
    level = {"height": np.zeros((SIDE, SIDE), np.float32), "source": source}
    columns = np.arange(SIDE) - 47.5
    ways = []
    for wander in (0.0, 0.6):
        made = compute("runs", level, wander=wander, streaks=0.0, length=2.0)
        rows = made[5:60]
        ways.append((rows * columns).sum(axis=1) / rows.sum(axis=1))
        assert rows.sum(axis=1).min() > 0.3 * rows.sum(axis=1).max()
    assert np.abs(ways[0]).max() < 0.1 and np.ptp(ways[1]) > 2
    assert np.abs(np.diff(ways[1])).max() < 1.5
