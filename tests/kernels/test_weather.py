"""Rain and stains beside the same rules written out, over whole maps at a time."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from reedloom.kernels.rain import rain_on
from reedloom.kernels.stains import run_down

AHEAD = {"right": (0, -1), "left": (0, 1), "down": (-1, 0), "up": (1, 0)}
"""How a map is rolled so that each cell sees the one to that side."""


def rained_on(
    ground: np.ndarray, rain: np.ndarray, steps: int, dissolving: float, carrying: float, drying: float
) -> np.ndarray:
    """The rules of `rain_on`, side by side."""
    ground, water, load = ground.copy(), np.zeros_like(ground), np.zeros_like(ground)
    flow = {side: np.zeros_like(ground) for side in AHEAD}
    for _ in range(steps):
        water = water + rain
        level = ground + water
        for side, ahead in AHEAD.items():
            fall = level - np.roll(level, ahead, (0, 1))
            flow[side] = np.maximum(0, 0.98 * flow[side] + 0.2 * fall)
        out = 0.2 * sum(flow.values())
        share = np.where(out > water, water / np.where(out > 0, out, 1), 1)
        flow = {side: value * share for side, value in flow.items()}
        sent = {
            side: load * 0.2 * value / np.where(water > 1e-12, water, 1e-12) for side, value in flow.items()
        }

        def come(given: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
            return {
                side: np.roll(value, [-step for step in AHEAD[side]], (0, 1)) for side, value in given.items()
            }

        held = load - sum(sent.values()) + sum(come(sent).values())
        arrived = come(flow)
        across = (arrived["right"] + flow["right"] - arrived["left"] - flow["left"]) / 2
        along = (arrived["down"] + flow["down"] - arrived["up"] - flow["up"]) / 2
        deep = np.maximum(0, water + 0.2 * (sum(arrived.values()) - sum(flow.values())))
        speed = np.hypot(across, along) / np.maximum(deep, 0.02)
        rise = [(np.roll(ground, -1, axis) - np.roll(ground, 1, axis)) / 2 for axis in (1, 0)]
        sine = np.sin(np.arctan(np.hypot(*rise)))
        most = carrying * np.maximum(sine, 0.02) * np.minimum(speed, 2) * np.minimum(deep, 1)
        more = most - held
        taken = np.where(more > 0, np.minimum(dissolving * more, 0.05), 0.3 * more)
        ground, load, water = ground - taken, held + taken, deep * (1 - drying)
    return ground + load


@pytest.mark.parametrize(
    ("shape", "steps", "dissolving", "carrying", "drying"),
    [
        ((24, 40), 1, 0.3, 1.5, 0.03),
        ((40, 24), 30, 0.3, 1.5, 0.03),
        ((17, 21), 30, 1.0, 60.0, 0.2),
        ((1, 5), 9, 0.5, 4.0, 0.0),
    ],
)
def test_rain_follows_its_rules(
    shape: tuple[int, int], steps: int, dissolving: float, carrying: float, drying: float
) -> None:
    chance = np.random.default_rng(5)
    ground = ndimage.gaussian_filter(chance.random(shape), 2, mode="wrap") * 40
    rain = chance.random(shape) * 0.06
    rain[: shape[0] // 2, :3] = 0  # where nothing falls, cells stay dry until something runs in
    worn = rain_on(
        ground, rain, steps, dissolving=dissolving, carrying=carrying, drying=drying, check=lambda: None
    )
    assert np.allclose(worn, rained_on(ground, rain, steps, dissolving, carrying, drying), atol=1e-9)
    assert abs(worn.sum() - ground.sum()) < 1e-11 * ground.sum()
    assert steps == 1 or np.abs(worn - ground).max() > 1e-3


def test_rain_looks_at_the_stop_flag_before_each_step() -> None:
    looks = []
    level = np.ones((6, 6))
    still = rain_on(level, level, 7, dissolving=1.0, carrying=9.0, drying=0.0, check=lambda: looks.append(1))
    assert len(looks) == 7 and np.array_equal(still, level)  # on level ground nothing moves


def ran_down(source: np.ndarray, aside: np.ndarray, keep: float, widen: float, turns: int) -> np.ndarray:
    """The rules of `run_down`, a row at a time."""
    height, width = source.shape
    out, now, side = np.zeros(source.shape), np.zeros(width), min(0.25, widen / 2)
    columns = np.arange(width)
    for n in range(turns * height):
        at = columns - aside[n % height]
        first = np.floor(at).astype(int)
        part = at - first
        moved = now[first % width] * (1 - part) + now[(first + 1) % width] * part
        moved = keep * (moved + side * (np.roll(moved, 1) - 2 * moved + np.roll(moved, -1)))
        now = np.maximum(moved, source[n % height])
        out[n % height] = now
    return out


@given(st.integers(0, 999), st.floats(0.0, 1.0), st.floats(0.0, 4.0))
def test_stains_follow_their_rules(seed: int, widen: float, most: float) -> None:
    chance = np.random.default_rng(seed)
    source = (chance.random((12, 19)) * (chance.random((12, 19)) > 0.8)).astype(np.float32)
    aside = (most * (chance.random((12, 19)) - 0.5)).astype(np.float32)
    length = 0.2
    keep = float(np.exp(-1 / (length * 12)))
    run = run_down(source, aside, keep, widen, length, lambda: None)
    assert np.allclose(run, ran_down(source, aside, keep, widen, 3), atol=1e-5)
    assert (run >= source).all()
