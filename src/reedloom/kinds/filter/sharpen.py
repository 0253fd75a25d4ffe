"""Sharpen: what a blur takes away is added once more."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import of_channels, soften
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Length, Port, driving, kind, multiplies


@kind(
    id="sharpen",
    label="Sharpen",
    family="filter",
    version=1,
    purpose="Brings out detail of a chosen size by adding what a blur would take away.",
    inputs=(
        Port("map", GREY | COLOUR),
        driving("amount_map", multiplies("amount"), "Multiplies the amount, point by point."),
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length("radius", 0.005, (0, 0.05), (0, 0.5), help="The size of the detail.", neutral=0.0),
        Float("amount", 1.0, (0, 4), (-64, 64), help="How much of it is added.", neutral=0.0),
    ),
    synonyms=("unsharp mask", "crisp", "detail", "clarity"),
    sample={"radius": 0.03, "amount": 3.0},
)
def sharpen(
    context: Context, map: np.ndarray, amount_map: np.ndarray | None, *, radius: float, amount: float
) -> np.ndarray:
    most = np.float32(amount)

    def add(a: np.ndarray, b: np.ndarray, *drive: np.ndarray) -> np.ndarray:
        return a + (of_channels(drive[0] * most, a) if drive else most) * (a - b)

    drives = [] if amount_map is None else [amount_map]
    return context.map_bands(add, map, soften(context, map, radius), *drives)
