"""Lines of least cost against all lines there are, and costs and bends against their definitions."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from reedloom.kernels.seams import (
    fill_bends,
    fill_costs,
    fill_differences,
    fill_rises,
    find_least_line,
    solve_bends,
)


@pytest.mark.parametrize(("rows", "columns"), [(1, 4), (2, 3), (6, 4), (7, 2), (5, 1)])
@pytest.mark.parametrize("seed", range(4))
def test_the_line_is_the_least_of_all_that_close(rows: int, columns: int, seed: int) -> None:
    strip = np.random.default_rng(seed).uniform(0.1, 1, (rows, columns))
    got = np.empty(rows, np.int64)
    find_least_line(strip, got)
    start = int(strip[0].argmin())
    best, least = None, np.inf
    for line in itertools.product(range(columns), repeat=rows):
        closes = line[0] == start and line[-1] == start
        if closes and all(abs(b - a) <= 1 for a, b in itertools.pairwise(line)):
            cost = sum(strip[y, x] for y, x in enumerate(line))
            best, least = (line, cost) if cost < least else (best, least)
    assert tuple(got) == best


@pytest.mark.parametrize("channels", [1, 3])
def test_what_a_line_costs_is_little_where_pictures_are_alike_and_both_deep(channels: int) -> None:
    chance = np.random.default_rng(5)
    first, second = chance.random((2, 6, 9, channels), np.float32)
    rise, moved = chance.normal(0, 3, (2, 6, 9)).astype(np.float32)
    got = np.empty((6, 9), np.float32)
    fill_differences(first, second, got, 0, 6)
    difference = np.abs(first.astype(float) - second).sum(axis=2)
    assert got == pytest.approx(difference, abs=1e-6)
    fill_costs(got, rise, moved, np.array([0.5, 0.7, 1.5], np.float32), 2, 6)
    assert got[:2] == pytest.approx(difference[:2], abs=1e-6), "other rows stay"
    higher = np.clip(np.maximum(rise, moved) / 0.7, -4, 4)
    assert got[2:] == pytest.approx(((difference / 0.5 + 0.1) * np.exp(1.5 * higher))[2:], rel=1e-4)


@pytest.mark.parametrize("size", [(2, 2), (3, 8), (9, 4), (20, 33)])
def test_bends_are_what_joined_slopes_change_around_the_tile(size: tuple[int, int]) -> None:
    chance = np.random.default_rng(size[0])
    first, second, share = chance.random((3, *size), np.float32)
    got = np.empty(size, np.float32)
    for y0 in range(0, size[0], 2):
        y1 = min(y0 + 2, size[0])
        fill_bends(first, second, share, got[y0:y1], y0, y1)
    wanted = np.zeros(size)
    for axis in (0, 1):
        along = (share + np.roll(share, -1, axis)) / 2
        slopes = [np.roll(part, -1, axis) - part for part in (first, second)]
        slope = along * (slopes[1] - slopes[0])
        wanted += slope - np.roll(slope, 1, axis)
    assert got == pytest.approx(wanted, abs=1e-6)
    assert abs(got.sum()) < 1e-5, "around the tile all bends are none"


def test_rises_are_summed_as_they_are_made() -> None:
    map, around, difference = np.random.default_rng(3).normal(0, 2, (3, 7, 20)).astype(np.float32)
    rise, sums = map.copy(), np.zeros((3, 7))
    for y0 in (0, 3, 6):
        fill_rises(rise, around, difference, sums, y0, min(y0 + 3, 7))
    assert np.array_equal(rise, map - around)
    wanted = [part.astype(float).sum(axis=1) for part in (difference, rise, rise.astype(float) ** 2)]
    assert sums == pytest.approx(np.array(wanted))


@pytest.mark.parametrize("size", [(1, 9), (2, 2), (5, 8), (64, 33), (70, 48), (20, 400), (400, 20)])
def test_what_bends_as_told_is_found_around_the_tile(size: tuple[int, int]) -> None:
    """The bends of a map give it back but for its mean; row by row and column by column, in bands."""
    map = np.random.default_rng(size[1]).random(size)
    bends = sum(np.roll(map, by, axis) for by in (1, -1) for axis in (0, 1)) - 4 * map
    got = np.empty(size, np.float32)

    def bands(band, rows: int, band_rows: int) -> None:  # type: ignore[no-untyped-def]
        for y in range(0, rows, band_rows):
            band(y, min(y + band_rows, rows))

    def put(y0: int, y1: int, rows: np.ndarray) -> None:
        got[y0:y1] = rows

    solve_bends(size, lambda y0, y1: bends[y0:y1].astype(np.float32), put, bands)
    assert got == pytest.approx(map - map.mean(), abs=2e-5)
