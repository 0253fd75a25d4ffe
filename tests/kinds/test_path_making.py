"""Paths made of maps and points, filled, smoothed and twisted, against slow references."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from scipy.sparse.csgraph import minimum_spanning_tree

from reedloom.kernels.contours import contours_of
from reedloom.kernels.places import tile_places
from reedloom.kernels.points import starts_of
from reedloom.kinds.path.path_parts import make_paths, runs_of
from reedloom.kit.context import Context
from reedloom.laws.draws import flow_of, run_as_it_flows, smooth_map, some_loops, some_points
from weaving import KINDS

SQUARE = Context(96, 96)


def circle(u: float, v: float, radius: float, corners: int = 200) -> tuple[np.ndarray, np.ndarray]:
    t = np.linspace(0, 2 * np.pi, corners + 1)
    return u + radius * np.cos(t), v + radius * np.sin(t)


# -- contours ------------------------------------------------------------------------------------------


def lines_of(map: np.ndarray, level: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The lines along a level of a map."""
    context = Context(map.shape[1], map.shape[0])
    return contours_of(map, level, context.bands, context.stop.check)


@pytest.mark.parametrize("middle", [(0.5, 0.5), (0.02, 0.97)])
def test_contours_of_a_cone_are_circles(middle: tuple[float, float]) -> None:
    """Also where the cone stands on the seam: one closed path, and what is higher lies at its left."""
    away = tile_places(96, 96).astype(np.float64) - middle
    away -= np.round(away)
    cone = (1 - 2 * np.hypot(away[..., 0], away[..., 1])).astype(np.float32)
    paths = flow_of("contour_path", {"map": cone}, {"level": 0.5, "smoothness": 0.0}, (96, 96))
    starts = starts_of(paths)
    assert len(starts) == 2
    du, dv = paths["u"] - middle[0], paths["v"] - middle[1]
    whole = np.round([du.mean(), dv.mean()])
    radius = np.hypot(du - whole[0], dv - whole[1])
    assert np.abs(radius - 0.25).max() < 0.01
    assert runs_of(SQUARE, paths, starts)[1][0] == pytest.approx(2 * np.pi * 0.25, rel=0.01)
    area = 0.5 * np.sum(du[:-1] * dv[1:] - du[1:] * dv[:-1])
    assert area == pytest.approx(-np.pi * 0.25**2, rel=0.05)  # against the clock, as rows run down


def test_every_crossing_lies_on_one_contour_and_all_come_round() -> None:
    map = np.random.default_rng(4).random((24, 31), np.float32)
    line, x, y = lines_of(map, 0.45)
    high = map > 0.45
    crossings = sum(int((high != np.roll(high, -1, axis)).sum()) for axis in (0, 1))
    ends = [0, *(np.flatnonzero(np.diff(line)) + 1), len(line)]
    assert sum(b - a - 1 for a, b in pairwise(ends)) == crossings
    seen = set()
    for a, b in pairwise(ends):
        turns = ((x[b - 1] - x[a]) / 31, (y[b - 1] - y[a]) / 24)
        assert np.abs(turns - np.round(turns)).max() < 1e-9
        assert max(np.abs(np.diff(x[a:b])).max(), np.abs(np.diff(y[a:b])).max()) <= 1
        seen |= {
            (round(p % 31, 6), round(q % 24, 6)) for p, q in zip(x[a : b - 1], y[a : b - 1], strict=True)
        }
    assert len(seen) == crossings
    assert flow_of("contour_path", {"map": map * 0}, {}, (31, 24)).size == 0


def test_a_saddle_joins_what_its_middle_is_nearer_to() -> None:
    for first, second in (((1, 1), (2, 2)), ((1, 2), (2, 1))):
        map = np.zeros((6, 6), np.float32)
        map[first] = map[second] = 1
        for level, count in ((0.4, 1), (0.6, 2)):
            assert lines_of(map, level)[0][-1] + 1 == count


def test_several_levels_are_nested_and_short_ones_left_out() -> None:
    hills = smooth_map(96, 96)
    many = flow_of("contour_path", {"map": hills}, {"level": 0.3, "levels": 4, "highest": 0.7}, (96, 96))
    assert np.unique(np.round(many["height"], 4)).tolist() == pytest.approx([0.3, 0.4333, 0.5667, 0.7])
    long = flow_of("contour_path", {"map": hills}, {"level": 0.3, "shortest": 0.9}, (96, 96))
    lengths = runs_of(SQUARE, long, starts_of(long))[1]
    assert len(lengths) and lengths.min() > 0.85


# -- filling -------------------------------------------------------------------------------------------


def inside(u: np.ndarray, v: np.ndarray, path: np.ndarray, rule: str) -> np.ndarray:
    """Whether places lie within a path, by counting what a ray to the right crosses, on every nearby tile."""
    within = np.zeros(u.shape, bool)
    for across in (-1, 0, 1):
        for down in (-1, 0, 1):
            wound, crossed = np.zeros(u.shape, int), np.zeros(u.shape, int)
            for a, b in pairwise(path):
                low, high = a["v"] + down, b["v"] + down
                cuts = (low <= v) != (high <= v)
                at = a["u"] + across + (v - low) / np.where(high == low, 1, high - low) * (b["u"] - a["u"])
                right = cuts & (at > u)
                wound += np.where(right, 1 if high > low else -1, 0)
                crossed += right
            within |= (wound != 0) if rule == "winding" else crossed % 2 == 1
    return within


@pytest.mark.parametrize("rule", ["odd crossings", "winding"])
def test_filled_paths_cover_what_a_point_in_polygon_test_says(rule: str) -> None:
    chance = np.random.default_rng(6)
    rough = chance.random((2, 9)) * 0.7 + 0.6
    u, v = (np.append(row, row[0]) for row in rough)
    paths = np.concatenate([some_loops(), make_paths([(u, v)])])
    paths["path"][len(some_loops()) :] = 2
    times, n = 6, 64
    fine = tile_places(n * times, n * times).astype(np.float64)
    covers = [inside(fine[..., 0], fine[..., 1], paths[a:b], rule) for a, b in pairwise(starts_of(paths))]
    made = flow_of("fill_paths", {"paths": paths}, {"inside": rule}, (n, n))
    shares = [c.reshape(n, times, n, times).mean(axis=(1, 3)) for c in covers]
    alone = [
        flow_of("fill_paths", {"paths": paths[a:b]}, {"inside": rule}, (n, n))["mask"]
        for a, b in pairwise(starts_of(paths))
    ]
    for got, wanted in zip(alone, shares, strict=True):
        assert np.abs(got - wanted).max() < 0.2 and np.abs(got - wanted).mean() < 0.003
    whole = 1 - np.prod([1 - a for a in alone], axis=0)
    assert np.abs(made["mask"] - whole).max() < 1e-5
    deep = [c.reshape(n, times, n, times).min(axis=(1, 3)) for c in covers]
    assert np.all(made["id"][deep[2]] == 3) and np.all(made["id"][whole == 0] == 0)
    assert np.all(np.sign(made["distance"][deep[2]]) < 0)


def test_a_path_that_does_not_close_is_told() -> None:
    kind = KINDS.get("fill_paths")
    paths = make_paths([circle(0.5, 0.5, 0.2), (np.array([0.1, 0.9]), np.array([0.2, 0.3]))])
    made = run_as_it_flows(kind, {"paths": paths}, kind.defaults(), (64, 64))
    assert made.notes == ("1 of 2 paths do not close, and are not filled.",)
    assert made.outputs["mask"].mean() == pytest.approx(np.pi * 0.04, rel=0.01)
    local = made.outputs["local_place"][made.outputs["id"] > 0]
    assert local.min() > -0.03 and local.max() < 1.03 and np.ptp(local) > 0.9


# -- joining points ------------------------------------------------------------------------------------


def apart(points: np.ndarray) -> np.ndarray:
    """Distances between all points, around the tile."""
    du, dv = (points[n][:, None] - points[n][None] for n in ("u", "v"))
    return np.hypot(du - np.round(du), dv - np.round(dv))


def test_the_least_tree_is_as_short_as_can_be() -> None:
    points = some_points(60)
    paths = flow_of("points_path", {"points": points}, {"way": "least tree"}, (64, 64))
    starts = starts_of(paths)
    total = runs_of(SQUARE, paths, starts)[1].sum()
    assert total == pytest.approx(minimum_spanning_tree(apart(points)).sum(), rel=1e-6)
    near = flow_of("points_path", {"points": points}, {"way": "least tree", "longest": 0.08}, (64, 64))
    du, dv = np.diff(near["u"]), np.diff(near["v"])
    steps = np.hypot(du, dv)[np.diff(near["path"]) == 0]
    assert len(steps) and steps.max() <= 0.08


def test_points_are_joined_in_order_and_to_the_nearest_left() -> None:
    points, distances = some_points(30), apart(some_points(30))
    paths = flow_of("points_path", {"points": points}, {"way": "in order", "closed": True}, (64, 64))
    assert np.allclose(paths["u"][:-1] % 1, points["u"]) and len(paths) == 31
    assert np.hypot(np.diff(paths["u"]), np.diff(paths["v"])) == pytest.approx(
        [distances[i, (i + 1) % 30] for i in range(30)]
    )
    paths = flow_of("points_path", {"points": points}, {"way": "nearest next"}, (64, 64))
    at, left = 0, set(range(1, 30))
    for corner in paths[1:]:
        at = min(left, key=lambda i: distances[at, i])
        left.remove(at)
        assert (corner["u"] - points["u"][at]) % 1 == pytest.approx(0, abs=1e-6) or (
            corner["u"] - points["u"][at]
        ) % 1 == pytest.approx(1, abs=1e-6)


# -- smoothing and twisting ----------------------------------------------------------------------------


def test_smoothing_lays_corners_evenly_keeps_ends_and_rounds_closed_paths_everywhere() -> None:
    corner = make_paths([(np.array([0.1, 0.5, 0.5]), np.array([0.2, 0.2, 0.7]))])
    even = flow_of("smooth_paths", {"paths": corner}, {"spacing": 0.01, "rounds": 0}, (64, 64))
    steps = np.hypot(np.diff(even["u"]), np.diff(even["v"]))
    assert np.ptp(steps) < 0.004 and abs(np.median(steps) - 0.01) < 1e-3
    soft = flow_of("smooth_paths", {"paths": corner}, {"spacing": 0.01, "rounds": 60}, (64, 64))
    assert (soft["u"][[0, -1]].tolist(), soft["v"][[0, -1]].tolist()) == ([0.1, 0.5], [0.2, 0.7])
    assert runs_of(SQUARE, soft, starts_of(soft))[1][0] < 0.89
    box = make_paths([(np.array([0.2, 0.6, 0.6, 0.2, 0.2]), np.array([0.2, 0.2, 0.6, 0.6, 0.2]))])
    ring = flow_of("smooth_paths", {"paths": box}, {"spacing": 0.02, "rounds": 200}, (64, 64))
    away = np.hypot(ring["u"] - 0.4, ring["v"] - 0.4)
    assert away.max() / away.min() < 1.12  # the corner where it begins is as round as the others


@pytest.mark.parametrize("way", ["twisted", "braided"])
def test_strands_run_around_their_path_and_over_one_another(way: str) -> None:
    paths = make_paths([circle(0.5, 0.5, 0.3)])
    values = {"way": way, "strands": 3, "radius": 0.02, "turn_length": 0.2}
    made = flow_of("twist_paths", {"paths": paths}, values, (64, 64))
    starts = starts_of(made)
    assert len(starts) == 4
    for a, b in pairwise(starts):
        strand = made[a:b]
        aside = np.hypot(strand["u"] - 0.5, strand["v"] - 0.5) - 0.3
        assert aside.min() == pytest.approx(-0.02, abs=2e-3) and aside.max() == pytest.approx(0.02, abs=2e-3)
        crossings = np.flatnonzero(np.diff(np.sign(aside)))
        assert 2 * 8 <= len(crossings) <= 2 * 10  # a circle of 1.88 has nine turns of 0.2
        assert np.hypot(strand["u"][0] - strand["u"][-1], strand["v"][0] - strand["v"][-1]) < 1e-3
        assert strand["height"].min() == pytest.approx(0.4, abs=0.02)
        assert strand["height"].max() == pytest.approx(1.0, abs=0.02)
