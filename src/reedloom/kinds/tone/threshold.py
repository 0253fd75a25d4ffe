"""Threshold: tones above a level become 1, the others 0, with a true edge."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kinds.tone.tone_parts import map_with_width
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
    above, cut = map, np.float32(level)
    if level_map is not None:
        above, cut = (
            context.map_bands(lambda tones, levels: tones - levels - cut, map, level_map),
            np.float32(0),
        )
    softest = np.float32(max(softness, 1e-6))
    return map_with_width(context, above, lambda tones, width, out: cut_rows(tones, width, cut, softest, out))


@kernel
def cut_rows(tones, width, level, softness, out):  # type: ignore[no-untyped-def]
    """1 above a level and 0 below; the change across one sample is the edge's width."""
    for k in range(out.shape[0]):
        share = (tones[k] - level) / max(width[k], softness) + np.float32(0.5)
        out[k] = min(max(share, np.float32(0.0)), np.float32(1.0))
