"""Gradient map: each tone becomes the colour of its place on a gradient."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.curves import averaging, gradient_table, sum_table
from reedloom.kernels.tones import look_up
from reedloom.kinds.tone.tone_parts import map_with_width
from reedloom.kit import COLOUR, GREY, Choice, Context, Gradient, Port, kind

CLAY = ((0.0, 0.045, 0.028, 0.018), (0.45, 0.19, 0.125, 0.075), (1.0, 0.52, 0.41, 0.29))


@kind(
    id="gradient_map",
    label="Gradient map",
    family="colour",
    version=1,
    purpose="Colours a grey map: each tone takes the colour at its place on a gradient.",
    inputs=(Port("map", GREY),),
    outputs=(Port("colour", COLOUR),),
    parameters=(
        Gradient(
            "gradient",
            CLAY,
            help="Colours from the darkest tone (left) to the lightest.",
            mixed_by=("blending", "mixing"),
        ),
        Choice(
            "blending", "linear", ("linear", "smooth", "stepped"), help="How one colour passes into the next."
        ),
        Choice(
            "mixing",
            "OKLab",
            ("OKLab", "light"),
            help="Mixed as the eye sees (OKLab) or as light adds.",
            shown_if={"blending": ("linear", "smooth")},
        ),
    ),
    synonyms=("colourise", "ramp", "palette"),
    shows_histogram=True,
)
def gradient_map(
    context: Context, map: np.ndarray, *, gradient: Any, blending: str, mixing: str
) -> np.ndarray:
    table = gradient_table(gradient, blending, mixing)
    if blending != "stepped":
        return look_up(context.bands, table, map)
    return map_with_width(context, map, averaging(sum_table(table)), channels=3)
