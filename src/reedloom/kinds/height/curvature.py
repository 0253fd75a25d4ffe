"""Curvature: ridges and cavities at a chosen breadth."""

from __future__ import annotations

import math
from functools import partial

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.places import around, wrap_row
from reedloom.kernels.tones import INFINITE, affine
from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.filter.grow import grow
from reedloom.kinds.height.height_parts import HEIGHT_IN, nearly_farthest
from reedloom.kit import GREY, Context, Count, Float, Length, Port, Switch, kind

SHARE = 0.98
"""The share of the samples that the automatic range holds."""


@kind(
    id="curvature",
    label="Curvature",
    family="height",
    version=1,
    physical=True,
    purpose="How far a surface bulges or hollows, apart from its slope: ridges, edges, cavities.",
    inputs=(HEIGHT_IN,),
    outputs=(
        Port("curvature", GREY, help="Above 0 on ridges, below 0 in cavities, 0 on level and even ground."),
        Port("ridges", GREY, help="The ridges alone, from 0 up."),
        Port("cavities", GREY, help="The cavities alone, from 0 up."),
    ),
    parameters=(
        Length(
            "radius", 0.01, (0.001, 0.1), (0.0001, 0.5), help="The breadth of the ridges and cavities meant."
        ),
        Count("scales", 1, (1, 5), (1, 8), help="Adds up breadths, each half the one before."),
        Switch(
            "automatic", True, help="Fits the range to the surface, so that nearly all lies within -1 to 1."
        ),
        Float("strength", 1.0, (0, 4), (-100, 100), help="Multiplies the result."),
        Length(
            "spread", 0.0, (0, 0.02), (0, 0.25), help="Widens ridges and cavities by so much to both sides."
        ),
        Length("softness", 0.0, (0, 0.02), (0, 0.25), help="Softens what is found by so much."),
        Switch("flipped", False, help="Ridges count as cavities, and cavities as ridges."),
        Switch("keep_within", False, help="Holds the result between -1 and 1."),
    ),
    synonyms=("convexity", "edges", "cavity", "ridge", "concave", "convex"),
)
def curvature(
    context: Context,
    height: np.ndarray,
    *,
    radius: float,
    scales: int,
    automatic: bool,
    strength: float,
    spread: float,
    softness: float,
    flipped: bool,
    keep_within: bool,
) -> dict[str, np.ndarray]:
    total = np.zeros_like(height)
    for scale in range(scales):
        breadth = radius / 2**scale
        share = breadth * context.physical[0] / scales
        add_curvature(context, soften(context, height, breadth / 2), share, total)
    if spread > 0:
        wide = partial(grow.compute, context, radius_map=None, radius=spread, shape="round")
        total = wide(np.maximum(total, 0)) - wide(np.maximum(-total, 0))
    total = soften(context, total, softness)
    factor = -strength if flipped else strength
    if automatic:
        reach = nearly_farthest(total, SHARE)
        factor *= 1 / reach if reach > 1e-9 else 0
    most = 1.0 if keep_within else float(INFINITE)
    total = affine(context.bands, total, factor, 0.0, -most, most)
    sides = {"ridges": 1.0, "cavities": -1.0}
    parts = {
        name: affine(context.bands, total, side, 0.0, 0.0, most)
        for name, side in sides.items()
        if name in context.wanted
    }
    return {"curvature": total, **parts}


def mean_curvature(context: Context, height: np.ndarray) -> np.ndarray:
    """The mean curvature of a surface in 1/m, above 0 where it bulges: 1/r on a ball of radius r."""
    out = np.zeros_like(height)
    add_curvature(context, height, 1.0, out)
    return out


def add_curvature(context: Context, height: np.ndarray, share: float, total: np.ndarray) -> None:
    """Add a share of the mean curvature of a surface to a map."""
    source = np.ascontiguousarray(height)
    across, down = context.physical[0] / context.width, context.physical[1] / context.height
    numbers = np.array([context.depth, across, down, share])
    context.bands(lambda y0, y1: add_curvature_rows(source, numbers, total, y0, y1))


@kernel
def add_curvature_rows(height, numbers, out, y0, y1):  # type: ignore[no-untyped-def]
    """Add mean curvature by central differences of central differences, with the border wrapped.

    Parameters
    ----------
    height : (H, W) float32
    numbers : (4,) float64
        What a height of 1 is, and the distances between samples across and down, in one unit; and what the
        curvature is multiplied by.
    out : (H, W) float32
        In 1 / that unit; rows y0 to y1 are added to.
    """
    depth, dx, dy, share = numbers
    rows, columns = height.shape
    near = np.float32(depth * 0.5 / dx), np.float32(depth * 0.5 / dy)
    far = np.float32(depth * 0.25 / (dx * dx)), np.float32(depth * 0.25 / (dy * dy))
    both = np.float32(depth * 0.25 / (dx * dy))
    one, two, half = np.float32(1), np.float32(2), np.float32(-0.5 * share)
    padded = np.empty((5, columns + 4), np.float32)
    for y in range(y0, y1):
        for j in range(5):
            wrap_row(height[around(y + j - 2, rows)], 2, padded[j])
        flat, line, stride = padded.reshape(-1), out[y], np.uint64(columns + 4)
        for x in range(np.uint64(columns)):
            at = stride + stride + np.uint64(2) + x
            up, low = at - stride, at + stride
            here = two * flat[at]
            p = (flat[at + np.uint64(1)] - flat[at - np.uint64(1)]) * near[0]
            q = (flat[low] - flat[up]) * near[1]
            bend_u = (flat[at + np.uint64(2)] - here + flat[at - np.uint64(2)]) * far[0]
            bend_v = (flat[low + stride] - here + flat[up - stride]) * far[1]
            twist = flat[low + np.uint64(1)] - flat[low - np.uint64(1)]
            twist = (twist - flat[up + np.uint64(1)] + flat[up - np.uint64(1)]) * both
            steep = one + p * p + q * q
            top = (one + q * q) * bend_u - two * p * q * twist + (one + p * p) * bend_v
            line[x] += half * top / (steep * np.float32(math.sqrt(steep)))
