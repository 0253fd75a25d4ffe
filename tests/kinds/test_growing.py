"""Paths that grow: where they end, and that each keeps what is its own when others come or go."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from reedloom.kernels.points import make_points, starts_of
from reedloom.kernels.spacing import ends_apart
from reedloom.kinds.path.path_parts import make_paths
from reedloom.laws.draws import flow_of, smooth_map, some_points

SIZE = (64, 64)


def grown(points: np.ndarray, inputs: dict[str, Any] | None = None, **values: Any) -> np.ndarray:
    """Paths grown from points."""
    found: np.ndarray = flow_of("grow_paths", {"points": points, **(inputs or {})}, values, SIZE)
    return found


def test_paths_end_at_a_mask_between_their_corners() -> None:
    points = make_points(np.array([0.1, 0.1, 0.8]), np.array([0.2, 0.6, 0.8]))
    ramp = np.broadcast_to(((np.arange(64) + 0.5) / 64).astype(np.float32), (64, 64)).copy()
    paths = grown(points, {"mask": 1 - ramp}, length=0.6, uneven=0.0, wander=0.0, level=0.5, corners=7)
    starts = starts_of(paths)
    assert len(starts) - 1 == 2 and set(paths["id"]) == {0, 1}  # the third begins where none may grow
    assert paths["u"][starts[1:] - 1] == pytest.approx(0.5, abs=1e-3)


def test_paths_end_where_the_flow_is_calm_if_asked() -> None:
    flow = np.zeros((64, 64, 2), np.float32)
    flow[:, 16:48, 0] = 0.2
    points = make_points(np.array([0.3]), np.array([0.5]))
    for end, wanted in ((True, 0.75), (False, 0.9)):
        paths = grown(
            points, {"along": flow}, length=0.6, uneven=0.0, wander=0.0, corners=61, end_in_calm=end
        )
        assert paths["u"][-1] == pytest.approx(wanted, abs=0.02)


def brute(starts: np.ndarray, x: np.ndarray, y: np.ndarray, apart: float, height: float) -> list[float]:
    """Where each path ends, in pieces, looking at every place laid before."""
    laid, ends = np.zeros((0, 2)), []
    for a, b in pairwise(starts):
        own: list[list[float]] = []
        end = 0.0
        for k in range(a, b):
            step = 0.0 if k == b - 1 else float(np.hypot(x[k + 1] - x[k], y[k + 1] - y[k]))
            places = max(1, int(np.ceil(step / (apart / 2)))) if k < b - 1 else 1
            for n in range(places):
                t = n / places
                at = (
                    [x[k], y[k]]
                    if k == b - 1
                    else [x[k] + t * (x[k + 1] - x[k]), y[k] + t * (y[k + 1] - y[k])]
                )
                way = np.abs(laid - at)
                way = np.minimum(way % [1, height], [1, height] - way % [1, height])
                if len(laid) and np.hypot(way[:, 0], way[:, 1]).min() < apart:
                    break
                own.append(at)
                end = k - a + t
            else:
                continue
            break
        ends.append(end)
        laid = np.concatenate([laid, np.array(own).reshape(-1, 2)])
    return ends


@pytest.mark.parametrize(("apart", "height"), [(0.02, 1.0), (0.07, 0.5), (0.3, 2.0), (0.8, 1.0)])
def test_paths_kept_apart_end_where_a_slow_search_says(apart: float, height: float) -> None:
    chance = np.random.default_rng(8)
    u = chance.random((12, 1)) + np.cumsum(chance.normal(0, 0.05, (12, 9)), axis=1)
    v = (chance.random((12, 1)) + np.cumsum(chance.normal(0, 0.05, (12, 9)), axis=1)) * height
    u[3, 4:] = u[3, 4:5]  # pieces of no length
    v[3, 4:] = v[3, 4:5]
    starts = np.arange(0, 12 * 9 + 1, 9)
    piece, share = ends_apart(starts, u.reshape(-1), v.reshape(-1), apart, height)
    assert piece + share == pytest.approx(brute(starts, u.reshape(-1), v.reshape(-1), apart, height))


def test_grown_paths_kept_apart_are_nowhere_nearer_than_that() -> None:
    paths = grown(some_points(60), length=0.5, wander=1.0, apart=0.03, corners=24)
    starts = starts_of(paths)
    courses = [np.stack([paths["u"][a:b], paths["v"][a:b]], axis=1) for a, b in pairwise(starts)]
    assert 10 < len(courses) < 60
    for i, one in enumerate(courses):
        for other in courses[:i]:
            way = one[:, None] - other[None]
            assert np.hypot(*np.moveaxis(way - np.round(way), -1, 0)).min() > 0.03 * 0.85


def with_more(kind: str, more: int) -> np.ndarray:
    """What a kind makes of three paths, or points, and of so many more behind them."""
    t = np.linspace(0, 1, 33)
    courses = [(0.1 * n + 0.5 * t, 0.2 * n + 0.1 * np.sin(5 * t + n)) for n in range(3 + more)]
    inputs: dict[str, Any] = {"paths": make_paths(courses)}
    values: dict[str, Any] = {}
    if kind == "grow_paths":
        inputs = {"points": make_points(*np.random.default_rng(1).random((2, 5)))[: 3 + more]}
    elif kind == "warp_paths":
        inputs, values = inputs | {"aside": smooth_map(64, 64)}, {"apart": 0.5}
    elif kind == "weigh_paths":
        values = {"width_uneven": 1.0, "height_uneven": 1.0}
    elif kind == "keep_paths":
        values = {"share": 0.9}
    elif kind == "trim_paths":
        values = {"start_uneven": 1.0, "end_uneven": 1.0}
    made: np.ndarray = flow_of(kind, inputs, values, SIZE)
    return made


@pytest.mark.parametrize(
    "kind",
    [
        "grow_paths", "branch_paths", "warp_paths", "weigh_paths", "keep_paths", "trim_paths",
        "smooth_paths", "twist_paths", "path_points",
    ],
)  # fmt: skip
def test_one_path_more_changes_no_other(kind: str) -> None:
    few, many = with_more(kind, 0), with_more(kind, 2)
    for number in np.unique(few["id"]):
        here, there = few[few["id"] == number], many[many["id"] == number]
        assert len(here) == len(there)
        for name in set(few.dtype.names or ()) - {"path"}:
            assert np.array_equal(here[name], there[name]), (number, name)
    assert len(np.unique(many["id"])) > len(np.unique(few["id"]))


def test_a_path_left_out_leaves_the_others_their_chances() -> None:
    t = np.linspace(0, 1, 9)
    paths = make_paths([(t, np.full(9, 0.1 + 0.2 * n)) for n in range(4)])
    fewer = paths[paths["path"] != 1]
    values = {"width": 0.1, "profile": "flat"}
    all_of, left = (flow_of("draw_paths", {"paths": p}, values, SIZE)["random"] for p in (paths, fewer))
    for row in (6, 32, 45):
        assert np.array_equal(all_of[row], left[row])


def test_parts_end_at_a_mask_and_paths_are_kept_by_their_order() -> None:
    t = np.linspace(0, 1, 9)
    lines = make_paths([(0.1 + 0.8 * t, np.full(9, 0.1 + 0.2 * n)) for n in range(4)])
    ramp = np.broadcast_to(((np.arange(64) + 0.5) / 64).astype(np.float32), (64, 64)).copy()
    trimmed = flow_of("trim_paths", {"paths": lines, "mask": 1 - ramp}, {"cut_to": 1.0, "level": 0.4}, SIZE)
    starts = starts_of(trimmed)
    assert len(starts) == 5 and trimmed["u"][starts[1:] - 1] == pytest.approx(0.6, abs=1e-3)
    kept = flow_of("keep_paths", {"paths": lines}, {"order_from": 0.3, "order_to": 0.7}, SIZE)
    assert set(kept["id"]) == {1, 2}
    others = flow_of("keep_paths", {"paths": lines}, {"order_from": 0.3, "others": True}, SIZE)
    assert set(others["id"]) == {0}
