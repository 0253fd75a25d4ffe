"""Slope: how steep a surface is and which way it falls."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.height.height_parts import HEIGHT_IN, true_slope
from reedloom.kit import GREY, VECTOR, Choice, Context, Float, Length, Port, Role, kind
from reedloom.kit.ways import numbers_of, ways_of


@kind(
    id="slope",
    label="Slope",
    family="height",
    version=1,
    physical=True,
    purpose="How steep a surface is, and the way downhill, true to the weave's size and depth.",
    inputs=(HEIGHT_IN,),
    outputs=(
        Port("amount", GREY, help="0 is level, 1 is upright or, as a grade, one metre up for one along."),
        Port(
            "direction",
            VECTOR,
            help="The way downhill, of length 1 where it is as steep as can be.",
            role=Role.WAY,
        ),
    ),
    parameters=(
        Choice("measure", "angle", ("angle", "grade"), help="As a share of a right angle, or rise over run."),
        Length(
            "softness", 0.0, (0, 0.05), (0, 0.5), help="Blurs the surface first, for the lie of the land."
        ),
        Float("strength", 1.0, (0, 4), (-100, 100), help="Makes the relief steeper than it is; 1 is true."),
    ),
    sample={"strength": 6.0},
    synonyms=("steepness", "gradient", "angle", "downhill"),
)
def slope(
    context: Context, height: np.ndarray, *, measure: str, softness: float, strength: float
) -> dict[str, np.ndarray]:
    rise = true_slope(context, soften(context, height, softness), strength)
    amount, direction = context.empty(), context.empty(2)

    def band(y0: int, y1: int) -> None:
        rows = numbers_of(rise[y0:y1])
        grade = np.abs(rows)
        angle = np.arctan(grade) / np.float32(np.pi / 2)
        amount[y0:y1] = angle if measure == "angle" else grade
        way = ways_of(rows * (angle / np.maximum(grade, np.float32(1e-9))))
        direction[y0:y1] = context.in_tiles(-way)

    context.bands(band)
    return {"amount": amount, "direction": direction}
