"""Height work and materials against closed forms and slow references."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import ndimage

import reedloom as rl
from reedloom.kernels.distance import nearest_seeds, signed_distance
from reedloom.kernels.places import tile_places
from reedloom.kernels.rain import rain_on
from reedloom.kernels.regions import find_regions
from reedloom.kinds.height.curvature import mean_curvature
from reedloom.kit.context import Context
from reedloom.kit.data import Material
from reedloom.laws.draws import flow_of, smooth_map


def compute(
    kind_id: str,
    inputs: dict[str, Any],
    size: int = 128,
    physical: tuple[float, float] = (1.0, 1.0),
    depth: float = 0.05,
    **values: Any,
) -> Any:
    """A kind's outputs as they flow, or its only one."""
    return flow_of(kind_id, inputs, values, (size, size), physical=physical, depth=depth)


def blobs(size: int, seed: int = 1, share: float = 0.4) -> np.ndarray:
    """Random blobs over a share of a periodic tile: (size, size) bool."""
    noise = ndimage.gaussian_filter(np.random.default_rng(seed).random((size, size)), 3, mode="wrap")
    return noise > np.quantile(noise, 1 - share)


# -- distances and regions ---------------------------------------------------------------------------


@pytest.mark.parametrize(("shape", "share"), [((64, 64), 0.001), ((48, 90), 0.02), ((90, 37), 0.4)])
def test_distances_are_exact_around_the_tile(shape: tuple[int, int], share: float) -> None:
    seeds = np.random.default_rng(3).random(shape) < share
    seeds[7, 30] = True
    height, width = shape
    found = nearest_seeds(seeds, Context(width, height).bands)
    wanted = ndimage.distance_transform_edt(~np.tile(seeds, (3, 3)), sampling=(1 / height, 1 / width))
    assert np.abs(found.distance - wanted[height : 2 * height, width : 2 * width]).max() < 1e-6
    assert seeds[found.row, found.column].all()


@pytest.mark.parametrize("diagonal", [False, True])
@pytest.mark.parametrize("share", [0.25, 0.5, 0.6])
def test_islands_are_scipys_joined_at_the_seam(diagonal: bool, share: float) -> None:
    inside = np.random.default_rng(int(share * 100)).random((40, 56)) < share
    around = np.ones((3, 3)) if diagonal else None
    labels, _ = ndimage.label(np.tile(inside, (3, 3)), around)
    # Two samples of the tile are one island if any of their copies are joined.
    parent = {int(k): int(k) for k in np.unique(labels)}

    def root(k: int) -> int:
        while parent[k] != k:
            k = parent[k]
        return k

    copies = labels.reshape(3, 40, 3, 56).transpose(1, 3, 0, 2).reshape(-1, 9)
    for group in copies[copies[:, 0] > 0]:
        for other in group[1:]:
            parent[root(int(other))] = root(int(group[0]))
    wanted = np.array([root(int(k)) for k in labels[40:80, 56:112].reshape(-1)])
    found = find_regions(inside, diagonal).reshape(-1)
    pairs = set(zip(wanted.tolist(), found.tolist(), strict=True))
    assert len(pairs) == len({a for a, _ in pairs}) == len({b for _, b in pairs})


def test_islands_have_values_of_their_own_that_stay() -> None:
    place = tile_places(256, 256)
    discs = [(0.99, 0.3, 0.07), (0.3, 0.02, 0.1), (0.55, 0.6, 0.04)]

    def labels_of(kept: list[tuple[float, float, float]], size: int) -> np.ndarray:
        place = tile_places(size, size)
        mask = np.zeros((size, size), np.float32)
        for u, v, radius in kept:
            away = place - np.array([u, v], np.float32)
            away -= np.round(away)
            mask[np.hypot(away[..., 0], away[..., 1] * 1.6) < radius] = 1
        made: np.ndarray = compute("islands", {"mask": mask}, size)
        return made

    labels = labels_of(discs, 256)
    assert labels.max() == 3
    values = compute("island_values", {"islands": labels}, 256)
    fewer = compute("island_values", {"islands": labels_of(discs[1:], 256)}, 256)
    small = compute("island_values", {"islands": labels_of(discs, 128)}, 128)
    for u, v, radius in discs:
        y, x = int(v * 256), int(u * 256)
        one = labels == labels[y, x]
        assert np.ptp(values["random"][one]) == 0
        if (u, v, radius) in discs[1:]:  # another one gone changes nothing
            assert fewer["random"][y, x] == values["random"][y, x]
        assert abs(small["random"][y // 2, x // 2] - values["random"][y, x]) < 0.1
        assert abs(values["size"][y, x] - radius / 0.1) < 0.03
        away = values["centre"][y, x] - np.array([u, v])
        assert np.abs(away - np.round(away)).max() < 0.004
        local = values["local_place"][one]
        assert 0 <= local.min() < 0.05 and 0.95 < local.max() <= 1
        assert abs(values["axis"][y, x] - 0.25) < 0.02
        assert values["slope"][one].min() >= 0 and np.ptp(values["slope"][one]) > 0.6
    large = compute("keep_islands", {"islands": labels}, 256, size_from=0.006)
    assert set(np.unique(labels[large["mask"] > 0])) == {labels[int(0.3 * 256), 253], labels[5, 77]}
    assert place.shape == (256, 256, 2)


def test_bevels_have_their_width_and_spreading_carries_the_nearest() -> None:
    size = 200
    place = tile_places(size, size)
    strip = (np.abs(place[..., 0] - 0.5) < 0.2).astype(np.float32)
    edge = 0.2 - np.abs(place[0, :, 0] - 0.5)  # inside this is how far the edge is
    for side, start in (("inward", 0.0), ("outward", 1.0), ("both", 0.5)):
        made = compute("bevel", {"mask": strip}, size, width=0.1, side=side, profile="straight")
        wanted = np.clip(start + edge / 0.1, 0, 1)
        assert np.abs(made["bevel"] - wanted).max() < 0.03, side
    disc = np.clip(0.5 - (np.hypot(*np.moveaxis(place - 0.5, -1, 0)) - 0.3) * size, 0, 1).astype(np.float32)
    away = np.hypot(*np.moveaxis(place - 0.5, -1, 0)) - 0.3
    wrong = np.abs(signed_distance(disc, Context(size, size).bands) - away)[np.abs(away) < 0.15] * size
    assert wrong.max() < 0.7 and wrong.mean() < 0.1  # in samples
    square = (np.abs(place - 0.5).max(axis=-1) < 0.3).astype(np.float32)
    plain, round_ = (compute("bevel", {"mask": square}, size, rounding=r)["distance"] < 0 for r in (0.0, 0.1))
    corners = (1 - np.pi / 4) * 0.2**2
    assert abs((plain.mean() - round_.mean()) / corners - 1) < 0.12  # counted in whole samples
    seeds = np.random.default_rng(5).random((size, size)) < 0.001
    carried = np.random.default_rng(6).random((size, size)).astype(np.float32)
    made = compute("spread", {"mask": seeds.astype(np.float32), "carried": carried}, size, limit=2.0)
    y, x = np.nonzero(seeds)
    off = place[:, :, None] - np.stack([(x + 0.5) / size, (y + 0.5) / size], axis=1)
    off -= np.round(off)
    nearest = np.argmin((off**2).sum(axis=-1), axis=-1)
    assert (made["carried"] == carried[y, x][nearest]).mean() > 0.995  # but for ties


# -- light and form ------------------------------------------------------------------------------------


@pytest.mark.parametrize("wide", [0.12, 0.4])
def test_occlusion_in_a_groove_and_below_a_step_has_its_closed_form(wide: float) -> None:
    """Over an even sky a long wall of height h, d away, takes half of 1 - 1 / sqrt(1 + (h / d)^2)."""
    size, depth = 400, 0.06
    place = tile_places(size, size)
    groove = (np.abs(place[..., 0] - 0.5) > wide / 2).astype(np.float32)
    made = compute("occlusion", {"height": groove}, size, depth=depth, radius=0.45, directions=64)
    inside = np.abs(place[0, :, 0] - 0.5) < wide / 2 - 0.02
    near = place[0, inside, 0] - 0.5 + wide / 2
    wanted = sum(0.5 / np.sqrt(1 + (depth / d) ** 2) for d in (near, wide - near))
    assert np.abs(made[0, inside] - wanted).max() < 0.045
    assert np.abs(made[0, ~inside & (np.abs(place[0, :, 0] - 0.5) > wide / 2 + 0.01)] - 1).max() < 1e-5


def test_curvature_of_a_ball_is_one_over_its_radius_and_has_its_sign() -> None:
    size, radius = 256, 0.8
    place = tile_places(size, size).astype(np.float64)
    away = np.hypot(*np.moveaxis(place - 0.5, -1, 0))
    cap = (np.sqrt(radius**2 - np.minimum(away, 0.45) ** 2)).astype(np.float32)
    made = compute("curvature", {"height": cap}, size, depth=1.0, radius=0.02, automatic=False)
    middle = away < 0.2
    assert np.abs(made["curvature"][middle] / (0.02 / radius) - 1).max() < 0.02
    assert (made["ridges"][middle] > 0).all() and (made["cavities"][middle] == 0).all()
    bowl = compute("curvature", {"height": 1 - cap}, size, depth=1.0, radius=0.02, automatic=False)
    assert np.allclose(bowl["cavities"][middle], made["ridges"][middle], rtol=1e-2)
    fitted = compute("curvature", {"height": smooth_map(size, size)}, size)["curvature"]
    assert 0.95 < np.quantile(np.abs(fitted), 0.98) < 1.05


def test_normals_follow_metres_and_go_back_to_their_height() -> None:
    size = 256
    relief = smooth_map(size, size)
    steep = {}
    for wide in (1.0, 2.0):
        normal = compute("normal", {"height": relief}, size, (wide, wide), 0.05)
        n = normal * 2 - 1
        steep[wide] = float(np.abs(n[..., 0] / n[..., 2]).mean())
        back = compute("height_from_normal", {"normal": normal}, size, (wide, wide), 0.05)
        error = (back - back.mean()) - (relief - relief.mean())
        assert np.abs(error).max() < 0.01 * np.ptp(relief)
    assert abs(steep[1.0] / steep[2.0] - 2) < 1e-3
    weaker = compute("normal_strength", {"normal": normal}, size, strength=0.5) * 2 - 1
    assert np.allclose(weaker[..., 0] / weaker[..., 2], 0.5 * n[..., 0] / n[..., 2], atol=1e-4)


def test_combined_normals_keep_both_and_turn_with_the_base() -> None:
    size = 128
    base, fine = (compute("normal", {"height": smooth_map(size, size, s)}, size) for s in (0, 4))
    flat = np.broadcast_to(np.array([0.5, 0.5, 1], np.float32), base.shape).copy()
    for first, second, wanted in ((base, flat, base), (flat, fine, fine)):
        made = compute("combine_normals", {"base": first, "detail": second}, size)
        assert np.abs(made - wanted).max() < 1e-5
    # A detail tipped by b on a base tipped by a is tipped by a + b: turned, not averaged.
    tipped = [np.array([np.sin(t), 0, np.cos(t)], np.float32) / 2 + 0.5 for t in np.radians([20, 15])]
    pair = [np.broadcast_to(t, (8, 8, 3)).copy() for t in tipped]
    made = compute("combine_normals", {"base": pair[0], "detail": pair[1]}, 8)[0, 0] * 2 - 1
    assert abs(np.degrees(np.arctan2(made[0], made[2])) - 35) < 0.01


def test_slopes_and_shadows_are_those_of_a_wedge() -> None:
    size = 256
    place = tile_places(size, size)
    tent = (1 - 2 * np.abs(place[..., 0] - 0.5)).astype(np.float32)
    made = compute("slope", {"height": tent}, size, depth=0.25)
    grade = np.arctan(0.5) / (np.pi / 2)
    assert abs(made["amount"][3, 60] - grade) < 1e-4
    assert made["direction"][3, 60, 0] < 0 < made["direction"][3, 200, 0]
    wall = (np.abs(place[..., 0] - 0.5) < 0.05).astype(np.float32)
    lit = compute("light", {"height": wall}, size, depth=0.1, direction=180.0, elevation=30.0, softness=0.02)
    dark = place[0, lit["shadow"][0] < 0.5, 0]
    assert (
        abs(dark.min() - 0.55) < 2 / size
        and abs(dark.max() - (0.55 + 0.1 / np.tan(np.radians(30)))) < 3 / size
    )
    assert abs(lit["light"][0, 10] - 0.5) < 1e-3  # the cosine of a light 30 degrees over level ground


# -- weather -------------------------------------------------------------------------------------------


def test_rain_moves_ground_and_loses_none() -> None:
    ground = ndimage.gaussian_filter(np.random.default_rng(2).random((96, 96)), 6, mode="wrap") * 60
    rain = np.full(ground.shape, 0.03)
    worn = rain_on(ground, rain, 80, dissolving=0.3, carrying=1.5, drying=0.03, check=lambda: None)
    assert abs(worn.sum() - ground.sum()) < 1e-9 * ground.sum()
    assert np.abs(worn - ground).max() > 0.02
    rolled = rain_on(
        np.roll(ground, (11, 30), (0, 1)),
        rain,
        80,
        dissolving=0.3,
        carrying=1.5,
        drying=0.03,
        check=lambda: None,
    )
    assert np.allclose(np.roll(worn, (11, 30), (0, 1)), rolled)
    made = compute("erode", {"height": smooth_map(128, 128)}, detail=64, steps=60)
    assert abs(made["height"].mean() - smooth_map(128, 128).mean()) < 1e-4
    assert made["deposits"].max() == 1 and made["deposits"].min() == 0


def test_rubbing_lowers_ridges_and_dust_fills_hollows() -> None:
    size = 192
    rough = (0.6 * smooth_map(size, size) + 0.2 * blobs(size)).astype(np.float32)
    rubbed = compute("wear", {"height": rough}, size)
    assert (rubbed["height"] <= rough + 1e-6).all() and rubbed["worn"].max() == 1
    proud = rough - ndimage.gaussian_filter(rough, 2, mode="wrap")
    assert rubbed["worn"][proud > np.quantile(proud, 0.95)].mean() > 5 * rubbed["worn"][proud < 0].mean()
    dust = compute("settle", {"height": rough}, size)
    assert (dust["height"] >= rough - 1e-6).all()
    assert dust["mask"][proud < np.quantile(proud, 0.05)].mean() > dust["mask"][proud > 0].mean() + 0.2
    covered = [compute("settle", {"height": rough}, size, amount=a)["mask"].mean() for a in (0.1, 0.5, 0.9)]
    assert covered[0] < covered[1] < covered[2]
    snow = compute("settle", {"height": smooth_map(size, size)}, size, depth=1.0, where="tops", steepest=20.0)
    steep = compute("slope", {"height": smooth_map(size, size)}, size, depth=1.0)["amount"] * 90
    assert snow["mask"][steep > 30].max() < 0.05 and snow["mask"][steep < 5].mean() > 0.3


def test_chips_keep_to_edges_and_to_the_elements_that_are_hit() -> None:
    size = 256
    mask = compute("courses", {}, size)["mask"]
    made = compute("chip", {"height": mask, "mask": mask}, size, width=0.02, amount=0.8)
    inward = -signed_distance(mask, Context(size, size).bands)
    assert made["chips"].max() > 0.9 and made["chips"][inward > 0.022].max() == 0
    assert (made["height"] <= mask + 1e-6).all()
    few = compute("chip", {"height": mask, "mask": mask}, size, width=0.02, amount=0.8, share=0.3)
    labels = find_regions(mask >= 0.5, False)
    hit = [few["chips"][labels == k].max() > 0 for k in range(1, labels.max() + 1)]
    assert 0.1 < np.mean(hit) < 0.5


def test_stains_run_down_and_fade_by_their_length() -> None:
    size = 200
    source = np.zeros((size, size), np.float32)
    source[150, 80:110] = 1
    flat = np.full((size, size), 0.5, np.float32)
    made = compute("runs", {"height": flat, "source": source}, size, length=0.2, streaks=0.0, spreading=0.0)
    assert made[149].max() < 0.02 and abs(made[190, 95] - np.exp(-1)) < 0.01
    assert abs(made[20, 95] - np.exp(-70 / 40)) < 0.01  # come in again at the top
    place = tile_places(size, size)
    tilted = (0.5 + 0.4 * np.sin(2 * np.pi * place[..., 0])).astype(np.float32)
    aside = compute("runs", {"height": tilted, "source": source}, size, depth=0.2, length=0.5, streaks=0.0)
    middle = (aside[199] * place[199, :, 0]).sum() / aside[199].sum()
    assert middle > 95 / size + 0.01  # downhill is to the right there


# -- materials -----------------------------------------------------------------------------------------


def test_of_two_surfaces_the_higher_shows_and_they_meet() -> None:
    first, second = smooth_map(128, 128), smooth_map(128, 128, 3)
    made = compute("by_height", {"below": first, "above": second}, softness=0.0)
    assert np.allclose(made["height"], np.maximum(first, second), atol=1e-5)
    assert np.array_equal(made["mask"] > 0.5, second > first)
    none = np.zeros_like(first)
    hidden = compute("by_height", {"below": first, "above": second + 1, "above_mask": none})
    assert np.allclose(hidden["height"], first, atol=1e-4) and hidden["mask"].max() == 0
    soft = compute("by_height", {"below": first, "above": second}, softness=0.2)
    steps = [np.abs(np.diff(h, axis=1)).max() for h in (soft["height"], first, second)]
    assert steps[0] < 2 * max(steps[1:])  # no step and no ditch at the border


def test_materials_are_mixed_channel_by_channel() -> None:
    size = 64
    grey = smooth_map(size, size)
    below = Material(base_colour=np.full((size, size, 3), 0.2, np.float32), height=grey, metallic=grey * 0)
    above = Material(base_colour=np.full((size, size, 3), 0.8, np.float32), roughness=grey * 0 + 0.9)
    mask = (tile_places(size, size)[..., 0] > 0.5).astype(np.float32)
    made = compute("mix_materials", {"below": below, "above": above, "mask": mask}, size)
    assert set(made["material"]) == {"base_colour", "height", "metallic", "roughness"}
    assert np.allclose(made["material"]["base_colour"][..., 0], 0.2 + 0.6 * mask)
    assert np.allclose(made["material"]["roughness"], 0.5 + 0.4 * mask)  # below there was none: it was even
    # A stain of colour alone leaves the height and the metal below it as they are; unless it is to lie even.
    assert np.array_equal(made["material"]["height"], grey)
    assert np.array_equal(made["material"]["metallic"], grey * 0)
    even = compute(
        "mix_materials", {"below": below, "above": above, "mask": mask}, size, absent_above="lies even"
    )
    assert np.allclose(even["material"]["height"], grey + (0.5 - grey) * mask, atol=1e-6)
    kept = compute(
        "mix_materials", {"below": below, "above": above, "mask": mask}, size, mix_base_colour=False
    )
    assert np.array_equal(kept["material"]["base_colour"], below["base_colour"])
    sand = Material(height=np.full((size, size), 0.5, np.float32), metallic=grey * 0 + 1)
    high = compute("mix_materials", {"below": below, "above": sand}, size, by="height", softness=0.0)
    assert np.array_equal(high["material"]["metallic"] > 0.5, grey < 0.5)
    assert np.allclose(high["material"]["height"], np.maximum(grey, 0.5), atol=1e-5)


def test_a_whole_surface_is_built_of_materials_and_the_rig_goes_to_another_weave() -> None:
    weave = rl.Weave()
    rust = weave.add("solid", colour=(0.3, 0.1, 0.04))
    noise = weave.add("fractal_noise", cells=4)
    clean, dirty = weave.add("material"), weave.add("material")
    weave.connect(noise, f"{clean}.height")
    for source, channel in ((rust, "base_colour"), (noise, "roughness")):
        weave.connect(source, f"{dirty}.{channel}")
    bends = weave.add("curvature")
    weave.connect(noise, bends)
    mix = weave.add("mix_materials")
    for source, port in ((clean, "below"), (dirty, "above"), (f"{bends}.cavities", "mask")):
        weave.connect(source, f"{mix}.{port}")
    parts = weave.add("material_channels")
    weave.connect(mix, parts)
    for channel in ("base_colour", "roughness", "height"):
        weave.tie(f"{parts}.{channel}", channel)
    maps = rl.evaluate_maps(weave, size=64)
    cavities = rl.evaluate(weave, f"{bends}.cavities", size=64)
    wanted = 0.5 + (0.3 - 0.5) * np.clip(cavities, 0, 1)
    assert np.allclose(maps["base_colour"][..., 0], wanted, atol=1e-5)
    both = rl.evaluate(weave, mix, size=64)
    assert isinstance(both, Material) and not both["height"].flags.writeable
    with pytest.raises(rl.ConnectError, match="gives material"):
        weave.connect(mix, weave.add("blur"))


def test_normals_of_a_sine_surface_are_its_own() -> None:
    size, physical, depth = 512, (1.5, 0.75), 0.1
    place = tile_places(size, size).astype(np.float64)
    phase = 2 * np.pi * (3 * place[..., 0] + 2 * place[..., 1])
    relief = (0.5 + 0.5 * np.sin(phase)).astype(np.float32)
    made = compute("normal", {"height": relief}, size, physical, depth) * 2.0 - 1
    rise = depth * 0.5 * np.cos(phase) * 2 * np.pi
    wanted = np.stack([-rise * 3 / physical[0], rise * 2 / physical[1], np.ones_like(rise)], axis=-1)
    wanted /= np.sqrt((wanted**2).sum(axis=-1, keepdims=True))
    assert np.abs(made - wanted).max() < 1e-3


@pytest.mark.parametrize("size", [(48, 48), (60, 30), (7, 5)])
def test_mean_curvature_is_that_of_central_differences(size: tuple[int, int]) -> None:
    """Against the differential geometry of a height field, each derivative taken by itself."""
    width, height = size
    surface = np.random.default_rng(6).random((height, width)).astype(np.float32)
    context = Context(width, height, physical=(0.4, 0.3), depth=0.02)
    dx, dy = 0.4 / width, 0.3 / height

    def slope(map: np.ndarray, axis: int, step: float) -> np.ndarray:
        return (np.roll(map, -1, axis) - np.roll(map, 1, axis)) / (2 * step)

    metres = surface.astype(np.float64) * 0.02
    p, q = slope(metres, 1, dx), slope(metres, 0, dy)
    r, s, t = slope(p, 1, dx), slope(p, 0, dy), slope(q, 0, dy)
    top = (1 + q**2) * r - 2 * p * q * s + (1 + p**2) * t
    wanted = -top / (2 * (1 + p**2 + q**2) ** 1.5)
    assert mean_curvature(context, surface) == pytest.approx(wanted, abs=1e-4 * np.abs(wanted).max())
