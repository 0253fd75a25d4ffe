"""Places, noises, tones, layers and pictures against what they are defined to be."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from scipy import ndimage

import reedloom as rl
from picture_writing import write_picture
from reedloom.delivery.encode import FORMATS, write_map
from reedloom.kernels.colours import srgb_from_linear
from reedloom.kernels.curves import evaluate_curve
from reedloom.kernels.places import tile_places
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kinds.combine.modes import MODES
from reedloom.kinds.filter.close_seams import join_slopes, shares_along
from reedloom.kinds.tone.ease import smooth_step
from reedloom.kit.context import Context
from reedloom.kit.formulas import LARGEST, FormulaError, read_formula
from reedloom.kit.kind import own_seed
from reedloom.laws.draws import make_inputs, run, smooth_map
from reedloom.weave.document import End
from weaving import KINDS, evaluate

SIZE = (96, 96)


def compute(
    kind_id: str, inputs: dict[str, np.ndarray] | None = None, size: tuple[int, int] = SIZE, **values
):  # type: ignore[no-untyped-def]
    """A kind's outputs, or its only one."""
    kind = built_in_kinds().get(kind_id)
    outputs = run(kind, inputs or {}, kind.defaults() | values, size).outputs
    return outputs[kind.outputs[0].name] if len(kind.outputs) == 1 else outputs


# -- formulas ----------------------------------------------------------------------------------------

HOSTILE = [
    "__import__('os').system('x')", "().__class__", "a.__class__", "a[0]", "[a for a in a]",
    "lambda: a", "a := 1", "open('x')", "eval('a')", "exec", "print(a)", "f'{a}'", "'a'", "b'a'",
    "{a}", "{a: b}", "a, b", "*a", "a if b", "sin(a, b)", "sin(x=a)", "min(*a)", "~a", "a @ b",
    "a // b", "a << 2", "a & b", "a in b", "a is b", "await a", "yield a", "True", "None", "...",
    "2 ** 65", "a ** -99", "1e999", "(" * 300 + "a" + ")" * 300, "a" * 500, "+".join(["a"] * 300),
    "a\\b", "a;b",
    "a\x00b", "é", "np.sin(a)", "sin.__call__(a)", "_add(a, b)", "_f_sin(a)",
]  # fmt: skip


@pytest.mark.parametrize("text", HOSTILE)
def test_formulas_refuse_everything_but_arithmetic(text: str) -> None:
    with pytest.raises(FormulaError) as caught:
        read_formula(text, frozenset("ab"))
    assert 0 <= caught.value.at <= max(len(text), 400)
    assert str(caught.value).startswith("At character") and str(caught.value).endswith(".")


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("a + b * 2", lambda a, b: a + b * 2),
        ("(a - b) ** 2 / 4", lambda a, b: (a - b) ** 2 / 4),
        ("a if a > b else b", np.maximum),
        ("a > 0.2 and b < 0.8 or not a", lambda a, b: (((a > 0.2) & (b < 0.8)) | (a == 0)).astype(float)),
        ("0.2 < a <= 0.7", lambda a, b: ((a > 0.2) & (a <= 0.7)).astype(float)),
        ("smoothstep(0.2, 0.8, a)", lambda a, b: smooth_step("cubic", np.clip((a - 0.2) / 0.6, 0, 1))),
        ("mix(a, b, 0.25) + fract(3 * a)", lambda a, b: a + (b - a) * 0.25 + (3 * a) % 1),
        (
            "atan2(sin(2*pi*a), cos(2*pi*a))",
            lambda a, b: np.arctan2(np.sin(2 * np.pi * a), np.cos(2 * np.pi * a)),
        ),
        ("min(a, b, 0.3) + max(a, b)", lambda a, b: np.minimum(np.minimum(a, b), 0.3) + np.maximum(a, b)),
        ("-a % 0.3", lambda a, b: (-a) % 0.3),
        ("clamp(a * 3 - 1)", lambda a, b: np.clip(a * 3 - 1, 0, 1)),
    ],
)
def test_formulas_compute_what_they_say(text: str, wanted) -> None:  # type: ignore[no-untyped-def]
    chance = np.random.default_rng(2)
    a, b = chance.random((20, 30), np.float32), chance.random((20, 30), np.float32)
    got = read_formula(text, frozenset("ab"))({"a": a, "b": b})
    assert np.abs(got - wanted(a.astype(float), b.astype(float))).max() < 1e-5


def test_formulas_stay_finite_and_name_the_place_of_trouble() -> None:
    zero = np.zeros((4, 4), np.float32)
    for text in ("a / a", "log(a)", "sqrt(a - 1)", "a ** -3", "exp(exp(exp(9 + a)))", "(a - 1) ** 0.5"):
        got = np.asarray(read_formula(text, frozenset("a"))({"a": zero}))
        assert np.isfinite(got).all() and np.abs(got).max() <= LARGEST
    for text, at in (("a + foo", 4), ("a + (b", 0), ("sin(a) + cos(a, b)", 9), ("a.real", 0)):
        with pytest.raises(FormulaError) as caught:
            read_formula(text, frozenset("ab"))
        assert abs(caught.value.at - at) <= 2, text
    with pytest.raises(rl.ReedError, match=r"'formula_1.formula' cannot be .*At character 5: 'w' is unknown"):
        weave = rl.Weave()
        weave.add("formula", formula="a + w")


# -- places --------------------------------------------------------------------------------------------


def test_places_split_join_fold_and_repeat() -> None:
    parts = compute("split_place")
    joined = compute("join_place", parts)
    assert np.array_equal(joined, tile_places(*SIZE))
    mirrored = compute("fold_place", way="u")
    assert np.allclose(mirrored[:, :48, 0], mirrored[:, 48:, 0][:, ::-1], atol=1e-5)
    cells = compute("repeat_place", columns=4, rows=2, row_shift=0.5)
    local = cells["local"]
    assert np.allclose(local[5, 0:24], local[5, 24:48], atol=1e-4)
    assert np.allclose(local[5, :, 0], np.roll(local[50, :, 0], -12), atol=1e-4), "the second row is moved"
    assert len(np.unique(np.round(cells["random"][4:44:8, 4::24], 6))) == 4
    polar = compute("polar_place", centre_u=0.25, centre_v=0.5)
    away = (tile_places(*SIZE) - [0.25, 0.5] + 0.5) % 1 - 0.5
    assert np.allclose(polar["radius"], np.hypot(away[..., 0], away[..., 1]), atol=1e-6)
    turned = np.arctan2(away[..., 1], away[..., 0]) / (2 * np.pi) % 1
    difference = polar["angle"] - turned
    assert np.abs(difference - np.round(difference)).max() < 1e-5


def test_a_bent_chain_is_crisp_and_each_generator_runs_once() -> None:
    """Tile place, bent twice by centred noise, then cells: no resampling, and one evaluation of each."""
    weave = rl.Weave()
    place = weave.add("tile_place")
    broad, fine = weave.add("gradient_noise", cells=3), weave.add("gradient_noise", cells=20, seed=4)
    first, second = weave.add("bend_place", strength=0.1), weave.add("bend_place", strength=0.02)
    cells = weave.add("cellular_noise", cells=6, seed=0)
    weave.connect(place, f"{first}.place")
    weave.connect(broad, f"{first}.by")
    weave.connect(first, f"{second}.place")
    weave.connect(fine, f"{second}.by")
    weave.connect(second, f"{cells}.place")
    ends = [End(node=cells, port=port) for port in ("nearest", "border", "random")]
    outcome = evaluate(weave.document, ends, 256)
    assert sorted(outcome.seconds) == sorted([place, broad, fine, first, second, cells])
    plain = built_in_kinds().get("cellular_noise").defaults()
    plain |= {"cells": 6, "seed": own_seed("cellular_noise", 0)}
    bent = rl.evaluate(weave, second, size=256)
    straight = run(built_in_kinds().get("cellular_noise"), {"place": bent}, plain, (256, 256)).outputs[
        "nearest"
    ]
    assert np.array_equal(straight, outcome.results[End(node=cells, port="nearest")])
    edges = np.abs(np.diff(outcome.results[End(node=cells, port="random")], axis=1))
    assert np.percentile(edges[edges > 0.05], 75) > 0.1, "borders are as sharp as a sample allows"


def test_one_drawing_in_each_cell_turned_and_scaled_by_chance() -> None:
    """Repeat place, then the drawing's own turn and scale from the cell's random value."""
    size = (192, 192)
    cells = compute("repeat_place", size=size, columns=4, rows=4, seed=3)
    scale = cells["random"] * 0.6 + 0.4
    moved = compute(
        "transform_place",
        {"place": cells["local"], "turn_map": cells["random"], "scale_map": scale},
        size=size,
        keep_tiling=False,
    )
    disc = compute("disc", {"place": moved}, size=size, radius=0.3, centre_u=0.62, wrapped=False)
    areas = disc["mask"].reshape(4, 48, 4, 48).sum(axis=(1, 3)).ravel()
    wanted = math.pi * (0.3 * 48 * scale[24::48, 24::48].ravel()) ** 2
    assert np.abs(areas / wanted - 1).max() < 0.12
    weights = disc["mask"].reshape(4, 48, 4, 48)
    middles = (weights * np.arange(48)[:, None, None]).sum(axis=(1, 3)) / weights.sum(axis=(1, 3))
    assert np.ptp(middles) > 3, "each is turned by its own angle"


def test_sampling_reads_by_nearest_linear_and_cubic() -> None:
    map = smooth_map(64, 64)
    place = tile_places(64, 64) * 0.7 + 0.613
    for reading, order in (("nearest", 0), ("linear", 1)):
        got = compute("sample", {"map": map, "place": place}, (64, 64), reading=reading)
        at = np.moveaxis(place[..., ::-1] * 64 - 0.5, -1, 0).astype(np.float64)
        wanted = ndimage.map_coordinates(map, at, order=order, mode="grid-wrap")
        assert np.abs(got - wanted).max() < (0.05 if order == 0 else 1e-4)
    same = compute("sample", {"map": map, "place": tile_places(64, 64)}, (64, 64), reading="cubic")
    assert np.abs(same - map).max() < 1e-5


# -- noises --------------------------------------------------------------------------------------------

SCATTERED = [
    "cellular_noise",
    "spot_noise",
    "facet_noise",
    "fibre_noise",
    "gabor_noise",
    "value_noise",
    "white_noise",
]


@pytest.mark.parametrize("kind_id", SCATTERED)
@pytest.mark.parametrize("evolution", [0.0, 0.37])
def test_noise_on_the_grid_is_noise_at_its_places(kind_id: str, evolution: float) -> None:
    """The fast path over runs of samples against the plain one, which looks at every sample by itself."""
    kind = built_in_kinds().get(kind_id)
    size = (160, 160)
    values = kind.defaults() | {"evolution": evolution}
    if kind_id == "cellular_noise":
        values |= {"jitter": 0.8}
    if "waviness" in values:
        values |= {"waviness": 0.0}
    if "octaves" in values:
        values |= {"octaves": 1.0}
    if kind_id == "white_noise":
        values |= {"cells": 40}
    grid = run(kind, {}, values, size).outputs
    placed = run(kind, {"place": tile_places(*size)}, values, size).outputs
    for name, array in grid.items():
        difference = np.abs(array - placed[name])
        assert np.median(difference) < 2e-4 and (difference > 0.02).mean() < 0.02, name


def test_grain_at_places_fades_to_its_mean_from_half_a_cell_in_a_sample_to_a_whole_one() -> None:
    spread = [
        compute("white_noise", {"place": tile_places(64, 64)}, size=(64, 64), cells=cells).std()
        for cells in (8, 31, 48, 64, 90)
    ]
    # An even spread of 0 to 1, less at each cell's borders; at three quarters of a cell half of what is left.
    assert 0.25 < spread[0] < 0.29
    assert 0.4 < 2 * spread[2] / spread[1] < 1.0
    assert spread[3] < 1e-6 and spread[4] < 1e-6


@pytest.mark.parametrize("kind_id", ["cellular_noise", "spot_noise", "facet_noise", "fibre_noise", "wave"])
def test_evolution_by_map_is_evolution_by_number_for_cells(kind_id: str) -> None:
    kind = built_in_kinds().get(kind_id)
    values = kind.defaults() | {"evolution": 0.3} | ({"waviness": 0.0} if kind_id == "fibre_noise" else {})
    by_number = run(kind, {}, values, SIZE).outputs[kind.outputs[0].name]
    moving = {"evolution_map": np.full(SIZE, 0.3, np.float32)}
    by_map = run(kind, moving, values | {"evolution": 0.0}, SIZE).outputs[kind.outputs[0].name]
    difference = np.abs(by_number - by_map)
    assert np.median(difference) < 1e-3 and (difference > 0.05).mean() < 0.02


def test_peaks_that_circle_are_found_wherever_they_come_near() -> None:
    """Samples of one cell with evolutions of their own see the peaks that they would see were all alike."""
    after = (0.0, 0.3, 0.55)
    moving = np.array(after, np.float32)[np.random.default_rng(1).integers(0, 3, SIZE)]
    more = {"cells": 30, "unevenness": 1.0, "sides": 8}
    by_map = compute("facet_noise", {"evolution_map": moving}, **more)
    for number in after:
        by_number = compute("facet_noise", evolution=number, **more)
        here = moving == np.float32(number)
        assert np.abs(by_map - by_number)[here].max() < 1e-5


def test_flow_has_no_divergence() -> None:
    flow = compute("flow_noise", size=(256, 256))["flow"].astype(np.float64)
    waves = np.fft.fftfreq(256) * 256
    across, down = (np.fft.fft2(flow[..., n]) for n in (0, 1))
    divergence = waves[None, :] * across + waves[:, None] * down
    assert np.linalg.norm(divergence) < 0.02 * np.linalg.norm(waves[None, :] * across)
    assert 0.4 < flow.std() < 0.9


@pytest.mark.parametrize(("frequency", "direction"), [(20.0, 0.0), (32.0, 90.0), (24.0, 45.0)])
def test_gabor_noise_has_its_power_where_it_is_asked_for(frequency: float, direction: float) -> None:
    map = compute(
        "gabor_noise", size=(256, 256), frequency=frequency, direction=direction, spread=0.0, bandwidth=0.2
    )
    power = np.abs(np.fft.rfft2(map - map.mean())) ** 2
    y, x = np.mgrid[:256, :129]
    y = np.where(y > 128, y - 256, y)
    away = np.hypot(x - frequency * abs(math.cos(math.radians(direction))),
                    np.abs(y) - frequency * abs(math.sin(math.radians(direction))))  # fmt: skip
    assert power[away < 0.35 * frequency].sum() > 0.9 * power.sum()


def test_grain_is_the_share_of_each_cell() -> None:
    cells = compute("white_noise", size=(64, 64), cells=64)
    coarse = compute("white_noise", size=(16, 16), cells=64)
    assert np.allclose(cells.reshape(16, 4, 16, 4).mean(axis=(1, 3)), coarse, atol=1e-5)
    between = compute("white_noise", size=(48, 48), cells=64)
    assert abs(between.mean() - cells.mean()) < 1e-4


# -- tones ---------------------------------------------------------------------------------------------


def test_tones_are_their_definitions() -> None:
    x = np.broadcast_to(np.linspace(-0.3, 1.3, 96, dtype=np.float32), SIZE).copy()
    flat = np.abs(np.arange(96) - 47) < 46  # away from the jump at the seam
    quintic = np.polynomial.polynomial.polyval(np.clip(x, 0, 1), (0, 0, 0, 10, -15, 6))
    cases = {
        ("limit", (("low", 0.2), ("high", 0.6))): np.clip(x, 0.2, 0.6),
        ("range", (("from_low", 0.2), ("from_high", 0.4), ("to_low", 1.0), ("to_high", 0.0))): 1
        - (x - 0.2) / 0.2,
        ("contrast", (("contrast", 2.0), ("middle", 0.4), ("brightness", 0.1))): (x - 0.4) * 2 + 0.5,
        ("flip", (("middle", 0.6),)): 1.2 - x,
        ("ease", (("amount", 1.0), ("family", "quintic"))): quintic,
    }
    for (kind_id, values), wanted in cases.items():
        got = compute(kind_id, {"map": x}, **dict(values))
        assert np.abs(got - wanted)[:, flat].max() < 2e-3, kind_id
    back = compute("ease", {"map": compute("ease", {"map": np.clip(x, 0, 1)}, amount=1.0)}, amount=-1.0)
    assert np.abs(back - np.clip(x, 0, 1)).max() < 0.01
    treads = compute("steps", {"map": x}, count=4)
    level = np.floor(np.clip(x, 0, 0.999) * 4) / 3
    inside = flat & (x[0] > 0.02) & (x[0] < 0.98) & (np.abs(x[0] * 4 % 1 - 0.5) < 0.42)
    assert np.abs(treads - level)[:, inside].max() < 1e-4
    folded = compute("fold_tone", {"map": x}, folds=3)
    zigzag = 1 - np.abs((x * 3) % 2 - 1)
    assert np.abs(folded - zigzag)[:, flat].max() < 0.03
    mask = compute("band", {"map": x}, centre=0.5, width=0.3, softness=0.0)
    assert mask[:, flat].mean() * 92 == pytest.approx(0.3 / 1.6 * 95, rel=0.1)


def test_a_tone_curve_is_the_drawn_one() -> None:
    knots = ((0.1, 0.2, 0.0), (0.3, 0.9, 0.0), (0.5, 0.4, 1.0), (0.8, 1.3, 0.0), (0.9, 0.0, 0.0))
    x = np.random.default_rng(1).random((96, 96), np.float32) * 1.4 - 0.2
    assert np.abs(compute("curve", {"map": x}, curve=knots) - evaluate_curve(knots, x)).max() < 1e-4


def test_layers_are_blends_one_after_another() -> None:
    chance = np.random.default_rng(4)
    maps = {f"layer_{n}": chance.random((96, 96), np.float32) for n in (1, 2, 3, 5)}
    got = compute("layers", maps, mode_2="multiply", strength_2=0.5, on_3=False, mode_5="screen",
                  curve_5=((0.0, 1.0, 0.0), (1.0, 0.0, 0.0)))  # fmt: skip
    total = maps["layer_1"]
    total = total + 0.5 * (total * maps["layer_2"] - total)
    total = MODES["screen"](total, 1 - maps["layer_5"])
    assert np.abs(got - total).max() < 1e-5


# -- colour --------------------------------------------------------------------------------------------


def test_colours_survive_being_taken_apart_and_put_together() -> None:
    colour = np.random.default_rng(1).random((96, 96, 3), np.float32)
    for space in ("RGB", "HSV"):
        apart = compute("split_colour", {"colour": colour}, space=space)
        assert np.abs(compute("join_colour", apart, space=space) - colour).max() < 2e-3
    assert np.abs(compute("tint", {"colour": colour}, hue=360.0) - colour).max() < 2e-3
    balanced = compute("colour_balance", {"colour": colour}, dark_blue=0.7, light_red=0.4)
    weights = np.array([0.2126, 0.7152, 0.0722])
    assert np.abs(balanced @ weights - colour @ weights).max() < 1e-3
    like = colour * 0.3 + 0.1
    matched = compute("match_tone", {"map": colour, "like": like})
    assert np.allclose(matched.mean((0, 1)), like.mean((0, 1)), atol=1e-4)
    assert np.allclose(matched.std((0, 1)), like.std((0, 1)), atol=1e-4)
    cell = np.repeat(np.arange(4, dtype=np.float32) / 4, 24)
    random = np.broadcast_to(cell, SIZE).copy()
    varied = compute("vary_colour", {"colour": np.full((96, 96, 3), 0.3, np.float32), "random": random})
    assert all(np.ptp(varied[:, n * 24 : n * 24 + 24], axis=(0, 1)).max() < 1e-5 for n in range(4))
    assert np.ptp(varied, axis=(0, 1)).max() > 0.02


OXIDE = [
    (50, "tan"), (70, "brown"), (100, "violet"), (120, "blue"), (150, "blue"), (200, "yellow"),
    (220, "yellow"), (250, "orange"), (275, "red violet"), (310, "blue"), (345, "green"),
    (365, "green"), (390, "yellow"), (412, "orange"), (440, "red violet"), (465, "red violet"),
    (493, "blue"), (520, "green"),
]  # fmt: skip
"""Colours of silica on silicon seen straight on, as published (W. A. Pliskin and E. E. Conrad, 1964)."""
HUES = {
    "tan": (55, 100), "brown": (40, 100), "violet": (255, 330), "blue": (215, 290), "yellow": (80, 125),
    "orange": (15, 80), "red violet": (310, 350), "green": (135, 200),
}  # fmt: skip
"""Ranges of hue in OKLCH, degrees."""


@pytest.mark.parametrize(("nanometres", "name"), OXIDE)
def test_films_have_the_published_colours_of_oxide(nanometres: int, name: str) -> None:
    thickness = np.full(SIZE, nanometres / 600, np.float32)
    colour = compute("film", {"thickness_map": thickness}, base_index=4.1, base_absorption=0.03)[40:41, 40:41]
    _, chroma, hue = compute_lch(colour)
    low, high = HUES[name]
    assert low <= hue <= high and chroma > 0.01, (nanometres, hue)


def compute_lch(colour: np.ndarray) -> tuple[float, float, float]:
    """Lightness, chroma and hue in degrees of one colour."""
    from reedloom.kernels.colours import oklch_from_linear

    light, chroma, hue = oklch_from_linear(colour.astype(np.float64))[0, 0]
    return float(light), float(chroma), float(hue * 360)


# -- pictures ------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("suffix", "kind", "linear"),
    [("png", "uint8", False), ("png", "uint16", False), ("tif", "uint16", False), ("exr", "float", True)],
)
def test_pictures_come_in_as_what_they_are(tmp_path: Path, suffix: str, kind: str, linear: bool) -> None:
    colour = np.random.default_rng(1).random((24, 32, 3)).astype(np.float32)
    held = colour if linear else (srgb_from_linear(colour) * np.iinfo(kind).max + 0.5).astype(kind)
    write_picture(tmp_path / f"bowl.{suffix}", held, kind)
    got = compute("picture", size=(32, 24), file=str(tmp_path / f"bowl.{suffix}"))
    assert np.abs(got["colour"] - colour).max() < (0.01 if kind == "uint8" else 1e-3)
    plain = compute("picture", size=(32, 24), file=str(tmp_path / f"bowl.{suffix}"), reading="plain")
    assert np.abs(plain["colour"] - (colour if linear else srgb_from_linear(colour))).max() < 0.01
    twice = compute("picture", size=(64, 24), file=str(tmp_path / f"bowl.{suffix}"), repeat_u=2)["colour"]
    assert np.abs(twice[:, :32] - got["colour"]).max() < 1e-5 and np.array_equal(twice[:, :32], twice[:, 32:])
    small = compute("picture", size=(8, 6), file=str(tmp_path / f"bowl.{suffix}"))["colour"]
    assert np.allclose(small, got["colour"].reshape(6, 4, 8, 4, 3).mean(axis=(1, 3)), atol=1e-5)


def test_alpha_is_apart_and_a_missing_picture_leaves_the_weave_open(tmp_path: Path) -> None:
    rgba = np.full((8, 8, 4), 255, np.uint8)
    rgba[:, :4, 3] = 0
    write_picture(tmp_path / "leaf.png", rgba, "uint8")
    got = compute("picture", size=(8, 8), file=str(tmp_path / "leaf.png"))
    assert (
        np.array_equal(got["alpha"][0], np.repeat([0.0, 1.0], 4).astype(np.float32))
        and got["colour"].min() > 0.99
    )
    (tmp_path / "broken.png").write_bytes((tmp_path / "leaf.png").read_bytes()[:40])
    weave = rl.Weave()
    picture, noise = weave.add("picture", file="gone.png"), weave.add("gradient_noise")
    mixed = weave.add("blend")
    weave.connect(f"{picture}.grey", f"{mixed}.below")
    weave.connect(noise, f"{mixed}.above")
    rl.save_weave(weave, tmp_path / "bowl.reed")
    opened = rl.open_weave(tmp_path / "bowl.reed")
    ends = [End(node=picture, port="grey"), End(node=mixed, port="map"), End(node=noise, port="noise")]
    outcome = evaluate(opened.document, ends, 16)
    assert "there is no such file" in outcome.failures[picture] and "waits for" in outcome.failures[mixed]
    assert End(node=noise, port="noise") in outcome.results
    for name in ("broken.png", "bowl.reed"):
        opened.set(picture, file=name)
        assert "Cannot read" in evaluate(opened.document, ends[:1], 16).failures[picture]
    opened.set(picture, file="leaf.png")
    assert not evaluate(opened.document, ends, 16).failures


def test_paths_follow_the_weave_and_a_changed_file_is_read_anew(tmp_path: Path) -> None:
    folder, other = tmp_path / "jar", tmp_path / "bowl"
    folder.mkdir()
    other.mkdir()
    path = folder / "speck.png"
    write_map(path, np.full((4, 4), 0.25, np.float32), FORMATS["png16"], srgb=False)
    weave = rl.Weave()
    picture = weave.add("picture", file=str(path))
    rl.save_weave(weave, folder / "jar.reed")
    assert KINDS.value(weave.document.graph.nodes[picture], "file") == "speck.png"
    assert '"file": "speck.png"' in (folder / "jar.reed").read_text()
    end = f"{picture}.grey"
    assert rl.evaluate(weave, end, size=4)[0, 0] == pytest.approx(0.25, abs=1e-4)
    rl.save_weave(weave, other / "jar.reed")
    assert KINDS.value(weave.document.graph.nodes[picture], "file") == str(path)
    assert rl.evaluate(rl.open_weave(other / "jar.reed"), end, size=4)[0, 0] == pytest.approx(0.25, abs=1e-4)
    write_map(path, np.full((6, 6), 0.75, np.float32), FORMATS["png16"], srgb=False)
    assert rl.evaluate(weave, end, size=4)[0, 0] == pytest.approx(0.75, abs=1e-4)


@pytest.mark.parametrize("way", ["overlap", "mirror"])
def test_closing_seams_closes_them(way: str) -> None:
    place = tile_places(128, 128)
    photo = (place[..., 0] * 0.6 + place[..., 1] * 0.3).astype(np.float32)  # does not tile at all
    photo += 0.1 * np.random.default_rng(1).random((128, 128), np.float32)
    closed = compute("close_seams", {"map": photo}, (128, 128), way=way)
    for axis in (0, 1):
        steps = np.abs(np.diff(closed, axis=axis, append=closed.take([0], axis=axis))).mean(axis=1 - axis)
        assert steps[-1] <= 1.5 * np.median(steps)
    if way == "overlap":
        plain = compute("close_seams", {"map": photo}, (128, 128), way=way, blending="tones")
        assert np.array_equal(plain[50:78, 50:78], photo[50:78, 50:78]), "the middle stays as it was"
        # Joined by slopes, the middle keeps them, and light and dark on both sides of the line even out.
        changed = (closed - photo)[50:78, 50:78]
        assert np.abs(np.diff(changed, axis=1)).max() < 0.02 and np.ptp(changed) > 0.05
        broad = [np.ptp(ndimage.uniform_filter(m, 21, mode="wrap")) for m in (closed, plain)]
        assert broad[0] < 0.6 * broad[1]


def test_a_seam_runs_in_the_joints_between_stones() -> None:
    """Where the line goes, both pictures are low: measured on stones of many tones under uneven light."""
    n, heights = 192, {0.0: [], 1.0: []}
    for seed in range(3):
        place = tile_places(n, n) * np.float32(0.37) + np.float32(0.3 * seed)
        cells = compute("cellular_noise", {"place": place}, (n, n), cells=24, seed=seed)
        stone = np.clip(cells["border"] * 3, 0, 1)
        light = 0.6 + 0.5 * tile_places(n, n)[..., 0]
        photo = ((0.35 + 0.6 * cells["random"]) * stone * light).astype(np.float32)
        for joints, found in heights.items():
            share, _ = shares_along(Context(n, n), photo, 1, 0.3, 0.004, np.zeros_like(photo), joints)
            line = np.abs(np.diff(share, axis=1, append=share[:, :1]))
            torn = np.maximum(stone, np.roll(stone, n // 2, axis=1))
            found.append(float((line * torn).sum() / line.sum()))
    assert np.mean(heights[1.0]) < 0.85 * np.mean(heights[0.0])


def test_a_large_picture_closes_along_the_lines_of_a_smaller_one() -> None:
    """What is delivered at 2048² is what was seen at 512², with a grain that changes what a line costs."""
    chance = np.random.default_rng(4)
    grain = (ndimage.gaussian_filter(chance.random((1024, 1024), np.float32), s) for s in (1, 4, 16, 60))
    photo = sum(part / part.std() * weight for part, weight in zip(grain, (1, 1, 2, 4), strict=True))
    photo = (0.5 + 0.04 * photo).astype(np.float32)
    half = photo.reshape(512, 2, 512, 2).mean(axis=(1, 3))
    large, small = (
        compute("close_seams", {"map": map}, map.shape[::-1], blending="tones") for map in (photo, half)
    )
    apart = np.abs(large.reshape(512, 2, 512, 2).mean(axis=(1, 3)) - small)
    assert np.mean(apart > 0.03) < 1e-3


def test_joined_slopes_are_those_of_a_map_that_already_tiles() -> None:
    tiles = smooth_map(64, 48)
    share = (np.arange(64) > 32).astype(np.float32) * np.ones((48, 1), np.float32)
    joined = join_slopes(Context(64, 48), tiles, tiles, share)
    assert np.abs(joined - tiles).max() < 1e-5


# -- trying --------------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", [pytest.param(k, id=k.id) for k in built_in_kinds()])
def test_every_parameter_has_values_to_try(kind) -> None:  # type: ignore[no-untyped-def]
    inputs = make_inputs(kind, 16, 16)
    for parameter in kind.parameters:
        found = parameter.try_values(parameter.default)
        if parameter.is_file:
            continue
        assert 2 <= len(found) <= 5 and len({str(v) for _, v in found}) == len(found), parameter.name
        assert all(caption for caption, _ in found)
        if not parameter.series:
            for _, value in (found[0], found[-1]):
                run(kind, inputs, kind.defaults() | {parameter.name: value}, (16, 16))


# -- rows that are moved aside ---------------------------------------------------------------------------


def middles(kind_id: str, port: str, rows: int, **values: object) -> tuple[np.ndarray, tuple[str, ...]]:
    """Where in its cell each row begins, from a map at the middle of the rows, and what the kind says."""
    kind = built_in_kinds().get(kind_id)
    made = run(kind, {}, kind.defaults() | {"rows": rows, "columns": 4, **values}, (96, 840))
    local = made.outputs[port]
    turned = np.flatnonzero(np.diff(local[:, 0, 1], append=local[:1, 0, 1]) < -0.5)
    steps = np.diff(turned, append=turned[0] + 840)
    return local[(turned + steps // 2) % 840, 0, 0], made.notes


@pytest.mark.parametrize("shifted", ["every second", "every third", "cumulative"])
@pytest.mark.parametrize(
    ("kind_id", "port", "more"),
    [("repeat_place", "local", {}), ("courses", "element_place", {"gap": 0.0, "corner": 0.0})],
)
def test_no_joint_runs_straight_on_at_the_seam(kind_id: str, port: str, more: Any, shifted: str) -> None:
    for rows in (1, 2, 3, 4, 5, 6, 7, 8):
        at, notes = middles(kind_id, port, rows, row_shift=0.5, shifted=shifted, **more)
        moved = int((np.abs(np.diff(at, append=at[0])) > 0.2).sum())
        # Every third row lies aside of those around it; else each does of the next.
        assert moved == {"every third": len(at) * 2 // 3}.get(shifted, len(at) if len(at) > 1 else 0), rows
        assert (len(at) != rows) == any("rows are snapped" in note for note in notes)
        assert abs(len(at) - rows) <= 2
        assert len(middles(kind_id, port, rows, row_shift=0.0, shifted=shifted, **more)[0]) == rows


@pytest.mark.parametrize("count", [3, 4, 5])
@pytest.mark.parametrize(
    "more", [{"row_shift": 0.5}, {"alternate": "odd"}, {"alternate": "even", "row_shift": 0.2}]
)
def test_a_board_of_points_and_moved_rows_of_them_close(count: int, more: dict[str, Any]) -> None:
    weave = rl.Weave()
    node = weave.add("grid_points", rows=count, columns=count, **more)
    notes: dict[str, tuple[str, ...]] = {}
    points = rl.evaluate(weave, node, 8, notes=notes)
    even = count + count % 2
    assert int(points["row"].max()) == even - 1
    fields = {(int(p["row"]), int(p["column"])) for p in points}
    if "alternate" in more:
        assert all((row, (column + 1) % even) not in fields for row, column in fields)
    assert bool(notes) == (count % 2 == 1) and all(
        "snapped" in note for told in notes.values() for note in told
    )
