"""Solid: one colour everywhere."""

from __future__ import annotations

import numpy as np

from reedloom.kit import COLOUR, ColourValue, Context, Port, kind


@kind(
    id="solid",
    label="Solid",
    family="colour",
    version=1,
    purpose="One colour over the whole tile.",
    outputs=(Port("colour", COLOUR),),
    parameters=(ColourValue("colour", (0.32, 0.24, 0.16), help="The colour."),),
    synonyms=("flat", "uniform", "constant", "paint"),
)
def solid(context: Context, *, colour: tuple[float, float, float]) -> np.ndarray:
    out = context.empty(3)
    paint = np.array(colour, np.float32)

    def band(y0: int, y1: int) -> None:
        out[y0:y1] = paint

    context.bands(band)
    return out
