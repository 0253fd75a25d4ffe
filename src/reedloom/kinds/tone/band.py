"""Band: keeps a range of tones as a mask."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
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
    numbers = (np.float32(centre), np.float32(width / 2), np.float32(softness))
    return map_with_width(context, map, lambda tones, covered, out: band_rows(tones, covered, *numbers, out))


@kernel
def band_rows(tones, covered, middle, half, softness, out):  # type: ignore[no-untyped-def]
    """1 within half a width of the middle; thinner than a sample, the share of the sample that it fills."""
    for k in range(out.shape[0]):
        edge = max(covered[k], softness, np.float32(1e-6))
        full = min(np.float32(1.0), (half + half + softness) / edge)
        share = (half - abs(tones[k] - middle)) / edge + np.float32(0.5)
        out[k] = min(max(share, np.float32(0.0)), full)
