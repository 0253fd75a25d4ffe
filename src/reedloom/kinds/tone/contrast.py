"""Contrast: spread about the middle, brightness and gamma."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.tones import affine
from reedloom.kinds.filter.filter_parts import of_channels
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Port, Switch, driving, kind, multiplies

LARGEST = 1e18


@kind(
    id="contrast",
    label="Contrast",
    family="tone",
    version=1,
    purpose="Spreads or gathers tones about the middle, lightens or darkens them.",
    inputs=(
        Port("map", GREY | COLOUR),
        driving("contrast_map", multiplies("contrast"), "Multiplies the contrast, point by point."),
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Float(
            "contrast",
            1.5,
            (0, 4),
            (-64, 64),
            help="1 leaves tones as they are; 0 makes all of them the middle.",
        ),
        Float("middle", 0.5, (0, 1), mark=True, help="The tone that contrast leaves in its place."),
        Float("brightness", 0.0, (-1, 1), help="Added to every tone."),
        Float("gamma", 1.0, (0.2, 5), (0.01, 100), help="Lightens the middle above 1 and darkens it below."),
        Switch("keep_within", False, help="Holds tones between 0 and 1."),
    ),
    synonyms=("brightness", "gamma", "punch"),
    sample={"contrast": 2.5},
    shows_histogram=True,
)
def contrast(
    context: Context,
    map: np.ndarray,
    contrast_map: np.ndarray | None,
    *,
    contrast: float,
    middle: float,
    brightness: float,
    gamma: float,
    keep_within: bool,
) -> np.ndarray:
    if contrast_map is None and gamma == 1:
        ends = (0.0, 1.0) if keep_within else ()
        return affine(context.bands, map, contrast, middle + brightness - contrast * middle, *ends)
    spread, centre, lift = np.float32(contrast), np.float32(middle), np.float32(middle + brightness)

    def change(rows: np.ndarray, *drive: np.ndarray) -> np.ndarray:
        amount = of_channels(drive[0] * spread, rows) if drive else spread
        t = (rows - centre) * amount + lift
        if gamma != 1:
            # What is held lies far beyond all tones, and stays finite at any power.
            size = np.minimum(np.abs(t), np.float32(LARGEST ** min(gamma, 1)))
            t = np.copysign(size ** np.float32(1 / gamma), t)
        return np.clip(t, 0, 1) if keep_within else t

    return context.map_bands(change, map, *([] if contrast_map is None else [contrast_map]))
