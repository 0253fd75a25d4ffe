"""Number: one value everywhere."""

from __future__ import annotations

import numpy as np

from reedloom.kit import GREY, Context, Float, Port, kind


@kind(
    id="number",
    label="Number",
    family="value",
    version=1,
    purpose="One value over the whole tile: a level roughness, a strength.",
    outputs=(Port("value", GREY),),
    parameters=(Float("value", 0.5, (0, 1), help="The value."),),
    synonyms=("constant", "value", "float", "uniform"),
)
def number(context: Context, *, value: float) -> np.ndarray:
    return context.full(value)
