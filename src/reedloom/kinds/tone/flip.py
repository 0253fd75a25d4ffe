"""Flip: tones mirrored about a middle, as one turns a height upside down."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.tones import affine
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Port, kind


@kind(
    id="flip",
    label="Flip",
    family="tone",
    version=1,
    purpose="Mirrors tones about a middle: what stood out sinks in.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Float("middle", 0.5, (0, 1), mark=True, help="The tone that stays; 0.5 turns x into 1 - x."),
    ),
    synonyms=("upside down", "negate", "mirror height"),
    shows_histogram=True,
)
def flip(context: Context, map: np.ndarray, *, middle: float) -> np.ndarray:
    return affine(context.bands, map, -1.0, 2 * middle)
