"""Sharpen: what a blur takes away is added once more."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import soften
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Length, Port, kind


@kind(
    id="sharpen",
    label="Sharpen",
    family="filter",
    version=1,
    purpose="Brings out detail of a chosen size by adding what a blur would take away.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length("radius", 0.005, (0, 0.05), (0, 0.5), help="The size of the detail.", neutral=0.0),
        Float("amount", 1.0, (0, 4), (-64, 64), help="How much of it is added.", neutral=0.0),
    ),
    synonyms=("unsharp mask", "crisp", "detail", "clarity"),
    sample={"radius": 0.03, "amount": 3.0},
)
def sharpen(context: Context, map: np.ndarray, *, radius: float, amount: float) -> np.ndarray:
    soft = soften(context, map, radius)
    return context.map_bands(lambda a, b: a + np.float32(amount) * (a - b), map, soft)
