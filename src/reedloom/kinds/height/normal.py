"""Normal from height: the surface's direction, true to the weave's physical size and depth."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import kernel
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
    out = context.empty(3)
    context.bands(lambda y0, y1: face_rows(slope[y0:y1].reshape(-1, 2), rise, out[y0:y1].reshape(-1, 3)))
    return out


@kernel
def face_rows(slopes, rise, out):  # type: ignore[no-untyped-def]
    """The encoded normals (n, 3) of slopes (n, 2), `rise` times as steep."""
    half, one = np.float32(0.5), np.float32(1.0)
    for k in range(out.shape[0]):
        # Rows run down, so a rise with the rows tips the surface up.
        x, y = slopes[k, 0] * -rise, slopes[k, 1] * rise
        length = half / np.float32(math.sqrt(x * x + y * y + one))
        out[k, 0], out[k, 1], out[k, 2] = x * length + half, y * length + half, length + half
