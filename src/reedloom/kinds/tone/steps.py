"""Steps: tones gathered into treads."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kinds.tone.tone_parts import map_with_width
from reedloom.kit import GREY, Context, Count, Float, Port, kind


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
    numbers = (float(count), float(offset), float(smooth), float(max(1, count - 1)))
    return map_with_width(context, map, lambda tones, covered, out: step_rows(tones, covered, *numbers, out))


@inlined
def _climbed(x, smooth):  # type: ignore[no-untyped-def]
    """The integral from 0 to x of a staircase with a step of 1 at every whole number.

    smooth : the share of each tread that rises in a straight line.
    """
    whole = np.floor(x)
    part = x - whole
    flat = whole * (whole - 1) * 0.5 + whole * part
    if smooth <= 0:
        return flat
    rise = max(part - (1 - smooth), 0.0)
    return flat + whole * smooth * 0.5 + rise * rise / (2 * smooth)


@kernel
def step_rows(tones, covered, count, start, smooth, top, out):  # type: ignore[no-untyped-def]
    """The mean of the staircase over what each sample covers, from 0 to 1."""
    for k in range(out.shape[0]):
        half = max(np.float64(covered[k]) * count * 0.5, 1e-3)
        x = np.float64(tones[k]) * count + start
        mean = (_climbed(x + half, smooth) - _climbed(x - half, smooth)) / (2 * half)
        out[k] = (mean - start) / top
