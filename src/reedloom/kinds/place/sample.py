"""Sample at place: reads a map at given places."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.pyramid import read_covered
from reedloom.kernels.reading import read_at
from reedloom.kit import COLOUR, GREY, SAME_AS, VECTOR, Change, Choice, Context, Port, Role, kind


@kind(
    id="sample",
    label="Sample at place",
    family="place",
    version=3,
    purpose="Reads a finished map at other places: repeats, turns or bends a picture.",
    inputs=(Port("map", GREY | COLOUR), Port("place", VECTOR, role=Role.PLACE)),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Choice(
            "reading",
            "linear",
            ("nearest", "linear", "cubic"),
            help="How values between samples are found: cubic is smoothest, nearest keeps them as they are "
            "and averages nothing where the map shrinks.",
        ),
    ),
    exempt={"shift": "the places stay where they are while the map is shifted"},
    synonyms=("read", "lookup", "remap", "texture at"),
    changes={
        2: Change("What a sample covers is averaged now where the map shrinks; it sparkles no more."),
        3: Change("Where the map keeps its size, nothing is blurred any more."),
    },
)
def sample(context: Context, map: np.ndarray, place: np.ndarray, *, reading: str) -> np.ndarray:
    if reading == "nearest":
        return read_at(context.bands, map, place, reading)
    return read_covered(context.bands, map, place, reading)
