"""Ease: the smoothstep family, either way."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.curves import TABLE, read_table
from reedloom.kinds.context import Context
from reedloom.kinds.declare import COLOUR, GREY, SAME_AS, Choice, Float, Port, kind

POLYNOMIALS = {
    "cubic": lambda t: t * t * (3 - 2 * t),
    "quintic": lambda t: t * t * t * (t * (6 * t - 15) + 10),
    "septic": lambda t: t**4 * (35 + t * (-84 + t * (70 - 20 * t))),
}


def ease_table(family: str, amount: float) -> np.ndarray:
    """The curve sampled evenly from 0 to 1; a negative amount is the inverse curve's share."""
    x = np.linspace(0, 1, TABLE)
    eased = POLYNOMIALS[family](x)
    if amount < 0:
        eased = np.interp(x, eased, x)
    return (x + (eased - x) * abs(amount)).astype(np.float32)


@kind(
    id="ease",
    label="Ease",
    family="tone",
    version=1,
    purpose="Sharpens or softens the middle tones and leaves 0 and 1 where they are.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Float("amount", 1.0, (-1, 1), (-1, 1), help="Above 0 the middle becomes steeper, below 0 flatter."),
        Choice("family", "cubic", tuple(POLYNOMIALS), help="How level the curve is at both ends."),
    ),
    synonyms=("smoothstep", "s-curve"),
    shows_histogram=True,
)
def ease(context: Context, map: np.ndarray, *, amount: float, family: str) -> np.ndarray:
    table = ease_table(family, amount)
    return context.map_bands(lambda rows: read_table(table, rows), map)
