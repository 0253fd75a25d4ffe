"""Work on normal maps: joining two, changing their strength, and going back to a height."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.spectral import integrate_slopes
from reedloom.kit import COLOUR, GREY, Context, Float, Port, kind

NORMAL_OUT = Port("normal", COLOUR, plain=True, help="X right, Y up, Z out, each from -1..1 to 0..1.")
FLAT = np.float32(1e-4)


def decoded(normal: np.ndarray, strength: float = 1.0) -> np.ndarray:
    """Unit vectors of an encoded normal map, tipped `strength` times as far: (..., 3)."""
    n = normal * np.float32(2) - np.float32(1)
    n[..., :2] *= np.float32(strength)
    n[..., 2] = np.maximum(n[..., 2], FLAT)
    n /= np.sqrt((n * n).sum(axis=-1, keepdims=True))
    return n


def encoded(n: np.ndarray) -> np.ndarray:
    """Vectors as an encoded normal map."""
    length = np.sqrt((n * n).sum(axis=-1, keepdims=True))
    coded: np.ndarray = n / np.maximum(length, FLAT) * np.float32(0.5) + np.float32(0.5)
    return coded


@kind(
    id="combine_normals",
    label="Combine normals",
    family="height",
    version=1,
    purpose="Lays a detail's normals over a base's, turned with the base so that neither is flattened.",
    inputs=(Port("base", COLOUR, plain=True), Port("detail", COLOUR, plain=True)),
    outputs=(NORMAL_OUT,),
    parameters=(
        Float("base_strength", 1.0, (0, 2), (-100, 100), help="How steep the base is; 1 is as it came."),
        Float("detail_strength", 1.0, (0, 2), (-100, 100), help="How steep the detail is."),
    ),
    synonyms=("blend", "reoriented", "detail", "mix"),
)
def combine_normals(
    context: Context, base: np.ndarray, detail: np.ndarray, *, base_strength: float, detail_strength: float
) -> np.ndarray:
    # After C. Barré-Brisebois and S. Hill, *Blending in Detail*, 2012: the detail is turned as the base is.
    def work(below: np.ndarray, above: np.ndarray) -> np.ndarray:
        t, u = decoded(below, base_strength), decoded(above, detail_strength)
        t[..., 2] += 1
        u[..., :2] *= -1
        return encoded(t * ((t * u).sum(axis=-1, keepdims=True) / t[..., 2:]) - u)

    return context.map_bands(work, base, detail)


@kind(
    id="normal_strength",
    label="Normal strength",
    family="height",
    version=1,
    purpose="Makes a normal map steeper or flatter.",
    inputs=(Port("normal", COLOUR, plain=True),),
    outputs=(NORMAL_OUT,),
    parameters=(
        Float("strength", 1.0, (0, 4), (-100, 100), help="1 leaves it, 0 is flat, below 0 turns it over."),
    ),
    synonyms=("intensity", "flatten", "bump"),
)
def normal_strength(context: Context, normal: np.ndarray, *, strength: float) -> np.ndarray:
    return context.map_bands(lambda rows: encoded(decoded(rows, strength)), normal)


@kind(
    id="height_from_normal",
    label="Height from normal",
    family="height",
    version=1,
    physical=True,
    purpose="The surface that has these normals, true to the weave's size and depth; its mean is a half.",
    inputs=(Port("normal", COLOUR, plain=True),),
    outputs=(Port("height", GREY, help="The surface."),),
    parameters=(Float("strength", 1.0, (0, 4), (-100, 100), help="Makes it higher; 1 is true."),),
    synonyms=("integrate", "poisson", "displacement", "bump"),
)
def height_from_normal(context: Context, normal: np.ndarray, *, strength: float) -> np.ndarray:
    dx, dy = context.physical[0] / context.width, context.physical[1] / context.height
    depth = np.float32(max(context.depth, 1e-9))
    slope = context.empty(2)

    def band(y0: int, y1: int) -> None:
        n = decoded(normal[y0:y1])
        # Rows run down, so a surface tipped up rises against them.
        slope[y0:y1, :, 0] = -n[..., 0] / n[..., 2]
        slope[y0:y1, :, 1] = n[..., 1] / n[..., 2]

    context.bands(band)
    surface = integrate_slopes(slope, dx, dy, context.bands)
    scale = np.float32(strength) / depth
    return context.map_bands(lambda rows: rows * scale + np.float32(0.5), surface)
