"""Join colour: three grey maps as a colour."""

from __future__ import annotations

import numpy as np

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
    half = np.broadcast_to(np.float32(0.5), first.shape)
    parts = (first, half if second is None else second, half if third is None else third)

    def join(*rows: np.ndarray) -> np.ndarray:
        joined = np.stack(rows, axis=-1)
        if space == "OKLCH":
            joined = joined * np.array([1, 0.35, 1], np.float32)
        return np.maximum(np.nan_to_num(SPACES[space][1](joined)), 0).astype(np.float32)

    return context.map_bands(join, *parts, channels=3)
