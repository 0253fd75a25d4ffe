"""Grow: the highest (or lowest) value nearby; masks grow or shrink."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.morphology import SHAPES, dilate
from reedloom.kinds.filter.filter_parts import each_channel, samples_of
from reedloom.kit import COLOUR, GREY, SAME_AS, Choice, Context, Length, Port, kind


@kind(
    id="grow",
    label="Grow",
    family="filter",
    version=1,
    purpose="Lets bright parts grow, or dark ones below 0: masks wider, cracks thinner, bumps fatter.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "radius",
            0.01,
            (-0.05, 0.05),
            (-0.25, 0.25),
            help="How far bright parts grow; below 0 dark ones do.",
            neutral=0.0,
        ),
        Choice("shape", "round", SHAPES, help="The form they grow in."),
    ),
    synonyms=("dilate", "erode", "expand", "shrink", "morphology", "maximum"),
    sample={"radius": 0.03},
)
def grow(context: Context, map: np.ndarray, *, radius: float, shape: str) -> np.ndarray:
    sign = np.float32(1 if radius >= 0 else -1)
    reach = abs(samples_of(context, radius))
    whole = int(reach)
    part = np.float32(reach - whole)

    def work(grey: np.ndarray) -> np.ndarray:
        turned = grey if sign > 0 else -grey
        smaller = dilate(turned, shape, whole, context.bands)
        if part < 1e-3:
            return smaller * sign
        # A radius between two whole ones is mixed from both.
        larger = dilate(turned, shape, whole + 1, context.bands)
        return context.map_bands(lambda a, b: (a + part * (b - a)) * sign, smaller, larger)

    return each_channel(map, work)
