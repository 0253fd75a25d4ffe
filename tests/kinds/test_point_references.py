"""Kinds that work point by point in loops, against the same in doubles: with and without what drives them."""

from __future__ import annotations

import math
from itertools import product

import numpy as np
import pytest

from reedloom.kernels.blends import lay_share
from reedloom.kinds.height.dirt import lie_rows
from reedloom.kinds.height.normals import mix_rows
from reedloom.laws.draws import flow_of

SIZE = (37, 90)  # more rows than one band, and no whole number of vectors
CHANCE = np.random.default_rng(5)


def maps(count: int, *channels: int, size: tuple[int, int] = SIZE) -> list[np.ndarray]:
    """So many random maps."""
    return [CHANCE.random((size[1], size[0], *channels)).astype(np.float32) for _ in range(count)]


@pytest.mark.parametrize("channels", [(), (3,)])
@pytest.mark.parametrize("masked", [False, True])
@pytest.mark.parametrize("strength", [1.0, -0.7])
def test_a_blend_goes_a_share_of_the_way(channels: tuple[int, ...], masked: bool, strength: float) -> None:
    (below, above), (mask,) = maps(2, *channels), maps(1)
    tied = {"below": below, "above": above} | ({"mask": mask} if masked else {})
    found = flow_of("blend", tied, {"mode": "multiply", "strength": strength}, SIZE)
    share = strength * (mask.astype(float) if masked else np.ones(mask.shape))
    low, high = below.astype(float), above.astype(float)
    wanted = low + share.reshape(*share.shape, *(1 for _ in channels)) * (low * high - low)
    assert np.abs(found - wanted).max() < 1e-6
    if masked:
        layers = {"layer_1": below, "layer_2": above, "mask_2": mask}
        found = flow_of("layers", layers, {"mode_2": "multiply", "strength_2": strength}, SIZE)
        assert np.abs(found - wanted).max() < 1e-6


@pytest.mark.parametrize("count", [1, 511, 512, 1200])
def test_shares_of_colours_reach_all_three_channels_of_their_sample(count: int) -> None:
    below, above, share = CHANCE.random((count, 3)), CHANCE.random((count, 3)), CHANCE.random(count)
    out = np.empty(3 * count, np.float32)
    given = [np.ascontiguousarray(a, np.float32).reshape(-1) for a in (below, above, share)]
    lay_share(*given, np.float32(0.5), out)
    wanted = below + 0.5 * share[:, None] * (above - below)
    assert np.abs(out.reshape(-1, 3) - wanted).max() < 1e-6


def test_normals_are_mixed_as_directions() -> None:
    def directions() -> np.ndarray:
        found = CHANCE.normal(size=(300, 3)) + np.array((0, 0, 2.5))
        found[:, 2] = np.abs(found[:, 2])
        return found / np.linalg.norm(found, axis=1, keepdims=True)

    first, second, share = directions(), directions(), CHANCE.random(300)
    share[:2] = 0, 1
    coded = [(n * 0.5 + 0.5).astype(np.float32) for n in (first, second)]
    out = np.empty((300, 3), np.float32)
    mix_rows(*coded, out, share.astype(np.float32))
    wanted = first * (1 - share[:, None]) + second * share[:, None]
    wanted /= np.linalg.norm(wanted, axis=1, keepdims=True)
    assert np.abs(out * 2.0 - 1 - wanted).max() < 2e-6


@pytest.mark.parametrize(
    ("vectors", "driven", "centred"), list(product([False, True], [False, True], [False, True]))
)
def test_a_place_is_bent_by_what_is_tied(vectors: bool, driven: bool, centred: bool) -> None:
    aspect = 2.0
    (place,), (by,), (drive,) = maps(1, 2), maps(1, *([2] if vectors else [])), maps(1)
    tied = {"place": place, "by": by} | ({"strength_map": drive} if driven else {})
    values = {"strength": 0.3, "angle": 40.0, "centred": centred}
    found = flow_of("bend_place", tied, values, SIZE, physical=(1.0, aspect))
    moved = by.astype(float) - (by.mean(axis=(0, 1), dtype=float) if centred else 0.0)
    moved *= 0.3
    if driven:
        moved *= drive[..., None] if vectors else drive
    if not vectors:
        way = [math.cos(math.radians(40)), math.sin(math.radians(40)) / aspect]
        moved = moved[..., None] * way
    assert np.abs(found - (place + moved)).max() < 2e-6


@pytest.mark.parametrize("driven", [False, True])
def test_dirt_covers_more_of_what_lies_low_and_is_bent(driven: bool) -> None:
    low, bent, noise, amount = (CHANCE.normal(0, 1, 400).astype(np.float32) for _ in range(4))
    amount = np.abs(amount) * np.float32(0.5)
    if not driven:
        noise, amount = noise[:1], amount[:1]
    numbers = np.array([0.8, 1.4, 0.5, -2.0, 0.6, 0.1, 0.45, 2.3, 1.1], np.float32)
    out = np.empty(400, np.float32)
    lie_rows(low, bent, noise, amount, numbers, out)
    gathered = 0.8 * np.clip(low * 1.4, -1, 1) + 0.5 * np.clip(bent * -2.0, -1, 1) + 0.6 * (noise - 0.1)
    t = np.clip((gathered - (1 - 2 * 0.45 * amount.astype(float)) * 2.3) * 1.1 + 0.5, 0, 1)
    wanted = t * t * (3 - 2 * t)
    assert np.abs(out - wanted).max() < 3e-6 and np.ptp(out) > 0.5
