"""Threshold: tones above a level become 1, the others 0, with a true edge."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import slope_in_samples
from reedloom.kit import GREY, Context, Float, Port, adds_to, driving, kind


@kind(
    id="threshold",
    label="Threshold",
    family="tone",
    version=1,
    purpose="Cuts a map at a level into 0 and 1, with an edge that is as sharp as a sample allows.",
    inputs=(
        Port("map", GREY),
        driving("level_map", adds_to("level"), "Added to the level, point by point."),
    ),
    outputs=(Port("mask", GREY),),
    parameters=(
        Float("level", 0.5, (0, 1), mark=True, help="Tones above this become 1."),
        Float(
            "softness",
            0.0,
            (0, 0.5),
            (0, 100),
            help="The range of tones over which the edge fades; 0 keeps it sharp.",
        ),
    ),
    synonyms=("cut", "step", "mask", "binary", "select"),
    shows_histogram=True,
)
def threshold(
    context: Context, map: np.ndarray, level_map: np.ndarray | None, *, level: float, softness: float
) -> np.ndarray:
    above = map - np.float32(level)
    if level_map is not None:
        above -= level_map
    slope = slope_in_samples(context, above)

    def cut(rows: np.ndarray, slopes: np.ndarray) -> np.ndarray:
        # The change across one sample, in the direction of the steepest rise, is the edge's width.
        width = np.maximum(np.hypot(slopes[..., 0], slopes[..., 1]), np.float32(max(softness, 1e-6)))
        return np.clip(rows / width + np.float32(0.5), 0, 1)

    return context.map_bands(cut, above, slope)
