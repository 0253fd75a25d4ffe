"""What the kinds that lay and change points share: ports, chances and laws."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import read_at
from reedloom.kit import POINTS, Port, Seed

POINTS_IN = Port("points", POINTS, help="The points to work on.")
POINTS_OUT = Port("points", POINTS, help="The points, in their order.")
FIXED = {"shift": "the points stay where they are"}
SEED = Seed()
FACINGS = ("right", "outward", "inward", "around")


def grid_ids(row: np.ndarray, column: np.ndarray) -> np.ndarray:
    """A number for each row and column that does not depend on how many there are."""
    return row.astype(np.int64) << 24 | column.astype(np.int64)


def chance_or_map(points: np.ndarray, map: np.ndarray | None, seed: int, stream: int) -> np.ndarray:
    """For each point a map's value there, or a chance of its own: (N,) in 0..1 for a chance."""
    if map is None:
        return unit_chances(seed, points["id"], stream)
    return read_at(map, points["u"], points["v"])


def place_ids(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Numbers for points found in a map, from where they lie, which other points do not change."""
    return grid_ids(np.floor(v * 256) % 256, np.floor(u * 256) % 256)
