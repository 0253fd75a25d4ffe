"""What joins and varies: layers with masks and places, materials over one another, each element its own."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest

import reedloom as rl
from reedloom.kernels.places import tile_places
from reedloom.kernels.points import make_points
from reedloom.kinds.combine.mix_materials import EVEN
from reedloom.kit.data import Material
from reedloom.laws.draws import flow_of, some_islands
from reedloom.weave.fileformat import decode_document, encode_document
from weaving import KINDS

SIDE = 96


def compute(kind_id: str, inputs: dict[str, Any] | None = None, **values: Any) -> Any:
    """A kind's outputs as they flow, or its only one."""
    return flow_of(kind_id, inputs, values, (SIDE, SIDE))


def chance(number: int, *more: int) -> np.ndarray:
    return np.random.default_rng(number).random((SIDE, SIDE, *more), np.float32)


# -- layers and materials ------------------------------------------------------------------------------


def test_a_layer_shows_through_its_mask_at_its_place_and_level() -> None:
    first, second, mask = chance(1), chance(2), chance(3)
    quarter = tile_places(SIDE, SIDE) + np.array([0.25, 0.5], np.float32)
    got = compute(
        "layers",
        {"layer_1": first, "layer_2": second, "mask_2": mask, "place_2": quarter},
        mode_2="normal",
        strength_2=0.5,
        level_2=0.2,
    )
    moved = np.roll(second, (-SIDE // 2, -SIDE // 4), axis=(0, 1)) + np.float32(0.2)
    assert np.abs(got - (first + 0.5 * mask * (moved - first))).max() < 2e-3


def test_colours_and_greys_are_layers_of_one_picture() -> None:
    weave = rl.Weave()
    red, noise, mask = weave.add("solid", colour=(0.8, 0.1, 0.1)), weave.add("value_noise"), weave.add("disc")
    layers = weave.add("layers", mode_2="multiply")
    for output, port in ((red, "layer_1"), (noise, "layer_2"), (f"{mask}.mask", "mask_2")):
        weave.connect(output, f"{layers}.{port}")
    got = rl.evaluate(weave, layers, 64)
    grey, shown = (rl.evaluate(weave, end, 64) for end in (noise, f"{mask}.mask"))
    wanted = np.array([0.8, 0.1, 0.1]) * (1 + shown * (grey - 1))[..., None]
    assert got.shape == (64, 64, 3) and np.abs(got - wanted).max() < 1e-4


@pytest.mark.parametrize(
    ("range", "low", "high", "told"),
    [
        ("as it comes", -1.0, 3.0, True),
        ("held from 0 to 1", 0.0, 1.0, False),
        ("fitted from 0 to 1", 0.0, 1.0, False),
    ],
)
def test_a_sum_beyond_its_range_is_kept_or_told(range: str, low: float, high: float, told: bool) -> None:
    weave = rl.Weave()
    ramp, layers = (
        weave.add("linear_gradient"),
        weave.add("layers", range=range, level_1=-0.25, strength_1=4.0),
    )
    weave.connect(ramp, f"{layers}.layer_1")
    notes: dict[str, tuple[str, ...]] = {}
    got = rl.evaluate(weave, layers, 64, notes=notes)
    assert got.min() == pytest.approx(low, abs=0.1) and got.max() == pytest.approx(high, abs=0.1)
    assert ("% of the result lies beyond 0 to 1" in str(notes)) == told


def level_material(height: float, colour: float | None = None) -> Material:
    made = Material(height=np.full((SIDE, SIDE), height, np.float32))
    if colour is not None:
        made["base_colour"] = np.full((SIDE, SIDE, 3), colour, np.float32)
    return made


def test_eight_materials_lie_over_one_another_in_their_order() -> None:
    """Stripes of one mask each: the last laid on shows, and what it lacks leaves what is below."""
    inputs: dict[str, Any] = {"below": level_material(0.0, 0.0)}
    shown = np.zeros((SIDE, SIDE), np.float32)
    colours = shown.copy()
    for n in range(1, 8):
        mask = (chance(n) > 0.5).astype(np.float32)
        colour = n / 10 if n % 2 else None
        suffix = "" if n == 1 else f"_{n}"
        inputs |= {f"above{suffix}": level_material(n / 8, colour), f"mask{suffix}": mask}
        shown = np.where(mask > 0, np.float32(n / 8), shown)
        colours = colours if colour is None else np.where(mask > 0, np.float32(colour), colours)
    made = compute("mix_materials", inputs)
    assert np.abs(made["material"]["height"] - shown).max() < 1e-6
    assert np.abs(made["material"]["base_colour"][..., 1] - colours).max() < 1e-6
    assert np.array_equal(made["mask"] > 0.5, shown > 0)
    even = compute("mix_materials", inputs, absent_above=EVEN)["material"]["base_colour"]
    assert np.abs(even[..., 1] - colours).max() > 0.3


def test_a_material_is_read_at_its_place_and_compared_by_height_in_its_row() -> None:
    below, above = level_material(0.4), Material(height=chance(5))
    moved = tile_places(SIDE, SIDE) + np.array([0.5, 0], np.float32)
    inputs = {"below": below, "above": level_material(0.0), "above_2": above, "place_2": moved}
    made = compute("mix_materials", inputs, by="height", by_2="height", softness=0.0, softness_2=0.0)
    wanted = np.maximum(np.roll(above["height"], SIDE // 2, axis=1), 0.4)
    assert np.mean(np.abs(made["material"]["height"] - wanted)) < 0.02


# -- each element its own ------------------------------------------------------------------------------


def test_chances_are_independent_even_and_stay_with_their_element() -> None:
    islands = np.arange(SIDE * SIDE, dtype=np.int32).reshape(SIDE, SIDE)
    made = compute("element_chances", {"elements": islands})
    chances = [made[f"chance_{n}"].reshape(-1)[1:] for n in range(1, 7)]
    for values in chances:
        assert np.histogram(values, 10, (0, 1))[0].min() > 0.085 * values.size
    for first, second in pairwise(chances):
        assert abs(np.corrcoef(first, second)[0, 1]) < 0.03
    later = compute("element_chances", {"elements": islands}, first=4)
    assert np.array_equal(later["chance_1"], made["chance_4"])
    few = some_islands(SIDE, SIDE)
    one = compute("element_chances", {"elements": few})["chance_1"]
    assert all(np.ptp(one[few == n]) == 0 for n in np.unique(few))
    # From where they lie, chances stay when others go.
    fewer = np.where(few > 8, few - 8, 0).astype(np.int32)
    whole, rest = (
        compute("element_chances", {"elements": e}, comes_from="where it lies")["chance_2"]
        for e in (few, fewer)
    )
    assert np.array_equal(whole[fewer > 0], rest[fewer > 0]) and len(np.unique(rest)) > 4


def test_each_element_has_a_whole_picture_moved_turned_and_scaled_of_its_own() -> None:
    """In every element the place is a turn and one scale of the way from its middle, also across the seam."""
    islands = np.roll(some_islands(SIDE, SIDE), (10, 10), axis=(0, 1))
    values = {"turn_from": -180.0, "turn_to": 180.0, "scale_from": 0.5, "scale_to": 2.0}
    place = compute("vary_place", {"elements": islands}, **values)
    turns, scales = [], []
    for number in np.unique(islands)[1:]:
        y, x = np.nonzero(islands == number)
        away = np.exp(2j * np.pi * np.stack([x, y]) / SIDE)
        middle = np.angle(away.mean(axis=1)) / (2 * np.pi)
        u, v = (((c / SIDE - m + 0.5) % 1) - 0.5 for c, m in zip((x, y), middle, strict=True))
        design = np.stack([u, v, np.ones_like(u)], axis=1)
        fit, left, *_ = np.linalg.lstsq(design, place[y, x].astype(np.float64), rcond=None)
        assert left.max() < 1e-6
        a, b = fit[0], fit[1]
        assert a @ b == pytest.approx(0, abs=1e-4) and np.hypot(*a) == pytest.approx(np.hypot(*b), rel=1e-3)
        turns.append(np.arctan2(a[1], a[0]))
        scales.append(1 / np.hypot(*a))
    assert 0.5 <= min(scales) < 0.8 and 1.4 < max(scales) <= 2.0 and np.std(turns) > 1.0
    quarters = compute("vary_place", {"elements": islands}, turn_to=270.0, quarters=True, move_u=0.0)
    slopes = np.diff(quarters, axis=1)[islands[:, 1:] == islands[:, :-1]]
    assert np.all(
        np.isclose(np.abs(slopes) * SIDE, 0, atol=1e-2) | np.isclose(np.abs(slopes) * SIDE, 1, atol=1e-2)
    )


def test_cells_and_repeats_number_their_elements() -> None:
    for kind_id, count in (("cellular_noise", 64), ("repeat_place", 16)):
        made = compute(kind_id)
        assert made["id"].dtype == np.int32 and len(np.unique(made["id"])) == count
        for number in np.unique(made["id"])[:20]:
            inside = made["random"][made["id"] == number]
            # Along borders a random value is mixed with the next cell's.
            assert np.isclose(inside, np.median(inside), atol=1e-6).mean() > 0.5


# -- stamps --------------------------------------------------------------------------------------------

LEFT_HALF = np.zeros((SIDE, SIDE), np.float32)
LEFT_HALF[20:76, 10:48] = 1


def test_mirrored_stamps_are_the_share_asked_for() -> None:
    grid = np.arange(64)
    points = make_points((grid % 8 + 0.5) / 8, (grid // 8 + 0.5) / 8)
    inputs = {"points": points, "drawing": LEFT_HALF}

    def leaning(**values: Any) -> np.ndarray:
        height = compute("stamp", inputs, size=0.125, **values)["height"].reshape(8, 12, 8, 12)
        return (height[..., :6] - height[..., 6:]).sum(axis=(1, 3)) > 0

    assert leaning().all() and not leaning(mirrored=1.0).any()
    assert 20 <= leaning(mirrored=0.5).sum() <= 44


def test_a_bent_stamp_is_its_drawing_along_a_bow() -> None:
    """A level bar becomes the parabola that the bend says, and keeps its weight and its middle."""
    bar = np.zeros((SIDE, SIDE), np.float32)
    bar[44:52, 4:92] = 1
    inputs = {"points": make_points(np.array([0.5]), np.array([0.5])), "drawing": bar}
    straight, bent = (compute("stamp", inputs, size=0.8, bend_from=b, bend_to=b)["mask"] for b in (0.0, 0.25))
    assert bent.sum() == pytest.approx(straight.sum(), rel=0.03)
    down = (np.arange(SIDE) + 0.5) / SIDE
    course = (bent * down[:, None]).sum(axis=0) / np.maximum(bent.sum(axis=0), 1e-9)
    inner = slice(20, 76)
    q = ((np.arange(SIDE) + 0.5) / SIDE - 0.5) / 0.4
    # The ends go up by the bend times the length against the middle.
    wanted = 0.5 - 0.25 * 0.8 * (q**2 - 1 / 3)
    assert np.abs(course - wanted)[inner].max() < 0.01


def test_drawings_are_chosen_as_often_as_they_weigh() -> None:
    down, across = (np.mgrid[:24, :24].reshape(2, -1) + 0.5) / 24
    names = {"drawing": 1, "drawing_5": 5, "drawing_16": 16}
    flats = {name: np.full((SIDE, SIDE), n / 20, np.float32) for name, n in names.items()}
    inputs = {"points": make_points(across, down), **flats}
    made = compute("stamp", inputs, size=1 / 24, join="over", weight_1=1.0, weight_5=3.0, weight_16=0.0)
    middles = made["height"][1::4, 1::4]
    assert sorted(np.unique(np.round(middles, 4)).tolist()) == pytest.approx([0.05, 0.25])
    assert np.mean(middles > 0.2) == pytest.approx(0.75, abs=0.06)


# -- names ---------------------------------------------------------------------------------------------


def test_parameters_are_called_what_their_labels_say() -> None:
    for kind in KINDS:
        for parameter in kind.parameters:
            if not (parameter.series or parameter.group):
                assert parameter.name == parameter.title.lower().replace(" ", "_").replace("-", "_"), kind.id


def test_former_names_are_still_read_in_files_formulas_and_scripts() -> None:
    weave = rl.Weave()
    noise = weave.add("gradient_noise", cells=3, cells_v=9)
    levels = weave.add("levels", in_low=0.2)
    weave.set(levels, in_high=0.7)
    nodes = weave.document.graph.nodes
    assert nodes[noise].parameters["cells_down"] == 9
    assert nodes[levels].parameters == {"from_low": 0.2, "from_high": 0.7}
    assert KINDS.value(nodes[levels], "in_low") == 0.2

    text = encode_document(weave.document)
    old = (
        text.replace(b"cells_down", b"cells_v")
        .replace(b"from_low", b"in_low")
        .replace(b"from_high", b"in_high")
    )
    assert old != text
    assert encode_document(decode_document(old)) == text
