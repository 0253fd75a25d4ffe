"""Push: a map moved along an angle by a guide."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.reading import RowsOfPlaces
from reedloom.kernels.tones import mean_of
from reedloom.kinds.filter.filter_parts import STRENGTH_MAP
from reedloom.kinds.warp.warp_parts import CENTRED, HELD, READING, by_rows, move_map
from reedloom.kit import COLOUR, GREY, SAME_AS, Angle, Context, Length, Port, adds_to, driving, kind
from reedloom.kit.ways import towards, ways_of


@kind(
    id="push",
    label="Push",
    family="warp",
    version=2,
    purpose="Moves a map along an angle, as far as a guide says at each point.",
    inputs=(
        Port("map", GREY | COLOUR),
        Port("guide", GREY, help="How far each point moves."),
        driving("angle_map", adds_to("angle"), "Added to the angle, point by point: 1 is a whole turn."),
        STRENGTH_MAP,
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "strength",
            0.03,
            (0, 0.15),
            (-4, 4),
            help="How far the map moves where the guide is 1.",
            neutral=0.0,
        ),
        Angle("angle", help="The way it moves."),
        CENTRED,
        READING,
    ),
    synonyms=("displace", "distort", "along an angle", "offset"),
    sample={"strength": 0.08},
    changes={2: HELD},
)
def push(
    context: Context,
    map: np.ndarray,
    guide: np.ndarray,
    angle_map: np.ndarray | None,
    strength_map: np.ndarray | None,
    *,
    strength: float,
    angle: float,
    centred: bool,
    reading: str,
) -> np.ndarray:
    by = pushes(context, guide, angle_map, strength_map, strength, angle, centred)
    return move_map(context, map, by, reading)


def pushes(
    context: Context,
    guide: np.ndarray,
    angle_map: np.ndarray | None,
    strength_map: np.ndarray | None,
    strength: float,
    angle: float,
    centred: bool,
) -> RowsOfPlaces:
    """Each point's displacement."""
    middle, start = np.float32(mean_of(guide) if centred else 0), math.radians(angle)

    def way(rows: np.ndarray, *drives: np.ndarray) -> np.ndarray:
        far, rest = (rows - middle) * np.float32(strength), list(drives)
        turn: np.ndarray = np.asarray(np.float32(start))
        if angle_map is not None:
            turn = rest.pop(0) * np.float32(2 * math.pi) + turn
        if strength_map is not None:
            far *= rest.pop(0)
        return context.in_tiles(ways_of(towards(turn, far)))

    return by_rows(way, guide, angle_map, strength_map)
