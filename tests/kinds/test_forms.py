"""Shapes, filters and warps against slow references."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy import ndimage

from reedloom.kernels.places import tile_places
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kinds.warp import swirl
from reedloom.laws.draws import flow_of, run, smooth_map


def compute(kind_id: str, inputs: dict[str, np.ndarray] | None = None, size: int = 128, **values: Any) -> Any:
    """A kind's outputs, or its only one."""
    kind = built_in_kinds().get(kind_id)
    outputs = run(kind, inputs or {}, kind.defaults() | values, (size, size)).outputs
    return outputs[kind.outputs[0].name] if len(kind.outputs) == 1 else outputs


# -- shapes --------------------------------------------------------------------------------------------

FORMS: list[tuple[str, dict[str, Any]]] = [
    ("disc", {"radius": 0.3, "centre_u": 0.1}),
    ("box", {"turn": 25.0}),
    ("polygon", {"sides": 5, "turn": 12.0, "centre_v": 0.9}),
    ("polygon", {"sides": 7, "star": 0.5}),
    ("ring", {"start": -100.0, "end": 70.0}),
    ("ring", {}),
    ("fibre", {"bend": 0.4, "turn": 40.0, "centre_u": 0.05}),
    ("petal", {"turn": 70.0, "bend": -0.2}),
    ("drawn_outline", {"parts": 3, "mirrored": True, "centre_u": 0.0, "centre_v": 0.0}),
    ("plot", {"turn": 20.0}),
    ("plot", {"drawn_by": "formula", "mirrored": False}),
]


@pytest.mark.parametrize(("kind_id", "values"), FORMS)
def test_distances_are_those_to_the_edge(kind_id: str, values: dict[str, Any]) -> None:
    """Far from the edge, against the nearest sample of the other side on a tile repeated three times."""
    size = 256
    form = compute(kind_id, size=size, **values)
    inside = np.tile(form["distance"] < 0, (3, 3))
    away = ndimage.distance_transform_edt(~inside) - ndimage.distance_transform_edt(inside)
    middle = away[size : 2 * size, size : 2 * size] / size
    wrong = np.abs(middle - form["distance"])
    # Half a sample each way is what counting samples can tell; rounded sign steps add another half.
    assert wrong.max() < 2.5 / size and np.median(wrong) < 1.0 / size


@pytest.mark.parametrize(
    ("kind_id", "values", "area"),
    [
        ("disc", {"radius": 0.31}, math.pi * 0.31**2),
        ("box", {"width": 0.5, "height": 0.3, "corner": 0.1, "turn": 33.0}, 0.15 - (4 - math.pi) * 0.01),
        ("polygon", {"radius": 0.35, "sides": 6, "turn": 11.0}, 1.5 * math.sqrt(3) * 0.35**2),
        ("ring", {"radius": 0.3, "thickness": 0.1}, 2 * math.pi * 0.3 * 0.1),
        ("ring", {"radius": 0.3, "thickness": 0.1, "start": 0.0, "end": 90.0},
         math.pi / 2 * 0.3 * 0.1 + math.pi * 0.05**2),
        ("fibre", {"length": 0.5, "start_width": 0.1, "end_width": 0.1}, 0.05 + math.pi * 0.05**2),
        ("plot", {"drawn_by": "formula", "formula": "sin(pi*u)", "width": 0.6, "height": 0.2},
         2 * 0.12 * 2 / math.pi),
    ],
)  # fmt: skip
def test_covered_areas_are_those_of_their_formulas(kind_id: str, values: dict[str, Any], area: float) -> None:
    for size, centre in ((64, 0.5), (48, 0.03)):
        mask = compute(kind_id, size=size, centre_u=centre, **values)["mask"]
        assert float(mask.mean()) == pytest.approx(area, rel=0.012)


@pytest.mark.parametrize("bend", [0.0, 0.3])
def test_a_vein_sinks_into_a_petal_along_its_middle(bend: float) -> None:
    """As a bell about the middle line, which is a parabola: foot and point lie straight, the middle aside."""
    size, length, depth, wide = 512, 0.6, 0.4, 0.03
    whole, veined = (
        compute("petal", size=size, vein=vein, vein_width=wide, bend=bend, length=length)["profile"]
        for vein in (0.0, depth)
    )
    u, v = np.moveaxis(tile_places(size, size).astype(np.float64) - 0.5, -1, 0)
    away = v - bend * length * (1 - (2 * u / length) ** 2)
    inside = whole > 0.05
    sunk = veined[inside] / whole[inside]
    assert np.abs(sunk - (1 - depth * np.exp(-((away[inside] / wide) ** 2)))).max() < 2e-3


def test_shapes_are_joined_on_their_distances() -> None:
    left, right = (compute("disc", radius=0.2, centre_u=u)["distance"] for u in (0.38, 0.62))
    hard = compute("combine_shapes", {"first": left, "second": right})
    assert np.array_equal(hard["distance"], np.minimum(left, right))
    smooth = compute("combine_shapes", {"first": left, "second": right}, smoothness=0.1)
    assert smooth["mask"].sum() > hard["mask"].sum() and (smooth["distance"] <= hard["distance"] + 1e-6).all()
    cut = compute("combine_shapes", {"first": left, "second": right}, way="subtract")
    both = compute("combine_shapes", {"first": left, "second": right}, way="intersect")
    whole = compute("disc", radius=0.2)["mask"].sum()
    assert cut["mask"].sum() + both["mask"].sum() == pytest.approx(whole, rel=0.02)


# -- filters -------------------------------------------------------------------------------------------


@pytest.mark.parametrize("shape", ["round", "square", "diamond"])
@pytest.mark.parametrize("radius", [1, 5, 12])
def test_growing_is_grey_dilation_and_shrinking_erosion(shape: str, radius: int) -> None:
    map = np.random.default_rng(2).random((64, 64), np.float32)
    y, x = np.mgrid[-radius : radius + 1, -radius : radius + 1]
    footprint = {
        "round": x * x + y * y <= (radius + 0.5) ** 2,
        "square": np.ones_like(x, bool),
        "diamond": np.abs(x) + np.abs(y) <= radius,
    }[shape]  # fmt: skip
    share = (radius + 1e-4) / 64
    grown = compute("grow", {"map": map}, 64, radius=share, shape=shape)
    assert np.allclose(grown, ndimage.grey_dilation(map, footprint=footprint, mode="wrap"), atol=1e-5)
    shrunk = compute("grow", {"map": map}, 64, radius=-share, shape=shape)
    assert np.allclose(shrunk, ndimage.grey_erosion(map, footprint=footprint, mode="wrap"), atol=1e-5)


@pytest.mark.parametrize("radius", [1, 4, 9])
def test_the_median_is_the_median(radius: int) -> None:
    for map in (smooth_map(96, 96), (smooth_map(96, 96, 3) > 0.5).astype(np.float32)):
        noisy = map.copy()
        noisy[np.random.default_rng(1).random((96, 96)) < 0.1] = 1.0
        got = compute("median", {"map": noisy}, 96, radius=radius / 96, levels=96)
        wanted = ndimage.median_filter(noisy, 2 * radius + 1, mode="wrap")
        assert np.abs(got - wanted).mean() < 0.01 and np.percentile(np.abs(got - wanted), 98) < 0.03


def test_streaks_blur_along_their_way_only() -> None:
    line = np.zeros((128, 128), np.float32)
    line[64] = 1.0
    along = compute("streak", {"map": line}, angle=0.0, length=0.05)
    across = compute("streak", {"map": line}, angle=90.0, length=0.05)
    assert np.allclose(along, line, atol=1e-4)
    assert np.allclose(across, ndimage.gaussian_filter1d(line, 0.05 * 128, axis=0, mode="wrap"), atol=2e-3)
    field = np.zeros((128, 128, 2), np.float32)
    field[..., 1] = 1.0
    by_field = compute("streak", {"map": line, "along": field}, length=0.05)
    spread = math.sqrt((by_field[:, 0] * (np.arange(128) - 64) ** 2).sum() / by_field[:, 0].sum())
    assert spread == pytest.approx(0.05 * 128, rel=0.06)


def test_sharpening_edges_and_high_pass() -> None:
    map = smooth_map(128, 128)
    soft = ndimage.gaussian_filter(map, 0.03 * 128, mode="wrap")
    assert np.allclose(
        compute("sharpen", {"map": map}, radius=0.03, amount=2.0), map + 2 * (map - soft), atol=2e-3
    )
    assert np.allclose(compute("high_pass", {"map": map}, radius=0.03), map - soft + 0.5, atol=2e-3)
    step = np.zeros((128, 128), np.float32)
    step[:, 32:96] = 1.0
    edges = compute("edges", {"map": step}, width=0.03, strength=1.0)
    assert edges[64, 32] == pytest.approx(1.0, abs=0.1) and edges[64, 64] < 0.01
    noisy = step + np.random.default_rng(1).normal(0, 0.03, step.shape).astype(np.float32)
    kept = compute("edge_keeping_blur", {"map": noisy}, radius=0.05, edge=0.15)
    assert kept[:, 48:80].std() < 0.3 * noisy[:, 48:80].std() and kept[64, 33] - kept[64, 30] > 0.7
    turned = compute("rotate_flip", {"map": map}, turn="quarter")
    assert np.array_equal(turned, np.rot90(map, 3))
    assert np.array_equal(compute("rotate_flip", {"map": turned}, turn="three quarters"), map)


# -- warps ---------------------------------------------------------------------------------------------


def test_pushes_and_shifts_move_by_what_they_say() -> None:
    map = smooth_map(128, 128)
    one = np.ones((128, 128), np.float32)
    moved = compute("push", {"map": map, "guide": one}, strength=0.25, angle=90.0, centred=False)
    assert np.allclose(moved, np.roll(map, 32, axis=0), atol=1e-4)
    still = compute("push", {"map": map, "guide": one}, strength=0.25, centred=True)
    assert np.allclose(still, map, atol=1e-5)
    by = np.zeros((128, 128, 2), np.float32)
    by[..., 0] = 1.0
    shifted = compute("vector_shift", {"map": map, "by": by}, strength=0.125, centred=False)
    assert np.allclose(shifted, np.roll(map, 16, axis=1), atol=1e-4)


@pytest.mark.parametrize("channels", [1, 3])
@pytest.mark.parametrize(("size", "aspect"), [((150, 150), 1.0), ((300, 150), 0.5)])
@pytest.mark.parametrize("centre", [(0.5, 0.5), (0.03, 0.96)])
@pytest.mark.parametrize("turn", [200.0, -310.0])
def test_a_swirl_turns_about_its_middle_and_leaves_what_lies_beyond_its_radius(
    turn: float, centre: tuple[float, float], size: tuple[int, int], aspect: float, channels: int,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    """A map whose values are known everywhere is read where each sample's own place is turned to."""
    monkeypatch.setattr(swirl, "BLOCK", 16)  # so that rows have several

    def waves(place: np.ndarray) -> np.ndarray:
        return 0.5 + 0.4 * np.cos(2 * np.pi * (2 * place[..., 0] + place[..., 1]))

    place = tile_places(*size).astype(float)
    map = waves(place).astype(np.float32)
    amount = smooth_map(*size)
    radius = 0.23
    values = {"radius": radius, "turn": turn, "centre_u": centre[0], "centre_v": centre[1]}
    inputs = {"map": map if channels == 1 else np.stack([map] * 3, axis=-1), "amount_map": amount}
    got = flow_of("swirl", inputs, values, size, physical=(1.0, aspect))
    away = place - centre
    u, v = np.moveaxis((away - np.round(away)) * [1, aspect], -1, 0)
    fall = np.maximum(1 - np.hypot(u, v) / radius, 0)
    angle = -np.radians(turn) * fall**2 * (3 - 2 * fall) * amount
    c, s = np.cos(angle), np.sin(angle)
    turned = np.stack([c * u - s * v, (s * u + c * v) / aspect], axis=-1) + centre
    for layer in (got[..., None] if channels == 1 else got).transpose(2, 0, 1):
        assert layer == pytest.approx(waves(turned), abs=2e-3)
        assert np.array_equal(layer[fall == 0], map[fall == 0])
    assert np.abs(got - inputs["map"]).max() > 0.3


@pytest.mark.parametrize("joining", ["average", "lowest", "highest", "one after another"])
def test_fan_warps_join_what_single_pushes_give(joining: str) -> None:
    map, guide = smooth_map(96, 96), smooth_map(96, 96, 5)
    fan = compute("fan_warp", {"map": map, "guide": guide}, 96, directions=3, joining=joining)
    pushes = []
    last = map
    for angle in (0.0, 120.0, 240.0):
        source = last if joining == "one after another" else map
        last = compute("push", {"map": source, "guide": guide}, 96, angle=angle)
        pushes.append(last)
    stack = np.array(pushes)
    wanted = {
        "average": stack.mean(axis=0),
        "lowest": stack.min(axis=0),
        "highest": stack.max(axis=0),
        "one after another": stack[-1],
    }
    assert np.allclose(fan, wanted[joining], atol=1e-5)


def test_drift_swells_and_shrinks_and_its_steps_change_only_smoothness() -> None:
    dots = compute("spot_noise", size=192, cells=5, hardness=0.2, coverage=1.0, smallest=0.2, largest=0.3)
    swollen = compute("drift", {"map": dots}, 192, distance=0.03, keeps="highest")
    shrunk = compute("drift", {"map": dots}, 192, distance=-0.03, keeps="lowest")
    covered = [(m > 0.4).mean() for m in (shrunk, dots, swollen)]
    assert covered[0] < 0.9 * covered[1] and covered[2] > 1.2 * covered[1]
    for keeps in ("highest", "lowest", "average"):
        few, many = (
            compute("drift", {"map": dots}, 192, distance=0.03, keeps=keeps, steps=n) for n in (12, 32)
        )
        assert np.abs(few - many).mean() < 0.02, keeps
