"""Vector shift: a map moved by a field of vectors."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.tones import mean_of
from reedloom.kinds.filter.filter_parts import STRENGTH_MAP
from reedloom.kinds.warp.warp_parts import CENTRED, HELD, READING, by_rows, move_map
from reedloom.kit import COLOUR, GREY, SAME_AS, VECTOR, Context, Length, Port, Role, kind
from reedloom.kit.ways import number_of, numbers_of, ways_of


@kind(
    id="vector_shift",
    label="Vector shift",
    family="warp",
    version=2,
    purpose="Moves each point of a map by a vector of its own.",
    inputs=(
        Port("map", GREY | COLOUR),
        Port("by", VECTOR, help="Each point's way, such as a flow noise.", role=Role.WAY),
        STRENGTH_MAP,
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "strength",
            0.03,
            (0, 0.15),
            (-4, 4),
            help="How far the map moves for a vector of length 1.",
            neutral=0.0,
        ),
        CENTRED,
        READING,
    ),
    synonyms=("displace", "distort", "flow", "move by vectors"),
    changes={2: HELD},
)
def vector_shift(
    context: Context,
    map: np.ndarray,
    by: np.ndarray,
    strength_map: np.ndarray | None,
    *,
    strength: float,
    centred: bool,
    reading: str,
) -> np.ndarray:
    middle = number_of(*mean_of(by)) if centred else number_of(0, 0)

    def scale(rows: np.ndarray, *share: np.ndarray) -> np.ndarray:
        moved = (numbers_of(rows) - middle) * np.float32(strength)
        return ways_of(moved * share[0] if share else moved)

    return move_map(context, map, by_rows(scale, by, strength_map), reading)
