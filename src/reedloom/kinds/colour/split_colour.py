"""Split colour: a colour's three numbers as grey maps."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
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
        apart = np.ascontiguousarray(SPACES[space][0](colour[y0:y1]), np.float32)
        split_rows(apart, *(out[y0:y1] for out in outputs.values()))

    context.bands(band, band_rows=16)
    return outputs


@kernel
def split_rows(colour, first, second, third):  # type: ignore[no-untyped-def]
    """The channels of a map (n, W, 3), each by itself."""
    for y in range(first.shape[0]):
        for x in range(first.shape[1]):
            first[y, x], second[y, x], third[y, x] = colour[y, x, 0], colour[y, x, 1], colour[y, x, 2]
