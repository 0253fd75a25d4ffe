"""Levels: a tone range stretched to another."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.tones import affine
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Port, Switch, kind


@kind(
    id="levels",
    label="Levels",
    family="tone",
    version=1,
    purpose="Stretches the tones between two marks over another range.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Float("from_low", 0.0, (0, 1), former=("in_low",), mark=True, help="What becomes the low end."),
        Float(
            "from_high",
            1.0,
            (0, 1),
            former=("in_high",),
            mark=True,
            help="What becomes the high end.",
        ),
        Float("gamma", 1.0, (0.2, 5), (0.01, 100), help="Lightens the middle above 1 and darkens it below."),
        Float("to_low", 0.0, (0, 1), former=("out_low",), help="What the low end becomes."),
        Float("to_high", 1.0, (0, 1), former=("out_high",), help="What the high end becomes."),
        Switch("keep_within", True, help="Holds tones beyond the marks at the ends."),
    ),
    synonyms=("brightness", "range", "remap", "contrast", "exposure"),
    sample={"from_low": 0.35, "from_high": 0.65},
    shows_histogram=True,
)
def levels(
    context: Context,
    map: np.ndarray,
    *,
    from_low: float,
    from_high: float,
    gamma: float,
    to_low: float,
    to_high: float,
    keep_within: bool,
) -> np.ndarray:
    span = from_high - from_low
    if gamma == 1:
        slope = (to_high - to_low) / (span if abs(span) > 1e-7 else 1e-7)
        ends = sorted((to_low, to_high)) if keep_within else ()
        return affine(context.bands, map, slope, to_low - slope * from_low, *ends)
    scale = np.float32(1 / span if abs(span) > 1e-7 else 1e7)

    def stretch(rows: np.ndarray) -> np.ndarray:
        t = (rows - np.float32(from_low)) * scale
        if keep_within:
            t = np.clip(t, 0, 1)
        # Tones below 0 are mirrored, so that the curve has no break there.
        t = np.copysign(np.abs(t) ** np.float32(1 / gamma), t)
        return t * np.float32(to_high - to_low) + np.float32(to_low)

    return context.map_bands(stretch, map)
