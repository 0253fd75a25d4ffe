"""Split place: u and v of a place as two maps."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.place.place_parts import JUMPS, places_of
from reedloom.kit import GREY, VECTOR, Context, Port, Role, kind


@kind(
    id="split_place",
    label="Split place",
    family="place",
    version=1,
    purpose="Gives u and v of a place, or the two parts of any vector, as two grey maps.",
    inputs=(Port("place", VECTOR, optional=True, role=Role.PLACE),),
    outputs=(Port("u", GREY, exempt=JUMPS), Port("v", GREY, exempt=JUMPS)),
    exempt={
        "shift": "the plain tile's own place does not shift",
        "away": "it gives the coordinate itself, whole tiles and all",
    },
    synonyms=("separate", "x y", "components"),
)
def split_place(context: Context, place: np.ndarray | None) -> dict[str, np.ndarray]:
    source = places_of(context, place)
    return {
        name: np.ascontiguousarray(source[..., number])
        for number, name in enumerate(("u", "v"))
        if name in context.wanted
    }
