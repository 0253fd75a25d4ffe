"""Split colour: a colour's three numbers as grey maps."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hues import split_colours
from reedloom.kinds.colour.colour_parts import SPACES
from reedloom.kit import COLOUR, GREY, Choice, Context, Port, kind

HUES = "a hue has no value for greys and jumps from 1 to 0 among reds, so that it cannot be averaged"


@kind(
    id="split_colour",
    label="Split colour",
    family="colour",
    version=1,
    purpose="Takes a colour apart into three grey maps: red, green, blue, or hue and its companions.",
    inputs=(Port("colour", COLOUR),),
    outputs=(
        Port("first", GREY, help="Red; hue; or lightness."),
        Port("second", GREY, help="Green; saturation; or chroma."),
        Port("third", GREY, help="Blue; value; or hue."),
    ),
    parameters=(
        Choice(
            "space",
            "RGB",
            tuple(SPACES),
            help="Red, green, blue as light; hue, saturation, value; or lightness, chroma, hue.",
        ),
    ),
    exempt={"resolution": HUES, "tiles": HUES, "shift": HUES},
    synonyms=("separate", "channels", "rgb", "hsv", "oklch"),
)
def split_colour(context: Context, colour: np.ndarray, *, space: str) -> dict[str, np.ndarray]:
    outputs = {name: context.empty() for name in ("first", "second", "third")}

    def band(y0: int, y1: int) -> None:
        parts = (out[y0:y1].reshape(-1) for out in outputs.values())
        split_colours(colour[y0:y1].reshape(-1, 3), SPACES[space], *parts)

    context.bands(band)
    return outputs
