"""Range: one range of tones carried to another in a straight line."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.tones import affine
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Port, Switch, kind


@kind(
    id="range",
    label="Range",
    family="tone",
    version=1,
    purpose="Carries one range of values to another in a straight line, below 0 and above 1 too.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Float("from_low", 0.0, (-1, 1), mark=True, help="The value that becomes the new low end."),
        Float("from_high", 1.0, (-1, 2), mark=True, help="The value that becomes the new high end."),
        Float("to_low", 0.0, (-1, 1), help="What the low end becomes."),
        Float("to_high", 1.0, (-1, 2), help="What the high end becomes."),
        Switch("keep_within", False, help="Holds values beyond the ends at the ends."),
    ),
    synonyms=("remap", "scale", "offset", "linear"),
    sample={"to_low": 0.7, "to_high": 0.2},
    shows_histogram=True,
)
def range_(
    context: Context,
    map: np.ndarray,
    *,
    from_low: float,
    from_high: float,
    to_low: float,
    to_high: float,
    keep_within: bool,
) -> np.ndarray:
    span = from_high - from_low
    slope = (to_high - to_low) / span if abs(span) > 1e-7 else 0.0
    ends = sorted((to_low, to_high)) if keep_within else ()
    return affine(context.bands, map, slope, to_low - slope * from_low, *ends)
