"""Warp: a map pushed along the slope of a guide."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.places import read_at, tile_places
from reedloom.kinds.context import Context
from reedloom.kinds.declare import COLOUR, GREY, SAME_AS, Choice, Length, Port, kind
from reedloom.kinds.filter.filter_parts import slope_in_tiles

REACH = 0.1
"""A guide that rises from 0 to 1 over this share of the tile moves the map by the full strength."""


@kind(
    id="warp",
    label="Warp",
    family="warp",
    version=1,
    purpose="Pushes a map downhill on a guide, so that straight things bend.",
    inputs=(
        Port("map", GREY | COLOUR),
        Port("guide", GREY, help="Its slope moves the map; blur it first if it has fine detail."),
        Port("strength_map", GREY, optional=True, help="Multiplies the strength, point by point."),
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "strength",
            0.02,
            (0, 0.1),
            (-4, 4),
            help="How far the map moves where the guide rises fully in a tenth of the tile.",
        ),
        Choice(
            "reading",
            "smooth",
            ("smooth", "plain"),
            help="Between samples by splines, or by straight lines, which is faster.",
        ),
    ),
    synonyms=("distort", "displace", "bend", "perturb"),
    sample={"strength": 0.06},
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
    slope = slope_in_tiles(context, guide)
    drive = np.float32(strength * REACH)

    def move(place: np.ndarray, slopes: np.ndarray, *share: np.ndarray) -> np.ndarray:
        return place + slopes * (share[0][..., None] * drive if share else drive)

    place = context.map_bands(
        move,
        tile_places(context.width, context.height),
        slope,
        *([] if strength_map is None else [strength_map]),
    )
    return read_at(context.bands, map, place, "cubic" if reading == "smooth" else "linear")
