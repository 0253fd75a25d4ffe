"""Gabor noise against the sum of all its waves, in doubles."""

from __future__ import annotations

import math

import numpy as np
import pytest

from reedloom.kernels.gabor import Waves, add_wave_rows, make_waves
from reedloom.kernels.places import tile_places


def sum_by_hand(waves: Waves, u: float, v: float, turn: float | None, spread: float) -> float:
    """All waves whose bell reaches a place; a turn in radians is in the place of their own."""
    table = waves.table
    du, dv = ((place - at + 0.5) % 1 - 0.5 for place, at in ((u, table[:, 0]), (v, table[:, 1])))
    total = 0.0
    for i in (-1, 0, 1):
        for j in (-1, 0, 1):
            across, down = du + i, dv + j
            square = across**2 + down**2
            turns = table[:, 2] if turn is None else turn + spread * table[:, 5]
            along = across * np.cos(turns) + down * np.sin(turns)
            bells = table[:, 4] * np.exp(-waves.sharpness * square)
            bells[square >= waves.reach**2] = 0.0
            total += float((bells * np.cos(2 * math.pi * waves.frequency * along + table[:, 3])).sum())
    return total


@pytest.mark.parametrize("by_map", [False, True])
@pytest.mark.parametrize(("frequency", "bandwidth"), [(2.0, 0.3), (9.0, 0.8), (40.0, 0.5)])
@pytest.mark.parametrize("size", [(5, 3), (64, 6), (83, 4)])
def test_gabor_noise_is_the_sum_of_its_waves(
    size: tuple[int, int], frequency: float, bandwidth: float, by_map: bool
) -> None:
    width, height = size
    chance = np.random.default_rng(3)
    place = tile_places(width, height) * np.float32(1.3) - np.float32(0.2)
    place[-1] = chance.uniform(-1, 2, (width, 2))  # each in a cell of its own
    turn = (
        chance.uniform(-7, 7, (height, width)).astype(np.float32) if by_map else np.zeros((1, 1), np.float32)
    )
    reach = chance.uniform(0, 1.2 / frequency, (height, width)).astype(np.float32)
    waves, spread = make_waves(5, frequency, bandwidth, 0.4, 0.3, 0.2), 0.3
    out = np.ones((height, width), np.float32)
    add_wave_rows(waves, place, turn, spread, reach, 0.7, out)
    for y, x in np.ndindex(height, width):
        u, v = (float(number) for number in place[y, x])
        clear = max(0.0, float(np.sinc(frequency * reach[y, x]))) if frequency * reach[y, x] < 1 else 0.0
        by_hand = sum_by_hand(waves, u, v, float(turn[y, x]) if by_map else None, spread)
        assert out[y, x] == pytest.approx(1 + 0.7 * clear * by_hand, abs=3e-4 if frequency > 30 else 1e-4)
    assert np.ptp(out) > 0.2
    alike = np.full_like(out, 0.0)
    add_wave_rows(waves, place, turn, spread, np.full((1, 1), 0.01, np.float32), 0.7, alike)
    wanted = sum_by_hand(waves, *map(float, place[0, 1]), float(turn[0, 1]) if by_map else None, spread)
    assert alike[0, 1] == pytest.approx(0.7 * np.sinc(0.01 * frequency) * wanted, abs=3e-4)
