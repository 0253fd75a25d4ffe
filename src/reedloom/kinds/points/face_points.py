"""Face points: turns them along a vector map, or with the slope of a height."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import read_at
from reedloom.kinds.filter.filter_parts import slope_in_widths, soften
from reedloom.kinds.points.points_parts import POINTS_IN, POINTS_OUT
from reedloom.kit import GREY, VECTOR, Angle, Choice, Context, Float, Length, Port, Role, kind

WAYS = {"downhill": 180.0, "uphill": 0.0, "along the slope's contour": 90.0}


@kind(
    id="face_points",
    label="Face points",
    family="points",
    version=1,
    purpose="Turns each point the way a vector map or the slope of a height goes at its place.",
    inputs=(
        POINTS_IN,
        Port("along", VECTOR, optional=True, help="The way to face; goes before the height.", role=Role.WAY),
        Port("height", GREY, optional=True, help="Its slope is the way to face.", role=Role.HEIGHT),
    ),
    outputs=(POINTS_OUT,),
    parameters=(
        Choice("way", "downhill", tuple(WAYS), help="How to face on the slope of the height."),
        Length("softness", 0.01, (0, 0.1), (0, 0.5), help="Blurs the height first, for a steadier slope."),
        Float("strength", 1.0, (0, 1), (0, 1), help="How far points turn to it from how they face now."),
        Angle("turn", help="Turns all points by so much more."),
    ),
    sample={"turn": 40},
    synonyms=("orient", "align", "direction", "flow", "slope"),
)
def face_points(
    context: Context, points: np.ndarray, along: np.ndarray | None, height: np.ndarray | None, way: str,
    softness: float, strength: float, turn: float,
) -> np.ndarray:  # fmt: skip
    faced = points.copy()
    if along is not None:
        to, more = context.in_widths(read_at(along, points["u"], points["v"])), 0.0
    elif height is not None:
        slope = slope_in_widths(context, soften(context, height, softness))
        to, more = read_at(slope, points["u"], points["v"]), WAYS[way]
    else:
        context.report("Tie a vector map or a height to turn the points.")
        faced["turn"] += turn
        return faced
    wanted = np.degrees(np.arctan2(to[:, 1], to[:, 0])) + more
    # The shorter way around, so that a half turned point lies between the two.
    away = (wanted - points["turn"] + 180) % 360 - 180
    level = np.hypot(to[:, 0], to[:, 1]) < 1e-7
    faced["turn"] += np.where(level, 0, away * strength).astype(np.float32) + np.float32(turn)
    return faced
