"""Paths laid, bent, weighed and drawn, against brute force and what they are said to do."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from reedloom.kernels.points import make_points, starts_of
from reedloom.kinds.path.draw_paths import JOINS
from reedloom.kinds.path.path_parts import make_even_paths, make_paths
from reedloom.laws.draws import flow_of

SIZE = (96, 96)


def some_strokes(count: int = 7, seed: int = 2) -> np.ndarray:
    """Bent paths all over the tile, some across the seam, of uneven width and height."""
    chance = np.random.default_rng(seed)
    turn = chance.random((count, 1)) * 6.3 + np.linspace(0, 1, 9) * chance.normal(0, 2, (count, 1))
    u = chance.random((count, 1)) + np.cumsum(np.cos(turn), 1) * 0.06
    v = chance.random((count, 1)) + np.cumsum(np.sin(turn), 1) * 0.06
    paths = make_even_paths(u, v, np.arange(count))
    paths["width"] = chance.uniform(0.4, 1.2, len(paths))
    paths["height"] = np.repeat(chance.uniform(0.3, 1, count), 9)
    return paths


def brute(path: np.ndarray, size: tuple[int, int], times: int, width: float) -> tuple[np.ndarray, np.ndarray]:
    """The height of a domed stroke, and where it is, at many places in each sample."""
    across, down = size[0] * times, size[1] * times
    every_x, every_y = (np.arange(across) + 0.5) / times, (np.arange(down) + 0.5) / times
    best, height = np.full((down, across), np.inf), np.zeros((down, across))
    for i in (-1, 0, 1):
        for j in (-1, 0, 1):
            for a, b in pairwise(path):
                ax, ay, bx, by = (
                    p * n + s * n
                    for p, n, s in (
                        (a["u"] % 1, size[0], i), (a["v"] % 1, size[1], j),
                        (a["u"] % 1 + b["u"] - a["u"], size[0], i),
                        (a["v"] % 1 + b["v"] - a["v"], size[1], j),
                    )
                )  # fmt: skip
                far = max(a["width"], b["width"]) * width / 2 * size[0] + 1
                near = np.ix_(
                    (every_y > min(ay, by) - far) & (every_y < max(ay, by) + far),
                    (every_x > min(ax, bx) - far) & (every_x < max(ax, bx) + far),
                )
                if 0 in (near[0].size, near[1].size):
                    continue
                y, x = every_y[near[0]], every_x[near[1]]
                way = np.array([bx - ax, by - ay])
                t = np.clip(((x - ax) * way[0] + (y - ay) * way[1]) / max(way @ way, 1e-12), 0, 1)
                away = np.hypot(x - ax - t * way[0], y - ay - t * way[1])
                radius = (a["width"] + t * (b["width"] - a["width"])) * width / 2 * size[0]
                nearer = away - radius < best[near]
                inside = np.clip(1 - away / np.maximum(radius, 1e-9), 0, 1)
                dome = np.sqrt(np.maximum(0, 1 - (1 - inside) ** 2)) * (away < radius)
                best[near] = np.where(nearer, away - radius, best[near])
                height[near] = np.where(nearer, dome * a["height"], height[near])

    return height, best < 0


def averaged(map: np.ndarray, times: int) -> np.ndarray:
    """The mean of the places in each sample."""
    height, width = map.shape
    return map.reshape(height // times, times, width // times, times).mean(axis=(1, 3))


@pytest.mark.parametrize("width", [0.004, 0.03, 0.1])
def test_strokes_are_those_of_a_slow_direct_renderer(width: float) -> None:
    paths, times = some_strokes(), 6
    shape = (96 * times, 96 * times)
    wanted, covered = {join: np.zeros(shape) for join in JOINS}, np.zeros(shape, bool)
    for first, last in pairwise(starts_of(paths)):
        height, cover = brute(paths[first:last], SIZE, times, width)
        wanted["over"] = np.where(cover, height, wanted["over"])
        wanted["highest"] = np.maximum(wanted["highest"], height)
        wanted["add"] = wanted["add"] + height
        covered |= cover
    for join, heights in wanted.items():
        made = flow_of("draw_paths", {"paths": paths}, {"width": width, "join": join}, SIZE)
        for map, places in ((made["height"], heights), (made["mask"], covered)):
            truth = averaged(places.astype(float), times)
            assert np.sqrt(np.mean((map - truth) ** 2)) < 0.025, join
            assert abs(map.mean() - truth.mean()) < 0.03 * truth.mean() + 1e-4, join


@pytest.mark.parametrize("ends", ["round", "flat"])
def test_strokes_look_the_same_however_many_corners_they_have(ends: str) -> None:
    """Pieces far shorter than a sample, of a straight path and of an arc across the seam, and longer ones."""
    t = np.linspace(0, 1, 1601)
    straight = 0.12 + 0.7 * t, 0.3 + 0.25 * t
    arc = 1.0 + 0.3 * np.cos(4 * t), 0.5 + 0.3 * np.sin(4 * t)
    drop = 0.3 + 0.2 * t, 0.5 + 0.1 * t
    for u, v in (straight, arc, drop):
        drawn = []
        for step in (1, 4, 20, 25 if u is arc[0] else 1600):
            paths = make_paths([(u[::step], v[::step])])
            paths["width"] = 0.2 + 0.3 * t[::step] if u is drop[0] else 1 - 0.5 * t[::step]
            drawn.append(flow_of("draw_paths", {"paths": paths}, {"width": 0.05, "ends": ends}, SIZE))
        for made in drawn[1:]:
            for name in ("height", "mask"):
                assert np.abs(made[name] - drawn[0][name]).max() < 0.05, name
                assert np.sqrt(np.mean((made[name] - drawn[0][name]) ** 2)) < 2e-3, name


def test_a_thin_stroke_weighs_the_same_at_every_size() -> None:
    paths = some_strokes()
    drawn = [flow_of("draw_paths", {"paths": paths}, {"width": 0.006}, (n, n)) for n in (64, 256, 1024)]
    for name in ("height", "mask"):
        means = [float(made[name].mean()) for made in drawn]
        assert np.ptp(means) < 0.05 * means[-1], (name, means)


def test_later_strokes_pass_over_and_can_rest_on_those_below() -> None:
    t = np.linspace(0, 1, 5)
    cross = make_paths([(t, np.full(5, 0.5)), (np.full(5, 0.5), t)])
    cross["height"][5:] = 0.4
    for resting, wanted in ((0.0, 0.4), (1.0, 1.4)):
        made = flow_of(
            "draw_paths", {"paths": cross}, {"width": 0.2, "resting": resting, "profile": "flat"}, SIZE
        )
        assert made["height"][48, 48] == pytest.approx(wanted) and made["id"][48, 48] == 2
        assert made["height"][48, 10] == pytest.approx(1.0) and made["height"][10, 48] == pytest.approx(0.4)
        assert made["along"][48, 24] == pytest.approx(0.255, abs=0.01)
        # The left of a path that runs to the right is above it.
        assert made["across"][41, 20] < 0.2 and made["across"][54, 20] > 0.8
    high = flow_of("draw_paths", {"paths": cross}, {"width": 0.2, "join": "highest", "profile": "flat"}, SIZE)
    assert high["id"][48, 48] == 1


def test_bridges_go_from_one_path_to_the_other_the_shortest_way() -> None:
    rings = flow_of("circle_path", None, {"rings": 2, "radius": 0.1, "ring_spacing": 0.2})
    made = flow_of("between_paths", {"paths": rings}, {"count": 500, "corners": 5})
    u, v = made["u"].reshape(-1, 5), made["v"].reshape(-1, 5)
    away = np.hypot(u - 0.5, v - 0.5)
    assert len(u) == 500 and np.allclose(away, [[0.1, 0.15, 0.2, 0.25, 0.3]], atol=1e-3)
    t = np.linspace(0, 1, 3)
    sides = make_paths([(np.full(3, 0.9), t), (np.full(3, 0.2), t)])
    over = flow_of("between_paths", {"paths": sides}, {"count": 9, "corners": 2, "way_to": 0.5})
    assert np.allclose(over["u"].reshape(-1, 2), [[0.9, 1.05]])
    alone = flow_of("between_paths", {"paths": sides[:3]}, None)
    assert len(alone) == 0


def test_paths_are_bent_to_their_side_and_hold_still_at_their_ends() -> None:
    t = np.linspace(0, 1, 101)
    line = make_paths([(t, np.full(101, 0.5))])
    level = np.ones((32, 64), np.float32)
    made = flow_of(
        "warp_paths", {"paths": line, "aside": level}, {"strength": 0.1, "still_start": 0.3}, (64, 32),
        physical=(2.0, 1.0),
    )  # fmt: skip
    moved = (made["v"] - 0.5) * 0.5  # in widths
    assert moved[0] == 0 and np.allclose(moved[31:], 0.1) and np.all(np.diff(moved[:31]) > 0)


def test_paths_grow_along_a_flow_and_are_as_long_as_they_are_told() -> None:
    points = make_points(np.array([0.2, 0.7]), np.array([0.4, 0.9]))
    points["size"] = [1, 0.5]
    down = np.zeros((32, 32, 2), np.float32)
    down[..., 1] = 3
    values: dict[str, Any] = {"wander": 0.0, "uneven": 0.0, "length": 0.3, "corners": 7}
    made = flow_of("grow_paths", {"points": points, "along": down}, values)
    u, v = made["u"].reshape(2, 7), made["v"].reshape(2, 7)
    assert np.allclose(u, [[0.2], [0.7]]) and np.allclose(v[:, -1] - v[:, 0], [0.3, 0.15])
    curled = flow_of("grow_paths", {"points": points}, {**values, "curl": 2.0, "corners": 200})
    ends = [np.hypot(np.ptp(curled[axis].reshape(2, 200)[:, [0, -1]], axis=1), 0) for axis in ("u", "v")]
    assert np.max(ends) < 0.01  # a whole turn comes back to where it began


def test_paths_are_weighed_along_their_length_not_by_corner() -> None:
    uneven = make_paths([(np.array([0.0, 0.1, 1.0]), np.zeros(3))])
    rising = ((0.0, 0.0, 0.0), (1.0, 1.0, 0.0))
    made = flow_of("weigh_paths", {"paths": uneven}, {"width_along": rising})
    assert np.allclose(made["width"], [0, 0.1, 1], atol=0.01) and np.allclose(made["height"], 1)


def test_branches_begin_on_their_path_and_leave_it_at_their_angle() -> None:
    t = np.linspace(0, 1, 33)
    line = make_paths([(t, np.full(33, 0.5))])
    plain: dict[str, Any] = {
        "levels": 1, "spacing": 0.1, "bare": 0.2, "angle": 60.0, "angle_uneven": 0.0, "curl": 0.0,
        "wander": 0.0, "shorter": 0.0, "narrower": 0.5, "corners": 4,
    }  # fmt: skip
    made = flow_of("branch_paths", {"paths": line}, plain)
    branches = made[:-33].reshape(-1, 4)
    assert len(branches) == 8 and np.array_equal(made[-33:], line)
    assert np.allclose(branches["v"][:, 0], 0.5) and np.all(np.diff(branches["u"][:, 0]) > 0.04)
    assert branches["u"][0, 0] > 0.2 and np.allclose(branches["width"][:, 0], 0.5)
    way_u, way_v = (branches[axis][:, -1] - branches[axis][:, 0] for axis in ("u", "v"))
    turns = np.degrees(np.arctan2(way_v, way_u))
    assert np.allclose(turns, np.tile([60, -60], 4), atol=0.1)
    assert len(np.unique(made["path"])) == 9
    twice = flow_of("branch_paths", {"paths": line}, plain | {"levels": 2})
    # What branches of branches come to changes none of the first.
    assert np.array_equal(twice[-len(made) :][["u", "v"]], made[["u", "v"]]) and len(twice) > len(made)


def test_paths_are_kept_by_chance_and_length_and_trimmed_by_share() -> None:
    paths = some_strokes(400)
    half = flow_of("keep_paths", {"paths": paths}, {"share": 0.5})
    others = flow_of("keep_paths", {"paths": paths}, {"share": 0.5, "others": True})
    assert 160 < len(np.unique(half["path"])) < 240
    assert not set(half["path"]) & set(others["path"]) and len(half) + len(others) == len(paths)
    lines = make_paths([(np.linspace(0, 0.2, 3), np.zeros(3)), (np.linspace(0, 0.8, 5), np.zeros(5))])
    long = flow_of("keep_paths", {"paths": lines}, {"shortest": 0.5})
    assert set(long["path"]) == {1}
    part = flow_of("trim_paths", {"paths": lines}, {"cut_from": 0.25, "cut_to": 0.75, "corners": 3})
    assert np.allclose(part["u"], [0.05, 0.1, 0.15, 0.2, 0.4, 0.6], atol=1e-6)


def test_strokes_end_round_or_flat_and_closed_ones_do_not_end() -> None:
    t = np.linspace(0.25, 0.75, 5)
    line = make_paths([(t, np.full(5, 0.5))])
    for ends, extra in (("round", np.pi * 0.1**2), ("flat", 0.0)):
        made = flow_of("draw_paths", {"paths": line}, {"width": 0.2, "profile": "flat", "ends": ends}, SIZE)
        assert made["mask"].mean() == pytest.approx(0.5 * 0.2 + extra, rel=0.01)
    slant = make_paths([(0.3 + 0.4 * np.linspace(0, 1, 3), 0.3 + 0.3 * np.linspace(0, 1, 3))])
    made = flow_of("draw_paths", {"paths": slant}, {"width": 0.2, "profile": "flat", "ends": "flat"}, SIZE)
    assert made["mask"].mean() == pytest.approx(0.5 * 0.2, rel=0.01)
    corner = make_paths([(np.array([0.3, 0.8, 0.5, 0.3]), np.array([0.3, 0.4, 0.8, 0.3]))])
    flat, round_ = (
        flow_of("draw_paths", {"paths": corner}, {"width": 0.15, "ends": ends}, SIZE)["mask"]
        for ends in ("flat", "round")
    )
    assert np.array_equal(flat, round_)


def test_the_order_of_paths_and_how_far_they_are_are_told() -> None:
    t = np.linspace(0, 1, 5)
    lines = make_paths([(t, np.full(5, 0.25)), (t, np.full(5, 0.75))])
    made = flow_of("draw_paths", {"paths": lines}, {"width": 0.1}, SIZE)
    assert {0.0, 0.5, 1.0} == set(np.unique(made["order"]))
    assert made["order"][24, 0] == 0.5 and made["order"][72, 0] == 1.0
    for size in (32, 256):  # also where a stroke is far thinner than a sample
        made = flow_of("draw_paths", {"paths": lines}, {"width": 0.001}, (size, size))
        v = (np.arange(size) + 0.5) / size
        wanted = np.minimum(abs(v - 0.25), abs(v - 0.75))
        assert np.abs(made["distance"][:, 0] - wanted).max() < 0.6 / size


def test_points_along_paths_reach_both_ends_and_fade_there() -> None:
    line = make_paths([(np.linspace(0.1, 0.9, 9), np.full(9, 0.5))])
    values = {"count": 5, "to_ends": True, "fade_start": 0.5, "fade_end": 0.25}
    points = flow_of("path_points", {"paths": line}, values, SIZE)
    assert points["u"] == pytest.approx([0.1, 0.3, 0.5, 0.7, 0.9])
    assert points["size"] == pytest.approx([0, 0.5, 1, 1, 0], abs=1e-6)
    assert points["turn"] == pytest.approx(np.zeros(5), abs=1e-6)


def test_maps_are_read_along_each_path_if_asked() -> None:
    ramp = np.broadcast_to((np.arange(96) + 0.5).astype(np.float32) / 96, (96, 96)).copy()
    lines = make_paths([(np.linspace(0.6, 0.7, 9), np.full(9, 0.2)), (np.full(9, 0.1), np.linspace(0, 1, 9))])
    inputs = {"paths": lines, "width_map": ramp}
    along = flow_of("weigh_paths", inputs, {"read": "along"}, SIZE)
    in_place = flow_of("weigh_paths", inputs, {}, SIZE)
    assert along["width"][1:8] == pytest.approx(np.linspace(0, 1, 9)[1:8], abs=0.01)
    assert along["width"][10:17] == pytest.approx(np.linspace(0, 1, 9)[1:8], abs=0.01)
    assert in_place["width"][9:] == pytest.approx(np.full(9, 0.1), abs=0.01)
    assert in_place["width"][:9] == pytest.approx(np.linspace(0.6, 0.7, 9), abs=0.01)
