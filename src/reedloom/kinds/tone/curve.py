"""Tone curve: a drawn curve from one tone to another."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.curves import curve_segments
from reedloom.kernels.tones import by_segments
from reedloom.kit import COLOUR, GREY, SAME_AS, STRAIGHT_CURVE, Context, Port, ToneCurve, kind


@kind(
    id="curve",
    label="Curve",
    family="tone",
    version=1,
    purpose="Turns each tone into another by a drawn curve.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        ToneCurve(
            "curve", STRAIGHT_CURVE, help="From the incoming tone (left to right) to the new one (upwards)."
        ),
    ),
    synonyms=("tone", "profile", "remap", "spline"),
    sample={"curve": ((0, 0, 0), (0.4, 0.9, 0), (0.6, 0.3, 0), (1, 1, 0))},
    shows_histogram=True,
)
def curve(context: Context, map: np.ndarray, *, curve: Any) -> np.ndarray:
    return by_segments(context.bands, *curve_segments(curve), map)
