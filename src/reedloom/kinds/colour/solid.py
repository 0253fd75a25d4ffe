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
    line = np.tile(np.array(colour, np.float32), (context.width, 1))  # whole rows are copied far quicker

    def band(y0: int, y1: int) -> None:
        out.reshape(context.height, -1)[y0:y1] = line.reshape(-1)

    context.bands(band)
    return out
