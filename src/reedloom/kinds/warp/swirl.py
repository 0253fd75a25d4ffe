"""Swirl: a map turned about a centre, most in the middle."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.places import tile_places
from reedloom.kinds.place.place_parts import CENTRE, from_centre
from reedloom.kinds.warp.warp_parts import READING, move_map
from reedloom.kit import (
    COLOUR,
    GREY,
    SAME_AS,
    Angle,
    Context,
    FormHandles,
    Length,
    Port,
    driving,
    kind,
    multiplies,
)


@kind(
    id="swirl",
    label="Swirl",
    family="warp",
    version=1,
    purpose="Turns a map about a centre, most in the middle and not at all from a radius on.",
    inputs=(
        Port("map", GREY | COLOUR),
        driving("amount_map", multiplies("turn"), "Multiplies the turn, point by point."),
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Angle("turn", 180.0, useful=(-720, 720), help="How far the middle is turned clockwise."),
        Length("radius", 0.4, (0.05, 0.5), (0.001, 0.5), help="Where the turning ends."),
        *CENTRE,
        READING,
    ),
    exempt={
        "metric": "there is one centre on the tile, of whatever shape",
        "shift": "the centre stays where it is",
    },
    synonyms=("twirl", "whirl", "vortex", "knot", "twist"),
    handles=FormHandles(("centre_u", "centre_v"), size="radius"),
)
def swirl(
    context: Context,
    map: np.ndarray,
    amount_map: np.ndarray | None,
    *,
    turn: float,
    radius: float,
    centre_u: float,
    centre_v: float,
    reading: str,
) -> np.ndarray:
    most = 0.5 * min(1.0, context.aspect)
    if radius > most:
        context.report(f"The radius is snapped to {most:.4g}, so that the turning ends on the tile.")
        radius = most

    def way(y0: int, y1: int) -> np.ndarray:
        there = tile_places(context.width, context.height, range(y0, y1))
        away = context.in_widths(from_centre(there, centre_u, centre_v))
        fall = np.clip(1 - np.hypot(away[..., 0], away[..., 1]) / np.float32(radius), 0, 1)
        angle = np.float32(-math.radians(turn)) * fall * fall * (3 - 2 * fall)
        if amount_map is not None:
            angle = angle * amount_map[y0:y1]
        c, s = np.cos(angle), np.sin(angle)
        from_ = np.stack([c * away[..., 0] - s * away[..., 1], s * away[..., 0] + c * away[..., 1]], axis=-1)
        return context.in_tiles(away - from_)

    return move_map(context, map, way, reading)
