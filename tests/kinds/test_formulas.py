"""Formulas over maps of every kind: what functions give, what goes together, and what is refused."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

import reedloom as rl
from reedloom.errors import ReedError
from reedloom.kernels.colours import luminance
from reedloom.kit.formulas import FormulaError, read_formula
from reedloom.laws.draws import flow_of, smooth_map

SIZE = (40, 80)
PHYSICAL = (1.0, 2.0)
GREY = smooth_map(*SIZE)
COLOUR = np.stack([smooth_map(*SIZE, seed) for seed in (1, 2, 3)], axis=-1)
RED = np.clip(COLOUR[..., 0], 0, 1)
WAY = np.stack([smooth_map(*SIZE, seed) - 0.5 for seed in (4, 5)], axis=-1)
WIDE = WAY * np.array([1, 2], np.float32)
"""The vector in widths, as the formula has it."""


def made(formula: str, inputs: dict[str, Any] | None = None, **values: Any) -> Any:
    given = {"a": GREY, "b": COLOUR, "c": WAY} if inputs is None else inputs
    return flow_of("formula", given, {"formula": formula, **values}, SIZE, physical=PHYSICAL)


RESULTS: list[tuple[str, np.ndarray]] = [
    ("a * b", GREY[..., None] * COLOUR),
    ("colour(a, red(b), blue(b))", np.stack([GREY, COLOUR[..., 0], COLOUR[..., 2]], axis=-1)),
    ("mix(b, 1, a)", COLOUR + (1 - COLOUR) * GREY[..., None]),
    ("dot(b, b)", (COLOUR**2).sum(axis=-1)),
    ("length(c)", np.hypot(WIDE[..., 0], WIDE[..., 1])),
    ("down(c) - across(c)", WIDE[..., 1] - WIDE[..., 0]),
    ("step(0.5, a)", (GREY >= 0.5).astype(float)),
    ("mod(5 * a, 2)", np.mod(5 * GREY, 2)),
    ("pow(a, 3)", np.maximum(GREY, 0) ** 3),
    ("b if a > 0.5 else 1 - b", np.where(GREY[..., None] > 0.5, COLOUR, 1 - COLOUR)),
    ("smoothstep(0, 1, red(b)) + p", RED**2 * (3 - 2 * RED) + 0.25),
    ("v", np.broadcast_to(((np.arange(80) + 0.5) / 80)[:, None], GREY.shape)),
    ("v + 0 * a", np.broadcast_to(((np.arange(80) + 0.5) / 80)[:, None], GREY.shape)),
]


@pytest.mark.parametrize(("formula", "wanted"), [pytest.param(*r, id=r[0]) for r in RESULTS])
def test_results_are_those_of_plain_arithmetic(formula: str, wanted: np.ndarray) -> None:
    outputs = made(formula, p=0.25)
    grey = wanted if wanted.ndim == 2 else luminance(wanted.astype(np.float32))
    assert np.allclose(outputs["map"], grey, atol=1e-5)
    three = np.broadcast_to(wanted[..., None], (*wanted.shape, 3)) if wanted.ndim == 2 else wanted
    assert np.allclose(outputs["colour"], three, atol=1e-5)


def test_vectors_are_in_widths_and_turn_truly() -> None:
    assert np.allclose(made("c")["vector"], WAY, atol=1e-6)
    assert np.allclose(made("c")["map"], np.hypot(*np.moveaxis(WIDE, -1, 0)), atol=1e-6)
    turned = made("rotate(c, 90)")["vector"] * np.array([1, 2])
    assert np.allclose(turned, np.stack([-WIDE[..., 1], WIDE[..., 0]], axis=-1), atol=1e-5)
    right = made("vector(0.1, 0.2)", {})["vector"]
    assert np.allclose(right, [0.1, 0.1], atol=1e-7)
    assert np.allclose(made("a")["vector"][..., 0], GREY) and not made("a")["vector"][..., 1].any()


def test_chances_are_one_for_each_number_and_of_their_own_for_each_stream() -> None:
    cells = np.arange(40 * 80, dtype=np.float32).reshape(80, 40) // 2
    first, second, other = (
        made(f"chance(a{more})", {"a": cells})["map"].ravel() for more in ("", ", 0", ", 1")
    )
    assert np.array_equal(first, second) and np.array_equal(first[::2], first[1::2])
    each, of_other = first[::2], other[::2]
    assert each.min() >= 0 and each.max() <= 1 and abs(each.mean() - 0.5) < 0.03 and len(set(each)) > 1500
    assert (
        abs(np.corrcoef(each, of_other)[0, 1]) < 0.08 and abs(np.corrcoef(each[1:], each[:-1])[0, 1]) < 0.08
    )


def test_eight_maps_come_in_and_what_does_not_go_together_is_a_sentence() -> None:
    names = "abcdfghk"
    inputs = {name: np.full(SIZE[::-1], 2.0**n, np.float32) for n, name in enumerate(names)}
    assert np.allclose(made(" + ".join(names), inputs)["map"], 255)
    for wrong, said in (("b + c", "a vector and a colour"), ("blue(c)", "only two parts")):
        with pytest.raises(ReedError, match=said):
            made(wrong)
    for wrong in ("red(a, b)", "colour(a)", "length()"):
        with pytest.raises(FormulaError, match="takes"):
            read_formula(wrong, frozenset("ab"), True)
    with pytest.raises(FormulaError, match="no function 'red'"):
        read_formula("red(a)", frozenset("a"))


def test_a_colour_a_vector_and_a_formula_go_through_a_weave() -> None:
    weave = rl.Weave()
    colour, flow = weave.add("solid", colour="#804020"), weave.add("flow_noise")
    node = weave.add("formula", formula="a * length(b) * 20")
    weave.connect(colour, f"{node}.a")
    weave.connect(flow, f"{node}.b")
    shades = rl.evaluate(weave, f"{node}.colour", 64)
    assert shades.shape == (64, 64, 3) and np.allclose(
        shades[..., 0] / shades[..., 2], shades[0, 0, 0] / shades[0, 0, 2]
    )
    weave.tie(f"{node}.colour", "base_colour")
    assert rl.evaluate_maps(weave, 32)["base_colour"].std() > 0.01


@pytest.mark.parametrize(
    "text",
    [
        "smoothstep(-0.004, 2 * pi, a)",
        "sin(2 * pi * (6 * u + a)) * -0.5",
        "clamp(-a / 0.012) ** 2 % 0.3",
        "(0.1 + 0.2 if p > 0.5 else 0.3) * a + smoothstep(p, p - 0.15, b)",
        "mix(a, b, abs(-0.3)) * (a > 0.6) + max(0.1, -(1 - 0.9), a)",
        "a + hypot(0.3, 0.4) + atan2(1, 2) + mod(5, 3) + floor(2.5)",
    ],
)
def test_maps_of_a_formula_stay_at_32_bits(text: str) -> None:
    """Twice as wide they would take twice as long; numbers alone keep all their digits."""
    chance = np.random.default_rng(3)
    maps: dict[str, Any] = {name: chance.uniform(-1, 2, (8, 8, 1)).astype(np.float32) for name in "abu"}
    given = maps | {"p": np.float32(0.3)}
    read = read_formula(text, frozenset(given), True)
    got = read(given)
    assert got.dtype == np.float32
    exact = read({name: np.asarray(value, np.float64) for name, value in given.items()})
    assert np.abs(got - exact).max() < 2e-5


def test_what_a_formula_gives_is_a_number_within_the_limit() -> None:
    odd = np.array([[np.nan, np.inf, -np.inf, 3e38, -1.5, 0.0]], np.float32)[..., None]
    read = read_formula("a * 1", frozenset("a"), True)
    assert read({"a": odd}).ravel().tolist() == pytest.approx([0, 1e18, -1e18, 1e18, -1.5, 0])
    assert read({"a": odd[:, ::2]}).ravel().tolist() == pytest.approx([0, -1e18, -1.5])
    step = read_formula("smoothstep(b, a, 0.5)", frozenset("ab"), True)
    levels = np.array([[0.5, 0.2, 0.7]], np.float32)[..., None]
    assert step({"a": levels, "b": levels}).ravel().tolist() == [0, 1, 0]  # a step where both are one
