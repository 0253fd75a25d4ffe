"""Tile place: the tile's own coordinates."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.places import tile_places
from reedloom.kit import VECTOR, Context, Port, Role, kind


@kind(
    id="tile_place",
    label="Tile place",
    family="place",
    version=1,
    purpose="The plain place of every point of the tile: 0 to 1 to the right and downwards.",
    outputs=(Port("place", VECTOR, role=Role.PLACE),),
    synonyms=("coordinates", "uv", "position"),
)
def tile_place(context: Context) -> np.ndarray:
    out = context.empty(2)

    def band(y0: int, y1: int) -> None:
        out[y0:y1] = tile_places(context.width, context.height, range(y0, y1))

    context.bands(band)
    return out
