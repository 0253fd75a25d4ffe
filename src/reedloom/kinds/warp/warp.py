"""Warp: a map pushed along the slope of a guide."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import STRENGTH_MAP, slope_in_widths
from reedloom.kinds.warp.warp_parts import HELD, READING, by_rows, move_map
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Length, Port, kind
from reedloom.kit.ways import numbers_of, ways_of

REACH = 0.1
"""A guide that rises from 0 to 1 over this share of the tile moves the map by the full strength."""


@kind(
    id="warp",
    label="Warp",
    family="warp",
    version=2,
    purpose="Pushes a map downhill on a guide, so that straight things bend.",
    inputs=(
        Port("map", GREY | COLOUR),
        Port("guide", GREY, help="Its slope moves the map; blur it first if it has fine detail."),
        STRENGTH_MAP,
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "strength",
            0.02,
            (0, 0.1),
            (-4, 4),
            help="How far the map moves where the guide rises fully in a tenth of the tile.",
            neutral=0.0,
        ),
        READING,
    ),
    synonyms=("distort", "displace", "bend", "perturb"),
    sample={"strength": 0.06},
    changes={2: HELD},
)
def warp(
    context: Context,
    map: np.ndarray,
    guide: np.ndarray,
    strength_map: np.ndarray | None,
    *,
    strength: float,
    reading: str,
) -> np.ndarray:
    slope = slope_in_widths(context, guide)
    drive = np.float32(-strength * REACH)

    def way(slopes: np.ndarray, *share: np.ndarray) -> np.ndarray:
        return context.in_tiles(ways_of(numbers_of(slopes) * (share[0] * drive if share else drive)))

    return move_map(context, map, by_rows(way, slope, strength_map), reading)
