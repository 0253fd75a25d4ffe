"""Limit: holds tones between two values."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.tones import affine
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Port, kind


@kind(
    id="limit",
    label="Limit",
    family="tone",
    version=1,
    purpose="Holds tones between a lowest and a highest value.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Float("low", 0.0, (0, 1), mark=True, help="Tones below this become this."),
        Float("high", 1.0, (0, 1), mark=True, help="Tones above this become this."),
    ),
    synonyms=("clamp", "clip", "saturate"),
    sample={"low": 0.3, "high": 0.6},
    shows_histogram=True,
)
def limit(context: Context, map: np.ndarray, *, low: float, high: float) -> np.ndarray:
    return affine(context.bands, map, 1.0, 0.0, min(low, high), max(low, high))
