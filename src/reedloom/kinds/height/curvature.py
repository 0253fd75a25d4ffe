"""Curvature: ridges and cavities at a chosen breadth."""

from __future__ import annotations

from functools import partial

import numpy as np

from reedloom.kernels.tones import INFINITE, affine
from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.filter.grow import grow
from reedloom.kinds.height.height_parts import HEIGHT_IN, nearly_most, slope_in_metres, true_slope
from reedloom.kit import GREY, Context, Count, Float, Length, Port, Switch, kind

SHARE = 0.98
"""The share of the samples that the automatic range holds."""


@kind(
    id="curvature",
    label="Curvature",
    family="height",
    version=1,
    physical=True,
    purpose="How far a surface bulges or hollows, apart from its slope: ridges, edges, cavities.",
    inputs=(HEIGHT_IN,),
    outputs=(
        Port("curvature", GREY, help="Above 0 on ridges, below 0 in cavities, 0 on level and even ground."),
        Port("ridges", GREY, help="The ridges alone, from 0 up."),
        Port("cavities", GREY, help="The cavities alone, from 0 up."),
    ),
    parameters=(
        Length(
            "radius", 0.01, (0.001, 0.1), (0.0001, 0.5), help="The breadth of the ridges and cavities meant."
        ),
        Count("scales", 1, (1, 5), (1, 8), help="Adds up breadths, each half the one before."),
        Switch(
            "automatic", True, help="Fits the range to the surface, so that nearly all lies within -1 to 1."
        ),
        Float("strength", 1.0, (0, 4), (-100, 100), help="Multiplies the result."),
        Length(
            "spread", 0.0, (0, 0.02), (0, 0.25), help="Widens ridges and cavities by so much to both sides."
        ),
        Length("softness", 0.0, (0, 0.02), (0, 0.25), help="Softens what is found by so much."),
        Switch("flipped", False, help="Ridges count as cavities, and cavities as ridges."),
        Switch("keep_within", False, help="Holds the result between -1 and 1."),
    ),
    synonyms=("convexity", "edges", "cavity", "ridge", "concave", "convex"),
)
def curvature(
    context: Context,
    height: np.ndarray,
    *,
    radius: float,
    scales: int,
    automatic: bool,
    strength: float,
    spread: float,
    softness: float,
    flipped: bool,
    keep_within: bool,
) -> dict[str, np.ndarray]:
    total = np.zeros_like(height)
    for scale in range(scales):
        breadth = radius / 2**scale
        bent = mean_curvature(context, soften(context, height, breadth / 2))
        total += bent * np.float32(breadth * context.physical[0] / scales)
    if spread > 0:
        wide = partial(grow.compute, context, radius_map=None, radius=spread, shape="round")
        total = wide(np.maximum(total, 0)) - wide(np.maximum(-total, 0))
    total = soften(context, total, softness)
    if automatic:
        reach = nearly_most(np.abs(total), SHARE)
        total *= np.float32(1 / reach if reach > 1e-9 else 0)
    most = 1.0 if keep_within else float(INFINITE)
    total = affine(context.bands, total, -strength if flipped else strength, 0.0, -most, most)
    return {
        "curvature": total,
        "ridges": np.maximum(total, 0),
        "cavities": np.maximum(-total, 0),
    }


def mean_curvature(context: Context, height: np.ndarray) -> np.ndarray:
    """The mean curvature of a surface in 1/m, above 0 where it bulges: 1/r on a ball of radius r."""
    slope = true_slope(context, height)
    along, down = (np.ascontiguousarray(slope[..., k]) for k in (0, 1))
    bend_u, bend_v = slope_in_metres(context, along), slope_in_metres(context, down)

    def work(p: np.ndarray, q: np.ndarray, bu: np.ndarray, bv: np.ndarray) -> np.ndarray:
        one = np.float32(1)
        twist = (bu[..., 1] + bv[..., 0]) / 2
        top = (one + q * q) * bu[..., 0] - 2 * p * q * twist + (one + p * p) * bv[..., 1]
        return -top / (2 * (one + p * p + q * q) ** np.float32(1.5))

    return context.map_bands(work, along, down, bend_u, bend_v)
