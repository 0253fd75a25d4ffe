"""What the warps share: reading a map at displaced places, and their common values."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.places import read_at, tile_places
from reedloom.kinds.context import Context
from reedloom.kinds.declare import Choice, Switch

READING = Choice(
    "reading",
    "smooth",
    ("smooth", "plain"),
    help="Between samples by splines, or by straight lines, which is faster.",
)
CENTRED = Switch(
    "centred", True, help="Takes the mean away, so that more strength does not also shift the picture."
)


def move_map(context: Context, map: np.ndarray, by: np.ndarray, reading: str) -> np.ndarray:
    """A map moved by a displacement (H, W, 2) in tiles: what is there comes from against it."""
    place = tile_places(context.width, context.height)
    there = context.map_bands(np.subtract, place, by)
    return read_at(context.bands, map, there, "cubic" if reading == "smooth" else "linear")


def middle_of(map: np.ndarray, centred: bool) -> np.ndarray | np.float32:
    """What is taken from a guide so that it lies about 0: its mean, or a half."""
    if not centred:
        return np.float32(0.0)
    return map.mean(axis=(0, 1), dtype=np.float64).astype(np.float32)
