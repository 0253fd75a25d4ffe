"""Join colour: three grey maps as a colour."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hues import join_colours
from reedloom.kinds.colour.colour_parts import SPACES
from reedloom.kit import COLOUR, GREY, Choice, Context, Port, kind


@kind(
    id="join_colour",
    label="Join colour",
    family="colour",
    version=1,
    purpose="Makes a colour of three grey maps: red, green, blue, or hue and its companions.",
    inputs=(
        Port("first", GREY, help="Red; hue; or lightness."),
        Port("second", GREY, optional=True, help="Green; saturation; or chroma. Half if nothing is tied."),
        Port("third", GREY, optional=True, help="Blue; value; or hue. Half if nothing is tied."),
    ),
    outputs=(Port("colour", COLOUR),),
    parameters=(
        Choice(
            "space",
            "RGB",
            tuple(SPACES),
            help="Red, green, blue as light; hue, saturation, value; or lightness, chroma, hue.",
        ),
    ),
    exempt={"resolution": "colours of averaged hues are not averages of the colours"},
    synonyms=("merge", "combine channels", "rgb", "hsv", "oklch"),
)
def join_colour(
    context: Context, first: np.ndarray, second: np.ndarray | None, third: np.ndarray | None, *, space: str
) -> np.ndarray:
    half = np.full_like(first, 0.5) if second is None or third is None else first
    parts = [first, half if second is None else second, half if third is None else third]
    if space == "OKLCH":
        parts[1] = parts[1] * np.float32(0.35)
    out = context.empty(3)

    def band(y0: int, y1: int) -> None:
        rows = (np.ascontiguousarray(part[y0:y1]).reshape(-1) for part in parts)
        join_colours(*rows, SPACES[space], out[y0:y1].reshape(-1, 3))

    context.bands(band)
    return out
