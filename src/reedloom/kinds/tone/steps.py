"""Steps: tones gathered into treads."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.tone.tone_parts import map_with_width
from reedloom.kit import GREY, Context, Count, Float, Port, kind


def climbed(x: np.ndarray, smooth: float) -> np.ndarray:
    """The integral from 0 to x of a staircase with a step of 1 at every whole number.

    smooth : float
        The share of each tread that rises in a straight line.
    """
    whole = np.floor(x)
    part = x - whole
    flat = whole * (whole - 1) / 2 + whole * part
    if smooth <= 0:
        return flat
    rise = np.maximum(part - (1 - smooth), 0)
    return flat + whole * smooth / 2 + rise * rise / (2 * smooth)


@kind(
    id="steps",
    label="Steps",
    family="tone",
    version=1,
    purpose="Gathers tones into steps: terraces, strata, posterised shades.",
    inputs=(Port("map", GREY),),
    outputs=(Port("map", GREY),),
    parameters=(
        Count("count", 5, (2, 24), (1, 1024), help="How many treads there are from 0 to 1."),
        Float(
            "smooth", 0.0, (0, 1), (0, 1), help="The share of each tread that rises to the next; 1 is a ramp."
        ),
        Float("offset", 0.0, (0, 1), help="Moves the steps along the tones, in treads."),
    ),
    synonyms=("quantise", "posterise", "terrace", "strata", "stairs"),
    sample={"count": 4, "smooth": 0.15},
    shows_histogram=True,
)
def steps(context: Context, map: np.ndarray, *, count: int, smooth: float, offset: float) -> np.ndarray:
    scale, start = np.float64(count), np.float64(offset)
    top = max(1, count - 1)

    def gather(tones: np.ndarray, covered: np.ndarray) -> np.ndarray:
        half = np.maximum(covered * scale / 2, 1e-3)
        x = tones * scale + start
        mean = (climbed(x + half, smooth) - climbed(x - half, smooth)) / (2 * half)
        return ((mean - start) / top).astype(np.float32)

    return map_with_width(context, map, gather)
