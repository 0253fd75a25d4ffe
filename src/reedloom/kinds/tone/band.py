"""Band: keeps a range of tones as a mask."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.tone.tone_parts import map_with_width
from reedloom.kit import GREY, Context, Float, Port, kind


@kind(
    id="band",
    label="Band",
    family="tone",
    version=1,
    purpose="Keeps the tones about a centre as a mask: contours, rims, tide lines.",
    inputs=(Port("map", GREY),),
    outputs=(Port("mask", GREY),),
    parameters=(
        Float("centre", 0.5, (0, 1), mark=True, help="The tone in the middle of the band."),
        Float("width", 0.2, (0, 1), (0, 1e6), help="The range of tones that is kept whole."),
        Float("softness", 0.05, (0, 0.5), (0, 100), help="The range over which it fades on both sides."),
    ),
    synonyms=("range mask", "isoline", "contour"),
    shows_histogram=True,
)
def band(context: Context, map: np.ndarray, *, centre: float, width: float, softness: float) -> np.ndarray:
    half, middle = np.float32(width / 2), np.float32(centre)

    def keep(tones: np.ndarray, covered: np.ndarray) -> np.ndarray:
        edge = np.maximum(covered, np.float32(max(softness, 1e-6)))
        away = np.abs(tones - middle)
        # A band thinner than a sample shows by the share of the sample that it fills.
        full = np.minimum(1, (2 * half + np.float32(softness)) / edge)
        return np.clip((half - away) / edge + np.float32(0.5), 0, full)

    return map_with_width(context, map, keep)
