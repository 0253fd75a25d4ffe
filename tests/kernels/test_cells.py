"""Cells are those of a search through all points about a place, in doubles, by every metric."""

from __future__ import annotations

import math

import numpy as np
import pytest

from reedloom.kernels.cells import METRICS, RING, Cells, cell_points, cell_rows, swings
from reedloom.kernels.jit import read_only
from reedloom.kernels.places import tile_places
from reedloom.laws.draws import smooth_map

COLUMNS, ROWS = 14, 9


def length(du: np.ndarray, dv: np.ndarray, metric: str, power: float) -> np.ndarray:
    """How long ways are, by the definitions."""
    du, dv = np.abs(du), np.abs(dv)
    if metric == "Chebyshev":
        return np.maximum(du, dv)
    power = {"Euclid": 2.0, "Manhattan": 1.0}.get(metric, power)
    return (du**power + dv**power) ** (1 / power)


def cells_by_hand(
    points: np.ndarray, place: np.ndarray, evolution: np.ndarray, metric: str, power: float
) -> np.ndarray:
    """What `cell_rows` fills, from the 49 cells about each place."""
    found = np.zeros((8, *place.shape[:2]))
    for y, x in np.ndindex(*place.shape[:2]):
        u, v = place[y, x, 0] % 1 * COLUMNS, place[y, x, 1] % 1 * ROWS
        i, j = math.floor(u), math.floor(v)
        rows, columns = np.mgrid[j - RING : j + RING + 1, i - RING : i + RING + 1]
        about = points[rows % ROWS + RING, columns % COLUMNS + RING].reshape(-1, 5).astype(np.float64)
        cos, sin = math.cos(2 * math.pi * evolution[y, x]), math.sin(2 * math.pi * evolution[y, x])
        pu = np.clip(about[:, 0] * cos - about[:, 1] * about[:, 3] * sin, -0.5, 0.5)
        pv = np.clip(about[:, 0] * about[:, 3] * sin + about[:, 1] * cos, -0.5, 0.5)
        du, dv = columns.ravel() + 0.5 + pu - u, rows.ravel() + 0.5 + pv - v
        away = length(du, dv, metric, power)
        order = np.argsort(away)
        nearest, others = order[0], order[1:]
        to_border = (away[others] - away[nearest]) / 2
        if metric == "Euclid":
            eu, ev = du[others] - du[nearest], dv[others] - dv[nearest]
            both = (du[others] + du[nearest]) * eu + (dv[others] + dv[nearest]) * ev
            to_border = both / 2 / np.hypot(eu, ev)
        beyond = others[np.argmin(to_border)]
        found[:, y, x] = (
            away[nearest], away[order[1]], to_border.min(), about[nearest, 2], about[beyond, 2],
            -du[nearest], -dv[nearest], about[nearest, 4],
        )  # fmt: skip
    return found


@pytest.mark.parametrize("turning", ["each sample", "all alike", "not at all"])
@pytest.mark.parametrize(("metric", "power"), [*((m, 3.0) for m in METRICS), ("Minkowski", 0.7)])
def test_cells_are_those_of_a_search_through_all_points(metric: str, power: float, turning: str) -> None:
    """On a line of samples as wide as a cell and on one in which each cell has a few, in runs and not."""
    points = cell_points(4, COLUMNS, ROWS, 0.9)
    few = tile_places(61, 23)
    close = np.ascontiguousarray(tile_places(COLUMNS * 70, ROWS * 4)[5:7])
    for place in (few, close):
        shape = place.shape[:2]
        evolution = {
            "each sample": 3 * smooth_map(shape[1], shape[0]),
            "all alike": np.full(shape, 0.3, np.float32),
            "not at all": np.zeros(shape, np.float32),
        }[turning]
        given = evolution if turning == "each sample" else float(evolution[0, 0])
        cells = Cells.of(points, 0.9, METRICS[metric], power, given)
        found = np.empty((8, *shape), np.float32)
        cell_rows(cells, read_only(place), swings(given), True, True, True, found, 0, len(place))
        wanted = cells_by_hand(points, place, evolution, metric, power)
        # Where two points are as near, rounding tells which is the nearest, and what lies beyond the border.
        clear = (wanted[1] - wanted[0] > 1e-4) & (np.abs(found[4] - wanted[4]) < 1e-6)
        assert clear.mean() > 0.99
        assert np.abs(found - wanted)[:3].max() < (2e-5 if metric != "Minkowski" else 2e-4)
        assert np.abs(found - wanted)[:, clear].max() < (2e-5 if metric != "Minkowski" else 2e-4)
