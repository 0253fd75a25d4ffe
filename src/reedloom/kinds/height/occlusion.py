"""Occlusion: how much of the sky each point sees."""

from __future__ import annotations

from functools import partial

import numpy as np

from reedloom.kernels.horizon import open_sky, ray_steps
from reedloom.kit import GREY, Context, Count, Float, Length, Port, Role, kind


@kind(
    id="occlusion",
    label="Occlusion",
    family="height",
    version=1,
    physical=True,
    purpose="Darkens what lies low between high things, by the share of sky it sees.",
    inputs=(Port("height", GREY, role=Role.HEIGHT),),
    outputs=(Port("occlusion", GREY, help="1 is open, 0 is shut in."),),
    parameters=(
        Length(
            "radius",
            0.1,
            (0.005, 0.3),
            (0.0001, 2),
            help="How far around a point things can stand in its light.",
        ),
        Float("depth", 1.0, (0, 4), (0, 100), help="Makes the relief deeper than it is; 1 is true."),
        Count(
            "directions", 12, (4, 32), (2, 128), help="Rays around each point: more is smoother and slower."
        ),
    ),
    synonyms=("ambient", "ao", "cavity", "shadow"),
    sample={"depth": 4.0},
)
def occlusion(
    context: Context, height: np.ndarray, *, radius: float, depth: float, directions: int
) -> np.ndarray:
    size, reach = (context.width, context.height), radius * context.physical[0]
    steps = ray_steps(*size, context.physical, reach, directions)
    bands = partial(context.bands, band_rows=16)
    return open_sky(height, context.depth * depth, steps, directions, bands)
