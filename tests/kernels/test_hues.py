"""Hues and their companions against the standard library's, and against OKLab in double precision."""

from __future__ import annotations

import colorsys

import numpy as np
import pytest

from reedloom.kernels.colours import (
    linear_from_oklch,
    linear_from_srgb,
    luminance,
    oklab_from_linear,
    oklch_from_linear,
    srgb_from_linear,
)
from reedloom.kernels.hues import GREYS, HSV, OKLCH, RGB, grey_colours, join_colours, split_colours
from reedloom.kernels.jit import read_only


def colours(count: int = 1500) -> np.ndarray:
    """By chance, with greys, dark ones, those at the corners of sRGB and some beyond: (n, 3) linear."""
    chance = np.random.default_rng(7)
    some = chance.random((count, 3)) ** 2
    corners = np.array(np.meshgrid([0, 1], [0, 1], [0, 1])).reshape(3, -1).T
    greys = np.repeat(chance.random((20, 1)), 3, axis=1)
    dark = chance.random((50, 3)) * 0.004
    beyond = chance.uniform(-0.2, 2, (50, 3))
    return np.concatenate([some, corners, greys, dark, beyond]).astype(np.float32)


def split(colour: np.ndarray, space: int) -> np.ndarray:
    parts = np.empty((3, len(colour)), np.float32)
    split_colours(colour, space, *parts)
    return parts


def joined(parts: np.ndarray, space: int) -> np.ndarray:
    out = np.empty((parts.shape[1], 3), np.float32)
    join_colours(*parts, space, out)
    return out


def around(difference: np.ndarray) -> np.ndarray:
    """How far hues are apart, the shorter way."""
    return np.abs(difference - np.round(difference))


def test_hue_saturation_and_value_are_the_standard_librarys() -> None:
    colour = colours()
    shown = srgb_from_linear(colour.astype(float))
    wanted = np.array([colorsys.rgb_to_hsv(*pixel) for pixel in shown.tolist()]).T
    hue, saturation, value = split(colour, HSV)
    assert value == pytest.approx(wanted[2], abs=3e-6)
    bright = wanted[2] > 1e-2
    assert saturation[bright] == pytest.approx(wanted[1][bright], abs=2e-4)
    clear = bright & (wanted[1] > 0.02)
    assert around(hue - wanted[0])[clear].max() < 1e-4
    assert hue.min() >= 0 and hue.max() <= 1 and (hue[len(colour) - 120 : -100] == 0).all()


def test_hues_of_a_turn_give_the_standard_librarys_colours() -> None:
    chance = np.random.default_rng(3)
    parts = chance.random((3, 1200)).astype(np.float32)
    parts[0, :7] = np.arange(7) / 6
    parts[0, 600:] += chance.integers(-3, 4, 600)
    shown = [colorsys.hsv_to_rgb(h % 1, s, v) for h, s, v in parts.T.astype(float).tolist()]
    assert joined(parts, HSV) == pytest.approx(linear_from_srgb(np.array(shown)), abs=2e-5)


def test_lightness_chroma_and_hue_are_oklabs() -> None:
    colour = colours()
    wanted = oklch_from_linear(np.maximum(colour, 0).astype(float)).T
    light, chroma, hue = split(colour, OKLCH)
    assert light == pytest.approx(wanted[0], abs=2e-6) and chroma == pytest.approx(wanted[1], abs=2e-6)
    assert around(hue - wanted[2])[wanted[1] > 0.01].max() < 1e-4
    back = linear_from_oklch(np.stack([light, chroma, hue], axis=-1).astype(float))
    assert joined(np.stack([light, chroma, hue]), OKLCH) == pytest.approx(np.maximum(back, 0), abs=5e-5)


@pytest.mark.parametrize("space", [RGB, HSV, OKLCH])
def test_colours_taken_apart_are_put_together_again(space: int) -> None:
    colour = np.clip(colours(700), 0, 1)
    assert joined(split(colour, space), space) == pytest.approx(colour, abs=3e-5)


def test_no_joined_colour_is_below_0_or_no_number() -> None:
    parts = np.array([[np.nan, -1, 0.5, np.inf], [0.5, 2, np.nan, 0.5], [0.5, -3, 0.5, np.inf]], np.float32)
    for space in (RGB, HSV, OKLCH):
        out = joined(parts, space)
        assert np.isfinite(out).all() and (out >= 0).all()


def test_greys_of_a_colour_are_what_they_say() -> None:
    colour = colours()
    high, low = colour.max(axis=1), colour.min(axis=1)
    wanted = {
        "luminance": luminance(colour),
        "lightness": oklab_from_linear(np.maximum(colour, 0).astype(float))[:, 0],
        "average": colour.mean(axis=1),
        "greatest": high,
        "least": low,
        "saturation": (high - low) / np.maximum(high, 1e-4),
    }
    for way, grey in wanted.items():
        got = np.empty(len(colour), np.float32)
        grey_colours(read_only(colour), GREYS.index(way), got)
        assert got == pytest.approx(grey, rel=1e-6, abs=3e-6), way
