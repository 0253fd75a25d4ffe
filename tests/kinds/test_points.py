"""Points and stamps against slow references, and patterns against what they are declared to be."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy.spatial import cKDTree

from reedloom.kernels.jit import read_only
from reedloom.kernels.places import tile_places
from reedloom.kernels.points import make_points
from reedloom.kernels.regions import measure_regions
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kinds.path.path_parts import make_paths
from reedloom.kinds.pattern.woven_cloth import DRAFTS
from reedloom.kinds.points.map_points import find_peaks
from reedloom.kit.data import Data
from reedloom.laws.draws import flow_of, some_points


def compute(kind_id: str, inputs: dict[str, Any] | None = None, size: int = 128, **values: Any) -> Any:
    """A kind's outputs as they flow, or its only one."""
    return flow_of(kind_id, inputs, values, (size, size))


# -- laying points -------------------------------------------------------------------------------------


def test_scattered_points_keep_apart_and_more_leave_the_others_in_place() -> None:
    few, many = (compute("scatter_points", count=n, seed=4) for n in (150, 1500))
    for name in ("u", "v", "id"):
        assert np.array_equal(few[name], many[name][:150])
    for points in (few, many):
        place = np.stack([points["u"], points["v"]], axis=1)
        nearest = cKDTree(place, boxsize=1).query(place, k=2)[0][:, 1]
        assert nearest.min() > 0.6 / np.sqrt(len(points))  # chance alone would come near 0
    spaced = compute("scatter_points", by="distance", distance=0.05)
    place = np.stack([spaced["u"], spaced["v"]], axis=1)
    assert cKDTree(place, boxsize=1).query(place, k=2)[0][:, 1].min() >= 0.05
    # No place is left where one more would fit, but for a few that no dart happened to hit.
    gaps = cKDTree(place, boxsize=1).query(tile_places(100, 100).reshape(-1, 2) % 1)[0]
    assert (gaps > 0.05).mean() < 0.1


def test_density_maps_and_keeping_thin_points_without_changing_the_others() -> None:
    ramp = np.broadcast_to(np.linspace(0, 1, 128, dtype=np.float32), (128, 128))
    every = compute("scatter_points", count=2000)
    thinned = compute("scatter_points", {"density_map": np.ascontiguousarray(ramp)}, count=2000)
    left, right = (thinned["u"] < 0.5).sum(), (thinned["u"] >= 0.5).sum()
    assert 0.2 < left / right < 0.5 and np.isin(thinned["id"], every["id"]).all()
    kept = compute("keep_points", {"points": every}, share=0.4)
    rest = compute("keep_points", {"points": every}, share=0.4, others=True)
    assert abs(len(kept) / len(every) - 0.4) < 0.05
    assert sorted([*kept["id"], *rest["id"]]) == sorted(every["id"])
    varied = compute("vary_points", {"points": every})
    after = compute("vary_points", {"points": kept})
    at = {int(p["id"]): p for p in varied}
    assert all(at[int(p["id"])] == p for p in after)


def test_boards_rings_and_paths_lie_where_they_should() -> None:
    grid = compute("grid_points", columns=4, rows=4, alternate="odd")
    assert len(grid) == 8 and ((grid["row"] + grid["column"]) % 2 == 1).all()
    ring = compute("ring_points", count=8, radius=0.2, centre_u=0.1, centre_v=0.9)
    away = np.stack([ring["u"] - 0.1, ring["v"] - 0.9], axis=1)
    away -= np.round(away)
    assert np.allclose(np.hypot(*away.T), 0.2)
    facing = np.radians(ring["turn"].astype(np.float64))
    assert np.allclose(away / 0.2, np.stack([np.cos(facing), np.sin(facing)], axis=1), atol=1e-5)
    walk = compute(
        "path_points", {"paths": make_paths([(np.array([0.0, 1.0]), np.array([0.25, 0.25]))])}, count=5
    )
    assert np.allclose(walk["u"], (np.arange(5) + 0.5) / 5) and np.allclose(walk["v"], 0.25)
    circle = compute("path_points", {"paths": compute("circle_path", radius=0.3)}, count=24)
    place = np.stack([circle["u"], circle["v"]], axis=1)
    steps = np.hypot(*(np.roll(place, -1, axis=0) - place).T)
    assert np.ptp(steps) < 1e-4


def test_peaks_and_islands_are_found_across_the_seam() -> None:
    place = tile_places(160, 160).astype(np.float64)
    peaks = np.array([[0.0, 0.3], [0.5, 0.8]])
    away = place[:, :, None] - peaks
    away -= np.round(away)
    bumps = np.exp(-(away**2).sum(axis=-1) / 0.004).sum(axis=-1).astype(np.float32)
    found = compute("map_points", {"map": bumps}, size=160)
    where = np.stack([found["u"], found["v"]], axis=1)
    assert len(found) == 2
    assert cKDTree(where % 1, boxsize=1).query(peaks)[0].max() < 1e-3
    labels = np.zeros((160, 160), np.int32)
    for number, middle in enumerate([(0.98, 0.02), (0.4, 0.6)]):
        off = place - middle
        off -= np.round(off)
        labels[(np.abs(off) < [0.1, 0.05]).all(axis=-1)] = 5 * number + 1
    points = compute("island_points", {"islands": labels}, size=160)
    where = np.stack([points["u"], points["v"]], axis=1) % 1
    assert cKDTree(where, boxsize=1).query([(0.98, 0.02), (0.4, 0.6)])[0].max() < 1 / 160
    assert np.allclose(np.mod(points["turn"] + 90, 180), 90, atol=1)
    table = measure_regions(labels)
    assert table.present.tolist() == [1, 6]
    assert np.allclose(table.length[[1, 6]] / table.breadth[[1, 6]], 2, atol=0.05)


def test_points_face_the_way_the_ground_falls() -> None:
    place = tile_places(128, 128)
    hill = (0.5 + 0.2 * np.cos(2 * np.pi * place[..., 0])).astype(np.float32)
    points = make_points(np.array([0.25, 0.75]), np.array([0.2, 0.6]))
    down = compute("face_points", {"points": points, "height": hill}, softness=0.0)
    assert np.allclose(np.cos(np.radians(down["turn"])), [1, -1], atol=1e-3)
    along = np.zeros((128, 128, 2), np.float32)
    along[..., 1] = 1
    assert np.allclose(compute("face_points", {"points": points, "along": along})["turn"], 90, atol=1e-3)


# -- stamps --------------------------------------------------------------------------------------------


def bump(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """A lopsided drawing within the unit square, so that turns show."""
    inside = np.maximum(1 - ((u - 0.5) / 0.45) ** 2 - ((v - 0.5) / 0.3) ** 2, 0)
    return np.sqrt(inside) * (0.5 + 0.5 * u)


def direct(points: np.ndarray, size: float, join: str, samples: int, finer: int = 6) -> np.ndarray:
    """Stamps drawn one by one at many places of each sample, then averaged."""
    n = samples * finer
    place = tile_places(n, n).astype(np.float64)
    out = np.zeros((n, n))
    for p in points:
        du, dv = place[..., 0] - p["u"], place[..., 1] - p["v"]
        du, dv = du - np.round(du), dv - np.round(dv)
        turn, long = np.radians(float(p["turn"])), np.sqrt(float(p["stretch"]))
        reach = 0.75 * size * float(p["size"]) * max(long, 1 / long)
        near = np.ix_(np.abs(dv[:, 0]) < reach, np.abs(du[0]) < reach)
        du, dv = du[near], dv[near]
        along = (np.cos(turn) * du + np.sin(turn) * dv) / (size * float(p["size"]) * long) + 0.5
        across = (np.cos(turn) * dv - np.sin(turn) * du) * long / (size * float(p["size"])) + 0.5
        here = np.where((np.abs(along - 0.5) < 0.5) & (np.abs(across - 0.5) < 0.5), bump(along, across), 0)
        if join == "highest":
            out[near] = np.maximum(out[near], here)
        elif join == "add":
            out[near] += here
        else:
            out[near] = np.where(here > 0, here, out[near])
    return out.reshape(samples, finer, samples, finer).mean(axis=(1, 3))


@pytest.mark.parametrize("join", ["highest", "add", "over"])
@pytest.mark.parametrize("size", [0.5, 0.12, 0.02])
def test_stamps_are_those_of_a_slow_direct_renderer(join: str, size: float) -> None:
    points = some_points(25)
    points["stretch"] = np.linspace(0.6, 1.8, 25)
    place = tile_places(256, 256)
    drawing = bump(place[..., 0], place[..., 1]).astype(np.float32)
    made = stamp(points, drawing, size=size, join=join)
    wanted = direct(points, size, join, 256)
    error: float = np.sqrt(np.mean((made["height"] - wanted) ** 2))
    assert error < 0.03 * wanted.max()
    assert abs(made["height"].mean() / wanted.mean() - 1) < 0.02


def test_tiny_stamps_cover_what_they_should_and_do_not_sparkle() -> None:
    points = compute("scatter_points", count=300)
    place = tile_places(256, 256)
    drawing = (np.hypot(place[..., 0] - 0.5, place[..., 1] - 0.5) < 0.5).astype(np.float32)
    for size in (0.004, 0.002):  # one sample across, and half of one
        made = stamp(points, drawing, 256, size=size, join="add")
        assert abs(made["height"].mean() / (300 * np.pi / 4 * size**2) - 1) < 0.03


def stamp(
    points: np.ndarray,
    drawing: np.ndarray,
    samples: int = 256,
    more: dict[str, np.ndarray] | None = None,
    **values: Any,
) -> dict[str, np.ndarray]:
    """All outputs of a stamp with one drawing, or with more inputs by name."""
    made: dict[str, np.ndarray] = flow_of(
        "stamp", {"points": points, "drawing": drawing, **(more or {})}, values, (samples, samples)
    )
    return made


def test_stamps_move_with_their_points_and_keep_their_own_values() -> None:
    place = tile_places(256, 256)
    drawing = bump(place[..., 0], place[..., 1]).astype(np.float32)
    points = some_points(30)
    made = stamp(points, drawing, size=0.15, join="over")
    moved = points.copy()
    moved["u"], moved["v"] = (points["u"] + 40 / 256) % 1, (points["v"] + 9 / 256) % 1
    for name, array in stamp(moved, drawing, size=0.15, join="over").items():
        assert np.abs(np.roll(array, (-9, -40), (0, 1)) - made[name]).max() < 2e-3 or name == "id"
    fewer = np.delete(points, 0)
    after = stamp(fewer, drawing, size=0.15, join="over")
    same = made["id"] - 1 == after["id"]  # the first is gone, the others' numbers are one less
    same &= after["id"] > 0
    assert same.mean() > 0.15 and np.array_equal(made["random"][same], after["random"][same])
    centre = made["stamp_place"][made["id"] > 0]
    assert centre.min() > -0.02 and centre.max() < 1.02


def test_stamps_choose_their_drawings_and_lie_in_order() -> None:
    flat = np.ones((64, 64), np.float32)
    points = make_points(np.array([0.4, 0.6]), np.array([0.5, 0.5]))
    points["level"] = [2, 1]
    points["tone"] = [0.25, 1.0]
    for order, top in (("as laid", 1.0), ("by level", 0.25)):
        made = stamp(points, flat, 64, size=0.5, join="over", order=order)
        assert abs(made["tone"][32, 32] - top) < 1e-6
    many = make_points(*np.random.default_rng(1).random((2, 400)))
    values = {"size": 0.002, "join": "add", "choice": "in turn"}
    total = stamp(many, flat, 64, {"drawing_2": flat * 3}, **values)["height"].mean()
    assert abs(total / (400 * 0.002**2 * 2) - 1) < 0.02  # half of them 1 high, half 3


def test_resting_stamps_lie_on_those_before_them() -> None:
    flat = np.ones((64, 64), np.float32)
    points = make_points(np.array([0.5, 0.5, 0.1]), np.array([0.5, 0.5, 0.1]))
    made = stamp(points, flat, 64, size=0.25, resting=1.0, underside=0.0)
    assert abs(made["height"][32, 32] - 2) < 1e-5  # the second on the first
    assert abs(made["height"][6, 6] - 1) < 1e-5  # the third on the ground
    half = stamp(points, flat, 64, size=0.25, resting=0.5, underside=0.0)
    assert abs(half["height"][32, 32] - 1.5) < 1e-5


# -- patterns ------------------------------------------------------------------------------------------


@pytest.mark.parametrize("binding", ["plain", "twill", "satin", "basket"])
def test_yarns_cross_as_the_draft_says(binding: str) -> None:
    draft = DRAFTS[binding]
    n, m = len(draft[0]), len(draft)
    count = 2 * n, 2 * m
    cloth = compute("woven_cloth", size=320, binding=binding, warp_count=count[0], weft_count=count[1])
    for row in range(count[1]):
        for column in range(count[0]):
            y, x = int((row + 0.5) / count[1] * 320), int((column + 0.5) / count[0] * 320)
            assert (cloth["warp"][y, x] > 0.5) == (draft[row % m][column % n] == "#"), (row, column)


@pytest.mark.parametrize(
    ("kind_id", "values", "count", "area"),
    [
        ("courses", {"columns": 4, "gap": 0.01, "corner": 0.0, "size_variation": 0.0}, 32, 7.68 * 0.115),
        ("checks", {"columns": 4, "rows": 6, "gap": 0.0}, 24, None),
        ("hexagons", {"columns": 6, "gap": 0.01}, None, None),
        ("herringbone", {}, None, None),
        ("planks", {"gap": 0.005}, None, None),
        ("dots", {"columns": 5, "rows": 4, "radius": 0.3}, 20, np.pi * (0.3 * 0.2) ** 2 * 20),
        ("scales", {"columns": 6, "rows": 8}, 48, 1.0),
        ("basket_pattern", {"columns": 4, "rows": 4, "strands": 3}, 48, None),
        ("fan_cobbles", {}, None, None),
        ("woven_cloth", {"warp_count": 8, "weft_count": 8, "twist": 0.0}, 16, None),
        ("cracks", {"cells": 4, "broken": 0.0}, 16, None),
    ],
)  # fmt: skip
def test_elements_are_whole_and_what_belongs_to_them_agrees(
    kind_id: str, values: dict[str, Any], count: int | None, area: float | None
) -> None:
    size = 240
    made = compute(kind_id, size=size, **values)
    assert built_in_kinds().get(kind_id).output("id").data is Data.ISLANDS
    inside = made["id"] > 0
    numbers = np.unique(made["id"][inside])
    if count is not None:
        assert len(numbers) == count
    if area is not None:
        assert abs(made["mask"].mean() - area) < 0.01
    # Every element has one random value, and its place runs through 0 to 1.
    of = np.searchsorted(numbers, made["id"][inside])
    spread = [np.ptp(made["random"][inside][of == k]) for k in range(0, len(numbers), 7)]
    assert max(spread) == 0
    place = made["element_place"][inside]
    # Yarns run on from crossing to crossing; a field reaches as far from its middle as it happens to.
    place = place / [8, 1] if kind_id == "woven_cloth" else place
    slack = 0.6 if kind_id == "cracks" else 0.1
    assert place.min() > -slack and place.max() < 1 + slack and np.ptp(place, axis=0).min() > 0.5
    if kind_id == "cracks":
        return  # its mask is of the cracks, not of the fields between them
    # The edge's sign is the mask's, and the profile is nowhere where the mask is not.
    assert (made["mask"][made["edge"] > 2 / size] > 0.99).all()
    assert (made["mask"][made["edge"] < -2 / size] < 0.01).all()
    assert made["profile"].max() <= 1.001 and (made["profile"] <= made["mask"] + 1e-3).all()


def test_lengths_and_gaps_vary_and_the_tile_still_closes() -> None:
    for kind_id in ("courses", "planks"):
        made = (
            compute(kind_id, size=256, size_variation=1.0)
            if kind_id == "courses"
            else compute(kind_id, size=256)
        )
        widths = np.bincount(made["id"].reshape(-1))[1:]
        widths = widths[widths > 0]
        assert widths.std() / widths.mean() > 0.1
        joined = np.concatenate([made["mask"]] * 2, axis=1)[:, 192:320]
        inner = np.abs(np.diff(made["mask"], axis=1)).mean()
        assert np.abs(np.diff(joined, axis=1)).mean() < 1.5 * inner


def test_resting_stamps_far_larger_than_the_tile_are_laid_on_a_coarser_ground(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    from reedloom.kinds.points import stamp as kind_module

    grounds: set[int] = set()
    real = kind_module.rest_stamps
    monkeypatch.setattr(
        kind_module, "rest_stamps", lambda *given: (grounds.add(len(given[4])), real(*given))[1]
    )
    points = make_points(*np.random.default_rng(2).random((2, 250)))
    full = np.ones((8, 8), np.float32)
    for samples, size, cells in (
        (200, 0.1, 512),
        (128, 0.1, 256),
        (200, 2.0, 256),
        (64, 0.1, 128),
        (1, 0.1, 32),
    ):
        grounds.clear()
        stamp(points, full, samples, size=size, resting=1.0)
        assert grounds == {cells}, samples


def test_stamps_rest_in_small_maps_as_high_as_in_large_ones() -> None:
    points = make_points(*np.random.default_rng(4).random((2, 90)))
    v, u = (np.indices((256, 256)) + 0.5) / 256 - 0.5
    drawing = np.maximum(0, 1 - 4 * np.hypot(u, v) ** 2 * 1.2).astype(np.float32)
    large = stamp(points, drawing, 256, size=0.25, resting=1.0)["height"]
    for samples in (64, 32):
        step = 256 // samples
        small = stamp(points, drawing[step // 2 :: step, step // 2 :: step], samples, size=0.25, resting=1.0)
        mean = large.reshape(samples, step, samples, step).mean(axis=(1, 3))
        assert np.sqrt(((small["height"] - mean) ** 2).mean()) < 0.03 * large.std() * step
        assert abs(small["height"].mean() - large.mean()) < 0.0075 * large.mean() * step


@pytest.mark.parametrize("size", [(9, 12), (1, 5), (2, 2), (7, 1)])
def test_peaks_are_above_all_around_and_of_equal_ones_the_first(size: tuple[int, int]) -> None:
    map = np.random.default_rng(3).integers(0, 4, size).astype(np.float32)
    got = np.empty(size, np.bool_)
    for y in range(size[0]):
        find_peaks(read_only(map), np.float32(1), got, y, y + 1)
    wanted = map > 1
    for step in [(j, i) for j in (-1, 0, 1) for i in (-1, 0, 1) if i or j]:
        other = np.roll(map, (-step[0], -step[1]), (0, 1))
        wanted &= (map > other) if step > (0, 0) else (map >= other)
    assert np.array_equal(got, wanted)
