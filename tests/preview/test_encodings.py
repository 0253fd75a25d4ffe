"""Pictures of maps against the same sums written in NumPy, one line each."""

from __future__ import annotations

import numpy as np
import pytest

from reedloom.kernels.colours import luminance, srgb_from_linear
from reedloom.preview.encodings import BINS, encode, lit_material, measure_tones, rgb_picture

CHANCE = np.random.default_rng(4)
WIDE = CHANCE.uniform(-0.4, 1.4, (37, 50)).astype(np.float32)
COLOUR = CHANCE.uniform(-0.2, 1.3, (37, 50, 3)).astype(np.float32)


@pytest.mark.parametrize("values", [WIDE, COLOUR, WIDE[::2, ::3]], ids=["grey", "colour", "not contiguous"])
@pytest.mark.parametrize("srgb", [False, True])
def test_bytes_are_the_nearest_held_within_the_range(values: np.ndarray, srgb: bool) -> None:
    held = np.clip(values.astype(np.float64), 0, 1)
    exact = (srgb_from_linear(held) if srgb else held) * 255
    # a table of 4096 steps: a step is 0.8 byte where the sRGB curve is steepest
    assert np.abs(encode(values, srgb) - exact).max() <= (0.91 if srgb else 0.54)
    assert encode(values, srgb).shape == values.shape


def test_what_is_no_number_is_dark() -> None:
    odd = np.array([[np.nan, np.inf, -np.inf, 0.5]], np.float32)
    assert encode(odd, False).tolist() == [[0, 255, 0, 128]]
    assert measure_tones(odd).counts.sum() == 0.25


def lit_by_hand(colour: np.ndarray, normal: np.ndarray | None, sky: np.ndarray | None) -> np.ndarray:
    """Light from the upper left on a matt surface, and the open sky."""
    shade = np.ones(colour.shape[:2])
    light = np.array([-0.45, -0.55, 0.7])
    if normal is not None:
        n = normal.astype(np.float64) * 2 - 1
        n[..., 1] *= -1  # encoded with y up
        n[..., 2] = np.maximum(n[..., 2], 1e-3)
        shade = np.maximum(0, n @ light / np.linalg.norm(n, axis=2)) / light[2]
    lit: np.ndarray = colour * (0.85 * shade + 0.3 * (1 if sky is None else sky))[..., None]
    return lit


@pytest.mark.parametrize("with_normal", [False, True])
@pytest.mark.parametrize("with_sky", [False, True])
def test_a_material_in_light(with_normal: bool, with_sky: bool) -> None:
    normal = CHANCE.uniform(0.1, 0.9, COLOUR.shape).astype(np.float32) if with_normal else None
    sky = CHANCE.uniform(0, 1, WIDE.shape).astype(np.float32) if with_sky else None
    maps = {"base_colour": COLOUR, "normal": normal, "ambient_occlusion": sky}
    lit = lit_material({name: array for name, array in maps.items() if array is not None})
    np.testing.assert_allclose(lit, lit_by_hand(COLOUR, normal, sky), rtol=2e-4, atol=2e-5)


def test_a_slope_towards_the_light_is_brighter_than_level_ground_and_level_ground_is_grey() -> None:
    x = np.arange(64, dtype=np.float32) / 64
    wave = 0.5 + 0.4 * np.cos(2 * np.pi * x)[None] * np.ones((64, 1), np.float32)
    lit = rgb_picture(wave.astype(np.float32), look="relief", relief=0.3)[32, :, 0].astype(int)
    level = rgb_picture(np.zeros((8, 8), np.float32), look="relief")[0, 0, 0]
    assert lit[48] > level > lit[16]  # it rises towards the right at 48, so it faces left, where the light is
    assert level == round(float(srgb_from_linear(np.array([0.18]))[0]) * 255)


@pytest.mark.parametrize("array", [WIDE, COLOUR, COLOUR[..., :2]], ids=["grey", "colour", "vector"])
def test_tones_are_the_histogram_and_the_ends(array: np.ndarray) -> None:
    values = luminance(array) if array.shape[2:] == (3,) else array
    tones = measure_tones(array)
    counts, _ = np.histogram(values, BINS, (0, 1))
    assert np.abs(np.cumsum(tones.counts) - np.cumsum(counts) / values.size).max() < 2 / values.size
    assert tones.low == pytest.approx(values.min(), abs=1e-6)
    assert tones.high == pytest.approx(values.max(), abs=1e-6)
    assert tones.below == pytest.approx((values < -1e-4).mean(), abs=1 / values.size)
    assert tones.above == pytest.approx((values > 1 + 1e-4).mean(), abs=1 / values.size)
