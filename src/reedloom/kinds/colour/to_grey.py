"""To grey: one value from a colour, in a chosen way."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hues import GREYS, grey_colours
from reedloom.kit import COLOUR, GREY, Choice, Context, Port, kind

ONE_CHANNEL = {"red": 0, "green": 1, "blue": 2}


@kind(
    id="to_grey",
    label="To grey",
    family="colour",
    version=1,
    purpose="Makes a grey map of a colour: by luminance, one channel, or how saturated it is.",
    inputs=(Port("colour", COLOUR),),
    outputs=(Port("map", GREY),),
    parameters=(Choice("way", "luminance", GREYS, help="What of the colour the grey value is."),),
    synonyms=("desaturate", "luminance", "black and white", "channel"),
    exempt={
        "resolution": "some of its ways, such as saturation, are not the same before and after averaging"
    },
)
def to_grey(context: Context, colour: np.ndarray, *, way: str) -> np.ndarray:
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        if way in ONE_CHANNEL:
            out[y0:y1] = colour[y0:y1, :, ONE_CHANNEL[way]]
        else:
            grey_colours(colour[y0:y1].reshape(-1, 3), GREYS.index(way), out[y0:y1].reshape(-1))

    context.bands(band, band_rows=1)
    return out
