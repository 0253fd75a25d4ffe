"""Lattice noise with an evolution for each sample is what its corners give, in doubles."""

from __future__ import annotations

import math

import numpy as np
import pytest

from placed import lay
from reedloom.kernels.lattice import FADES, Lattice
from reedloom.kernels.lattice_places import LIMIT, octave_weight
from reedloom.kernels.places import tile_places
from reedloom.laws.draws import smooth_map

FADED = {
    "smooth": lambda t: t**3 * (10 - 15 * t + 6 * t * t),
    "cubic": lambda t: t * t * (3 - 2 * t),
    "straight": lambda t: t,
}


def read_by_hand(lattice: Lattice, u: float, v: float, evolution: float) -> float:
    """One place, from the phases of the four corners about it."""
    phases, columns, rows = lattice.planes(None, ring=(0, 0)), lattice.columns, lattice.rows
    x, y = u % 1 * columns + lattice.shift[0], v % 1 * rows + lattice.shift[1]
    i, j = math.floor(x), math.floor(y)
    given = np.zeros((2, 2))
    for below, beside in np.ndindex(2, 2):
        row, column = (j + below) % rows % len(phases), (i + beside) % columns % phases.shape[1]
        phase, turns = (float(number) for number in phases[row, column])
        du, dv = x - i - beside, y - j - below
        angle = 2 * math.pi * (phase + turns * evolution)
        given[below, beside] = math.cos(angle) * du + math.sin(angle) * dv
        if lattice.is_value:
            given[below, beside] = 0.5 - abs((phase + 2 * turns * evolution) % 2 - 1)
    fade = FADED[next(name for name, k in FADES.items() if k == lattice.fade)]
    left, right = given[:, 0], given[:, 1]
    across = left + fade(x - i) * (right - left)
    return float(across[0] + fade(y - j) * (across[1] - across[0]))


@pytest.mark.parametrize("is_value", [False, True])
@pytest.mark.parametrize(("columns", "rows"), [(5, 3), (1, 1), (1500, 40), (1500, 1300)])
@pytest.mark.parametrize("fade", FADES)
def test_each_sample_has_an_evolution_of_its_own(is_value: bool, columns: int, rows: int, fade: str) -> None:
    """Wherever samples lie, and in a row that stays in one cell for long; however much they carry."""
    lattice = Lattice.of(11, columns, rows, is_value, FADES[fade], None)
    chance = np.random.default_rng(2)
    place = chance.uniform(-2, 3, (4, 69, 2)).astype(np.float32)
    place[3, :, 0], place[3, :, 1] = np.linspace(0.1, 0.7, 69), 0.4
    evolution = 4 * smooth_map(69, 4) - 1
    reach = np.full((4, 69), 0.3 / max(columns, rows), np.float32)
    reach[1] = 1.0  # of which nothing is left
    reach[2, ::2] = 0.55 / max(columns, rows)
    reach[3] = 0.02 / max(columns, rows)
    finest = float(max(columns, rows))
    corners = lattice.corners_at_places(None)
    out = lay(corners, finest, place, reach, -1.5, evolution=evolution, begin=1.0)
    for y, x in np.ndindex(4, 69):
        share = float(octave_weight(np.float32(finest * reach[y, x]))) * -1.5
        u, v = (float(number) for number in place[y, x])
        wanted = 1 + share * read_by_hand(lattice, u, v, float(evolution[y, x]))
        assert abs(out[y, x] - wanted) < (2e-5 if columns < 100 else 2e-3), (y, x)


@pytest.mark.parametrize("is_value", [False, True])
@pytest.mark.parametrize(("cells", "shape"), [((70, 9), (96, 48)), ((1500, 1400), (1536, 5))])
def test_all_readings_of_a_sample_see_its_own_evolution(
    is_value: bool, cells: tuple[int, int], shape: tuple[int, int]
) -> None:
    """As lattices are read that stand still after as much, wherever it is as much."""
    place, (width, height) = tile_places(*shape), shape
    reach = np.full((height, width), 1 / width, np.float32)
    fineness = (*map(float, cells), float(cells[0]), LIMIT * 4 / cells[0])
    lattice, after = Lattice.of(5, *cells, is_value), (0.0, 0.3, 0.55)
    evolution = np.array(after, np.float32)[np.random.default_rng(8).integers(0, 3, (height, width))]
    got = lay(lattice.corners_at_places(None), [fineness], place, reach, 2.0, evolution=evolution)
    for number in after:
        here = evolution == np.float32(number)
        still = lay(lattice.corners_at_places(number), [fineness], place, reach, 2.0)
        assert np.ptp(still[here]) > 0.1
        assert np.abs(got - still)[here].max() < 5e-5
