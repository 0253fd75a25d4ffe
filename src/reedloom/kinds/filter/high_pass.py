"""High pass: only what is finer than a radius, about middle grey."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import STRENGTH_MAP, of_channels, soften
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Length, Port, kind


@kind(
    id="high_pass",
    label="High pass",
    family="filter",
    version=1,
    purpose="Keeps what is finer than a radius, about middle grey; evens out a photograph's light.",
    inputs=(Port("map", GREY | COLOUR), STRENGTH_MAP),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length("radius", 0.05, (0.001, 0.2), (0, 0.5), help="What is broader than this goes."),
        Float("strength", 1.0, (0, 4), (-64, 64), help="Multiplies what is left."),
        Float("middle", 0.5, (0, 1), help="The tone it lies about."),
    ),
    synonyms=("detail", "delight", "even out", "flatten"),
    sample={"strength": 1.5},
)
def high_pass(
    context: Context,
    map: np.ndarray,
    strength_map: np.ndarray | None,
    *,
    radius: float,
    strength: float,
    middle: float,
) -> np.ndarray:
    most, centre = np.float32(strength), np.float32(middle)

    def keep(a: np.ndarray, b: np.ndarray, *drive: np.ndarray) -> np.ndarray:
        return (of_channels(drive[0] * most, a) if drive else most) * (a - b) + centre

    drives = [] if strength_map is None else [strength_map]
    return context.map_bands(keep, map, soften(context, map, radius), *drives)
