"""Normal from height: the surface's direction, true to the weave's physical size and depth."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.height.height_parts import slope_in_metres
from reedloom.kit import COLOUR, GREY, Context, Float, Port, Role, kind


@kind(
    id="normal",
    label="Normal from height",
    family="height",
    version=1,
    physical=True,
    purpose="Which way the surface faces, from its height and the weave's size and depth in metres.",
    inputs=(Port("height", GREY, role=Role.HEIGHT),),
    outputs=(Port("normal", COLOUR, plain=True, help="X right, Y up, Z out, each from -1..1 to 0..1."),),
    parameters=(
        Float("strength", 1.0, (0, 4), (-100, 100), help="Makes the relief steeper than it is; 1 is true."),
    ),
    synonyms=("bump", "tangent", "relief"),
)
def normal(context: Context, height: np.ndarray, *, strength: float) -> np.ndarray:
    slope = slope_in_metres(context, height)
    rise = np.float32(strength * context.depth)

    def encode(slopes: np.ndarray) -> np.ndarray:
        # Rows run down, so a rise with the rows tips the surface up.
        x, y = slopes[..., 0] * -rise, slopes[..., 1] * rise
        length = np.float32(0.5) / np.sqrt(x * x + y * y + 1)
        return np.stack([x * length, y * length, length], axis=-1) + np.float32(0.5)

    return context.map_bands(encode, slope, channels=3)
