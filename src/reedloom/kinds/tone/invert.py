"""Invert: light becomes dark."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.tones import affine
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Port, kind


@kind(
    id="invert",
    label="Invert",
    family="tone",
    version=1,
    purpose="Turns light into dark and high into low.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Float(
            "amount",
            1.0,
            (0, 1),
            (0, 1),
            help="How far to go towards the inverse; half-way all is grey.",
            neutral=0.0,
        ),
    ),
    synonyms=("negative", "flip", "reverse", "complement"),
)
def invert(context: Context, map: np.ndarray, *, amount: float) -> np.ndarray:
    return affine(context.bands, map, 1 - 2 * amount, amount)
