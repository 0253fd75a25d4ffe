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
        Float("in_low", 0.0, (0, 1), label="From low", mark=True, help="The tone that becomes the low end."),
        Float(
            "in_high", 1.0, (0, 1), label="From high", mark=True, help="The tone that becomes the high end."
        ),
        Float("gamma", 1.0, (0.2, 5), (0.01, 100), help="Lightens the middle above 1 and darkens it below."),
        Float("out_low", 0.0, (0, 1), label="To low", help="What the low end becomes."),
        Float("out_high", 1.0, (0, 1), label="To high", help="What the high end becomes."),
        Switch("keep_within", True, help="Holds tones beyond the marks at the ends."),
    ),
    synonyms=("brightness", "range", "remap", "contrast", "exposure"),
    sample={"in_low": 0.35, "in_high": 0.65},
    shows_histogram=True,
)
def levels(
    context: Context,
    map: np.ndarray,
    *,
    in_low: float,
    in_high: float,
    gamma: float,
    out_low: float,
    out_high: float,
    keep_within: bool,
) -> np.ndarray:
    span = in_high - in_low
    if gamma == 1:
        slope = (out_high - out_low) / (span if abs(span) > 1e-7 else 1e-7)
        ends = sorted((out_low, out_high)) if keep_within else ()
        return affine(context.bands, map, slope, out_low - slope * in_low, *ends)
    scale = np.float32(1 / span if abs(span) > 1e-7 else 1e7)

    def stretch(rows: np.ndarray) -> np.ndarray:
        t = (rows - np.float32(in_low)) * scale
        if keep_within:
            t = np.clip(t, 0, 1)
        # Tones below 0 are mirrored, so that the curve has no break there.
        t = np.copysign(np.abs(t) ** np.float32(1 / gamma), t)
        return t * np.float32(out_high - out_low) + np.float32(out_low)

    return context.map_bands(stretch, map)
