"""Join colour: three grey maps as a colour."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
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

    if space == "RGB":
        out = context.empty(3)
        context.bands(lambda y0, y1: join_rows(*(np.ascontiguousarray(p[y0:y1]) for p in parts), out[y0:y1]))
        return out

    def join(*rows: np.ndarray) -> np.ndarray:
        joined = np.stack(rows, axis=-1)
        if space == "OKLCH":
            joined = joined * np.array([1, 0.35, 1], np.float32)
        return np.maximum(np.nan_to_num(SPACES[space][1](joined)), 0).astype(np.float32)

    return context.map_bands(join, *parts, channels=3)


@kernel
def join_rows(first, second, third, out):  # type: ignore[no-untyped-def]
    """Three maps (n, W) as the channels of one, none below 0."""
    zero = np.float32(0.0)
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            out[y, x, 0] = max(first[y, x], zero)
            out[y, x, 1] = max(second[y, x], zero)
            out[y, x, 2] = max(third[y, x], zero)
