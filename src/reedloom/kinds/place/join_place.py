"""Join place: two maps as u and v of a place."""

from __future__ import annotations

import numpy as np

from reedloom.kit import GREY, VECTOR, Context, Port, Role, kind


@kind(
    id="join_place",
    label="Join place",
    family="place",
    version=1,
    purpose="Makes a place, or any vector, of two grey maps.",
    inputs=(Port("u", GREY), Port("v", GREY)),
    outputs=(Port("place", VECTOR, role=Role.PLACE),),
    synonyms=("combine", "x y", "vector"),
    exempt={"metric": "what comes in is a place in shares of the tile each way"},
)
def join_place(context: Context, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    return context.map_bands(lambda a, b: np.stack([a, b], axis=-1), u, v, channels=2)
