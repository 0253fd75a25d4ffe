"""To grey: one value from a colour, in a chosen way."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.colours import luminance, oklab_from_linear
from reedloom.kit import COLOUR, GREY, Choice, Context, Port, kind

WAYS: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "luminance": luminance,
    "lightness": lambda c: oklab_from_linear(np.maximum(c, 0))[..., 0].astype(np.float32),
    "average": lambda c: c.mean(axis=-1, dtype=np.float32),
    "greatest": lambda c: c.max(axis=-1),
    "least": lambda c: c.min(axis=-1),
    "red": lambda c: c[..., 0],
    "green": lambda c: c[..., 1],
    "blue": lambda c: c[..., 2],
    "saturation": lambda c: (c.max(axis=-1) - c.min(axis=-1)) / np.maximum(c.max(axis=-1), np.float32(1e-4)),
}


@kind(
    id="to_grey",
    label="To grey",
    family="colour",
    version=1,
    purpose="Makes a grey map of a colour: by luminance, one channel, or how saturated it is.",
    inputs=(Port("colour", COLOUR),),
    outputs=(Port("map", GREY),),
    parameters=(Choice("way", "luminance", tuple(WAYS), help="What of the colour the grey value is."),),
    synonyms=("desaturate", "luminance", "black and white", "channel"),
    exempt={
        "resolution": "some of its ways, such as saturation, are not the same before and after averaging"
    },
)
def to_grey(context: Context, colour: np.ndarray, *, way: str) -> np.ndarray:
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        out[y0:y1] = WAYS[way](colour[y0:y1])

    context.bands(band, band_rows=max(1, 2**15 // context.width))
    return out
