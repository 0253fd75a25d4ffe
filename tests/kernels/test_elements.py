"""What is made of a pattern's elements once they are found, against the same in plain NumPy."""

from __future__ import annotations

import numpy as np
import pytest

from reedloom.kernels import forms
from reedloom.kernels.curves import TABLE
from reedloom.kernels.elements import (
    Edge,
    Elements,
    Seen,
    find_borders,
    find_edges,
    look_at,
    put_numbers,
    spread_grid,
)

ROWS, WIDTH = 6, 37
RISES = {
    forms.FLAT: np.ones_like,
    forms.DOME: lambda t: np.sqrt(1 - (1 - t) ** 2),
    forms.CONE: lambda t: t,
    forms.CUSHION: lambda t: 1 - (1 - t) ** 4,
    forms.BELL: lambda t: t * t * (3 - 2 * t),
    forms.CUSTOM: lambda t: t**2,
}


def some_elements(rows: int = ROWS, seed: int = 1) -> Elements:
    """Elements that lie anyhow, some of them gaps."""
    chance, count = np.random.default_rng(seed), rows * WIDTH
    inward, u, v, raised, beneath = chance.uniform(-0.05, 0.1, (5, count)).astype(np.float32)
    return Elements(inward, chance.integers(0, 3, count).astype(np.int32), u, v, raised + 1, beneath)


def edge_of(gap: float, profile: int) -> Edge:
    table = np.linspace(0, 1, TABLE, dtype=np.float32) ** 2
    return Edge(np.float32(gap), np.float32(0.04), profile, table)


def covers(alike: bool) -> np.ndarray:
    """What each sample covers, or one number for all."""
    covered = np.random.default_rng(2).uniform(0.005, 0.03, ROWS * WIDTH).astype(np.float32)
    return covered[:1] if alike else covered


@pytest.mark.parametrize("alike", [True, False])
@pytest.mark.parametrize("gap", [0.0, 0.02])
@pytest.mark.parametrize("profile", RISES)
def test_elements_are_seen_by_definition(profile: int, gap: float, alike: bool) -> None:
    found, covered = some_elements(), covers(alike)
    seen = Seen.empty(ROWS * WIDTH)
    look_at(found, covered, edge_of(gap, profile), seen)
    inward = found.inward.astype(np.float64) - gap / 2
    mask = np.clip(0.5 + inward / covered, 0, 1) if gap else (found.inward >= 0).astype(float)
    height = RISES[profile](np.clip(inward / 0.04, 0, 1)) * mask
    assert seen.edge == pytest.approx(inward, abs=1e-7)
    assert seen.mask == pytest.approx(mask, abs=1e-5)
    assert seen.profile == pytest.approx(found.beneath + (found.raised - found.beneath) * height, abs=2e-5)


def neighbours_differ(number: np.ndarray) -> np.ndarray:
    """Where not all eight around are the same, of rows with one more above and below, around each row."""
    around = [np.roll(number[dy : dy + ROWS], dx, axis=1) for dy in range(3) for dx in (-1, 0, 1)]
    return np.any([part != number[1:-1] for part in around], axis=0)


def test_borders_are_where_a_neighbour_is_of_another_element() -> None:
    for many in range(8):  # of few other elements, so that one neighbour alone tells
        number = np.zeros((ROWS + 2, WIDTH), np.int32)
        places = np.random.default_rng(many).integers(0, number.size, many)
        number.reshape(-1)[places] = 1
        got = np.empty((ROWS, WIDTH), np.bool_)
        find_borders(number.reshape(-1), got)
        assert np.array_equal(got, neighbours_differ(number))


@pytest.mark.parametrize("alike", [True, False])
@pytest.mark.parametrize("beside", [True, False])
def test_edges_are_near_the_inward_distance_of_a_gap(beside: bool, alike: bool) -> None:
    around, covered, gap, reach = some_elements(ROWS + 2), covers(alike), 0.02, 0.01
    near = np.empty((ROWS, WIDTH), np.bool_)
    find_edges(around, covered, edge_of(gap, forms.CONE), np.float32(reach), beside, 1, near)
    inward = around.inward.reshape(ROWS + 2, WIDTH)[1:-1] - gap / 2
    more = 1.5 * np.broadcast_to(covered if alike else covered.reshape(ROWS, WIDTH), inward.shape)
    wanted = (inward > -gap - more) & (inward < reach + more)
    if beside:
        wanted |= neighbours_differ(around.number.reshape(ROWS + 2, WIDTH))
    assert np.array_equal(near, wanted)


@pytest.mark.parametrize("beyond", [0, 3, -6])
def test_numbers_are_those_of_elements_around_the_tile(beyond: int) -> None:
    found = some_elements()
    wanted = found.number.copy()
    found.number[::5] += beyond  # a whole number of turns
    chance = np.array([0.1, 0.5, 0.7], np.float32)
    random, island = np.empty(ROWS * WIDTH, np.float32), np.empty(ROWS * WIDTH, np.int32)
    place = np.empty((ROWS * WIDTH, 2), np.float32)
    put_numbers(found, chance, np.float32(0.02), random, island, place)
    assert np.array_equal(random, chance[wanted])
    assert np.array_equal(island, np.where(found.inward > np.float32(0.01), wanted + 1, 0))
    assert np.array_equal(place, np.stack([found.u, found.v], axis=1))


@pytest.mark.parametrize("parts", [2, 4])
def test_samples_of_the_grid_are_parted_evenly(parts: int) -> None:
    ys, xs = np.array([0, 3, 9]), np.array([7, 0, 30])
    got = np.empty((parts, 3, parts, 2), np.float32)
    spread_grid(ys, xs, 48, 10, got)
    shares = (np.arange(parts) + 0.5) / parts
    assert got[..., 0] == pytest.approx(
        np.broadcast_to((xs[:, None] + shares) / 48, (parts, 3, parts)), abs=1e-7
    )
    down = (ys + shares[:, None]) / 10
    assert got[..., 1] == pytest.approx(np.broadcast_to(down[..., None], (parts, 3, parts)), abs=1e-7)
