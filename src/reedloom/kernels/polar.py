"""Places as seen from a middle: how far, and in which direction."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import kernel, read_only
from reedloom.kernels.maps import empty_map
from reedloom.kernels.places import part_places, short_way
from reedloom.kernels.quick import turn_of


@kernel
def polar_rows(place, middle, aspect, radius, turn):  # type: ignore[no-untyped-def]
    """How far places are from a middle by the shorter way around the tile, and in which direction.

    Parameters
    ----------
    place : (n, W, 2) float32
        In tiles.
    middle : (2,) float32
        In tiles.
    aspect : float32
        The tile's height in widths.
    radius : (n, W) float32
        Filled, in widths.
    turn : (n, W) float32
        Filled, in turns from 0 to less than 1, from the right and clockwise.
    """
    across, down = np.empty(radius.shape[1], np.float32), np.empty(radius.shape[1], np.float32)
    for y in range(radius.shape[0]):
        far, way = radius[y], turn[y]
        part_places(place[y].reshape(-1), across, down)
        for x in range(far.shape[0]):
            u, v = short_way(across[x] - middle[0]), short_way(down[x] - middle[1]) * aspect
            far[x] = math.sqrt(u * u + v * v)
            way[x] = turn_of(u, v)


def seen_around(
    place: np.ndarray, middle: tuple[float, float], aspect: float
) -> tuple[np.ndarray, np.ndarray]:
    """Distances and directions of places (n, W, 2) from a middle, (n, W) float32 each; see `polar_rows`."""
    radius, turn = (empty_map(place.shape[:2]) for _ in range(2))
    polar_rows(read_only(place), np.array(middle, np.float32), np.float32(aspect), radius, turn)
    return radius, turn
