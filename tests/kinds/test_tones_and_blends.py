"""Pure tone and blend kinds on tiny literal arrays, and the W3C formulas one value at a time."""

from __future__ import annotations

import math

import numpy as np
import pytest

from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kinds.combine.modes import COLOUR_MODES, MODES
from reedloom.kit.context import Context


def apply(kind: str, *maps: object, **parameters: object) -> np.ndarray:
    """A kind on literal rows."""
    declared = built_in_kinds().get(kind)
    arrays = [None if m is None else np.array(m, np.float32) for m in maps]
    first = arrays[0]
    assert first is not None
    context = Context(first.shape[1], first.shape[0])
    made = declared.compute(context, *arrays, **(declared.defaults() | parameters))
    assert isinstance(made, np.ndarray)
    return made


def test_levels() -> None:
    row = [[0.0, 0.25, 0.5, 1.0]]
    assert apply("levels", row, from_low=0.25, from_high=0.75) == pytest.approx(np.array([[0, 0, 0.5, 1]]))
    assert apply("levels", row, from_low=1.0, from_high=0.0) == pytest.approx(np.array([[1, 0.75, 0.5, 0]]))
    assert apply("levels", row, gamma=2.0)[0, 1] == pytest.approx(0.5)
    assert apply("levels", row, from_high=0.5, keep_within=False)[0, 3] == pytest.approx(2.0)
    assert apply("levels", row, to_low=-1.0, to_high=3.0)[0] == pytest.approx([-1, 0, 1, 3])


def test_normalise_measures_every_time() -> None:
    row = [[0.2, 0.3, 0.6]]
    assert apply("normalise", row)[0] == pytest.approx([0, 0.25, 1])
    assert apply("normalise", row, low=1.0, high=0.0)[0] == pytest.approx([1, 0.75, 0])
    centred = apply("normalise", [[0.0, 0.0, 0.0, 0.8]], measure="centred")
    assert centred.mean() == pytest.approx(0.5, abs=1e-6) and centred.max() == pytest.approx(1.0)
    ramp = np.linspace(0, 1, 10000, dtype=np.float32).reshape(100, 100)
    cut = apply("normalise", ramp, measure="percentiles", left_out=0.1)
    wanted = (ramp - np.percentile(ramp, 10)) / (np.percentile(ramp, 90) - np.percentile(ramp, 10))
    assert np.abs(cut - wanted).max() < 1e-3
    assert apply("normalise", [[0.4, 0.4]])[0] == pytest.approx([0.5, 0.5])


def test_threshold_edge_is_one_sample_wide() -> None:
    """Over a ramp the covered share equals the place of the level, to a part of a sample."""
    for level in (0.3, 0.4567, 0.61):
        ramp = np.tile((np.arange(50) + 0.5) / 50, (8, 1))
        mask = apply("threshold", ramp, None, level=level)
        assert mask[4, 3:47].mean() == pytest.approx((47 / 50 - level) / (44 / 50), abs=2e-3)
        assert ((mask[4, 3:47] > 0) & (mask[4, 3:47] < 1)).sum() <= 2
    assert apply("threshold", [[0.4, 0.5, 0.6]], None, softness=0.4)[0] == pytest.approx([0.25, 0.5, 0.75])


def test_invert_and_number_and_solid() -> None:
    assert apply("invert", [[0.0, 0.25, 1.0]])[0] == pytest.approx([1, 0.75, 0])
    assert apply("invert", [[0.0, 1.0]], amount=0.5)[0] == pytest.approx([0.5, 0.5])
    assert (built_in_kinds().get("number").compute(Context(3, 2), value=0.3) == np.float32(0.3)).all()
    assert built_in_kinds().get("solid").compute(Context(3, 2), colour=(0.1, 0.2, 0.3)).shape == (2, 3, 3)


def separable(mode: str, b: float, s: float) -> float:
    """The W3C formula for one value: b the backdrop, s the source."""
    if mode == "overlay":
        return separable("hard light", s, b)
    if mode == "hard light":
        return 2 * b * s if s <= 0.5 else b + (2 * s - 1) - b * (2 * s - 1)
    if mode == "soft light":
        root = ((16 * b - 12) * b + 4) * b if b <= 0.25 else math.sqrt(b)
        return b - (1 - 2 * s) * b * (1 - b) if s <= 0.5 else b + (2 * s - 1) * (root - b)
    if mode == "colour dodge":
        return 0.0 if b == 0 else 1.0 if s == 1 else min(1, b / (1 - s))
    if mode == "colour burn":
        return 1.0 if b == 1 else 0.0 if s == 0 else 1 - min(1, (1 - b) / s)
    plain = {
        "normal": s, "add": b + s, "subtract": b - s, "signed add": b + 2 * s - 1, "multiply": b * s,
        "divide": b / max(s, 1e-3), "average": (b + s) / 2, "lowest": min(b, s), "highest": max(b, s),
        "difference": abs(b - s), "exclusion": b + s - 2 * b * s, "screen": b + s - b * s,
    }  # fmt: skip
    return plain[mode]


SEPARABLE = [m for m in MODES if m not in COLOUR_MODES and not m.startswith("smooth")]


@pytest.mark.parametrize("mode", SEPARABLE)
def test_blend_modes_are_their_formulas(mode: str) -> None:
    values = [0.0, 0.1, 0.25, 0.5, 0.7, 1.0]
    grid = np.array([[b, s] for b in values for s in values], np.float32)
    got = apply("blend", grid[:, :1], grid[:, 1:], None, mode=mode)[:, 0]
    assert got == pytest.approx([separable(mode, float(b), float(s)) for b, s in grid], abs=2e-5, rel=1e-6)


def lum(c: list[float]) -> float:
    return 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]


def clip_colour(c: list[float]) -> list[float]:
    level, low, high = lum(c), min(c), max(c)
    if low < 0:
        c = [level + (x - level) * level / (level - low) for x in c]
    if high > 1:
        c = [level + (x - level) * (1 - level) / (high - level) for x in c]
    return c


def set_lum(c: list[float], level: float) -> list[float]:
    return clip_colour([x + level - lum(c) for x in c])


def set_sat(c: list[float], amount: float) -> list[float]:
    low, high = min(c), max(c)
    return [(x - low) * amount / (high - low) if high > low else 0.0 for x in c]


def sat(c: list[float]) -> float:
    return max(c) - min(c)


@pytest.mark.parametrize("mode", list(COLOUR_MODES))
def test_colour_modes_are_w3cs(mode: str) -> None:
    chance = np.random.default_rng(2)
    below, above = chance.random((2, 1, 40, 3)).astype(np.float32)
    got = apply("blend", below, above, None, mode=mode)
    for i in range(40):
        b, s = [float(x) for x in below[0, i]], [float(x) for x in above[0, i]]
        wanted = {
            "hue": set_lum(set_sat(s, sat(b)), lum(b)),
            "saturation": set_lum(set_sat(b, sat(s)), lum(b)),
            "colour": set_lum(s, lum(b)),
            "luminosity": set_lum(b, lum(s)),
        }[mode]
        assert got[0, i] == pytest.approx(wanted, abs=2e-3)


def test_blend_strength_mask_and_swap() -> None:
    low, high, mask = [[0.2, 0.2]], [[0.8, 0.8]], [[0.0, 0.5]]
    assert apply("blend", low, high, None, strength=0.0)[0] == pytest.approx([0.2, 0.2])
    assert apply("blend", low, high, mask)[0] == pytest.approx([0.2, 0.5])
    assert apply("blend", low, high, None, mode="subtract", swap=True)[0] == pytest.approx([0.6, 0.6])
    smooth = apply("blend", [[0.5, 0.0]], [[0.5, 1.0]], None, mode="smooth lowest")[0]
    assert smooth[0] == pytest.approx(0.475) and smooth[1] == pytest.approx(0.0)


def test_snapping_reports_what_it_did() -> None:
    """Turned and scaled places stay on the lattice and say so; others say nothing."""
    declared = built_in_kinds().get("transform_place")
    context = Context(8, 8)
    declared.compute(context, None, None, None, **(declared.defaults() | {"turn": 30.0, "scale": 0.5}))
    assert context.notes == ["Turn and scale are snapped to 26.57° and 0.4472 so that the tile closes."]
    quiet = Context(8, 8)
    declared.compute(quiet, None, None, None, **(declared.defaults() | {"turn": 90.0, "scale": 0.5}))
    assert quiet.notes == []


def test_a_disc_covers_the_area_of_a_disc_wherever_it_lies() -> None:
    declared = built_in_kinds().get("disc")
    for size in (64, 200):
        for centre in (0.5, 0.03):
            context = Context(size, size, wanted=frozenset({"mask"}))
            made = declared.compute(
                context, None, **(declared.defaults() | {"radius": 0.21, "centre_u": centre})
            )
            assert made["mask"].mean() == pytest.approx(math.pi * 0.21**2, rel=4e-3)
