"""Grow: the highest (or lowest) value nearby; masks grow or shrink."""

from __future__ import annotations

import itertools
import math

import numpy as np

from reedloom.kernels.morphology import SHAPES, dilate
from reedloom.kinds.filter.filter_parts import each_channel, samples_of
from reedloom.kit import COLOUR, GREY, SAME_AS, Choice, Context, Length, Port, driving, kind, multiplies

MOST_RADII = 24
"""Radii, in samples, that are mixed where a map says how far each place grows."""


@kind(
    id="grow",
    label="Grow",
    family="filter",
    version=1,
    purpose="Lets bright parts grow, or dark ones below 0: masks wider, cracks thinner, bumps fatter.",
    inputs=(
        Port("map", GREY | COLOUR),
        driving("radius_map", multiplies("radius"), "Multiplies the radius, point by point, from 0 to 1."),
    ),
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
def grow(
    context: Context, map: np.ndarray, radius_map: np.ndarray | None, *, radius: float, shape: str
) -> np.ndarray:
    sign = np.float32(1 if radius >= 0 else -1)
    reach = abs(samples_of(context, radius))
    whole = int(reach)
    part = np.float32(reach - whole)

    def work(grey: np.ndarray) -> np.ndarray:
        turned = grey if sign > 0 else -grey
        if radius_map is not None:
            return grown_by_map(context, turned, radius_map, reach, shape) * sign
        smaller = dilate(turned, shape, whole, context.bands)
        if part < 1e-3:
            return smaller * sign
        # A radius between two whole ones is mixed from both.
        larger = dilate(turned, shape, whole + 1, context.bands)
        return context.map_bands(lambda a, b: (a + part * (b - a)) * sign, smaller, larger)

    return each_channel(map, work)


def grown_by_map(
    context: Context, grey: np.ndarray, share: np.ndarray, reach: float, shape: str
) -> np.ndarray:
    """Each place grown by a share of `reach` samples of its own: mixed from the two radii around it."""
    wanted = np.clip(share, 0, 1) * np.float32(reach)
    whole = math.ceil(reach)
    radii = sorted({*np.round(np.linspace(0, whole, min(whole, MOST_RADII) + 1)).astype(int).tolist()})
    lower, out = grey, grey.copy()
    for small, large in itertools.pairwise(radii):
        context.stop.check()
        upper = dilate(grey, shape, large, context.bands)
        start, span = np.float32(small), np.float32(large - small)

        def mix(
            before: np.ndarray,
            low: np.ndarray,
            high: np.ndarray,
            radius: np.ndarray,
            start: np.float32 = start,
            span: np.float32 = span,
        ) -> np.ndarray:
            t = np.minimum((radius - start) / span, 1)
            return np.where(t > 0, low + t * (high - low), before)

        out = context.map_bands(mix, out, lower, upper, wanted)
        lower = upper
    return out
