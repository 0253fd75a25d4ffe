"""Blend: one map over another."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.maps import empty_like
from reedloom.kinds.combine.modes import MODES, lay_on, mode_for
from reedloom.kit import COLOUR, GREY, SAME_AS, Choice, Context, Float, Port, Role, Switch, kind


@kind(
    id="blend",
    label="Blend",
    family="combine",
    version=1,
    purpose="Lays one map over another, everywhere or where a mask says.",
    inputs=(
        Port("below", GREY | COLOUR),
        Port("above", GREY | COLOUR),
        Port("mask", GREY, optional=True, help="Where the upper map shows.", role=Role.MASK),
    ),
    outputs=(Port("map", SAME_AS("below", "above")),),
    parameters=(
        Choice(
            "mode",
            "normal",
            tuple(MODES),
            help="How the two values become one; middle grey is neutral for signed add.",
        ),
        Float(
            "strength",
            1.0,
            (0, 1),
            (-16, 16),
            help="How much of the change is taken; 0 leaves the lower map as it is.",
            neutral=0.0,
        ),
        Switch("swap", False, help="Takes the lower map as the upper one and the upper as the lower."),
    ),
    synonyms=("mix", "layer", "multiply", "add", "screen", "overlay", "minimum", "maximum"),
)
def blend(
    context: Context,
    below: np.ndarray,
    above: np.ndarray,
    mask: np.ndarray | None,
    *,
    mode: str,
    strength: float,
    swap: bool,
) -> np.ndarray:
    if swap:
        below, above = above, below
    change = mode_for(context, mode, below)
    if mask is None and strength == 1:
        return context.map_bands(change, below, above)
    out = empty_like(below)

    def band(y0: int, y1: int) -> None:
        low, share = below[y0:y1], None if mask is None else mask[y0:y1]
        lay_on(low, change(low, above[y0:y1]), share, np.float32(strength), out[y0:y1])

    context.bands(band, band_rows=1)
    return out
