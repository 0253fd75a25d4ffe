"""Work on normal maps: joining two, changing their strength, and going back to a height."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.maps import empty_like
from reedloom.kernels.spectral import integrate_slopes
from reedloom.kit import COLOUR, GREY, Context, Float, Port, kind

NORMAL_OUT = Port("normal", COLOUR, plain=True, help="X right, Y up, Z out, each from -1..1 to 0..1.")
FLAT = np.float32(1e-4)


def decoded(normal: np.ndarray) -> np.ndarray:
    """Unit vectors of an encoded normal map: (..., 3)."""
    n = normal * np.float32(2) - np.float32(1)
    n[..., 2] = np.maximum(n[..., 2], FLAT)
    n /= np.sqrt((n * n).sum(axis=-1, keepdims=True))
    return n


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
    out = empty_like(base)
    strengths = (np.float32(base_strength), np.float32(detail_strength))

    def band(y0: int, y1: int) -> None:
        flat = (map[y0:y1].reshape(-1, 3) for map in (base, detail, out))
        combine_rows(*flat, *strengths)

    context.bands(band)
    return out


@inlined
def _decoded(red, green, blue, strength):  # type: ignore[no-untyped-def]
    """The unit vector of an encoded normal, tipped `strength` times as far."""
    one, two = np.float32(1.0), np.float32(2.0)
    x, y, z = (red * two - one) * strength, (green * two - one) * strength, max(blue * two - one, FLAT)
    scale = one / np.float32(math.sqrt(x * x + y * y + z * z))
    return x * scale, y * scale, z * scale


@inlined
def _encoded(x, y, z):  # type: ignore[no-untyped-def]
    """A vector as an encoded normal."""
    half = np.float32(0.5)
    scale = half / max(np.float32(math.sqrt(x * x + y * y + z * z)), FLAT)
    return x * scale + half, y * scale + half, z * scale + half


@kernel
def combine_rows(base, detail, out, base_strength, detail_strength):  # type: ignore[no-untyped-def]
    """Turn each detail as its base is: (n, 3) encoded normals (C. Barré-Brisebois and S. Hill, 2012)."""
    for k in range(out.shape[0]):
        tx, ty, tz = _decoded(base[k, 0], base[k, 1], base[k, 2], base_strength)
        ux, uy, uz = _decoded(detail[k, 0], detail[k, 1], detail[k, 2], detail_strength)
        tz += np.float32(1.0)
        along = (tz * uz - tx * ux - ty * uy) / tz
        out[k, 0], out[k, 1], out[k, 2] = _encoded(tx * along + ux, ty * along + uy, tz * along - uz)


@kernel
def mix_rows(first, second, out, share):  # type: ignore[no-untyped-def]
    """Go a share (n,) of the way from one direction to another: (n, 3) encoded normals."""
    one = np.float32(1.0)
    for k in range(out.shape[0]):
        t, rest = share[k], one - share[k]
        ax, ay, az = _decoded(first[k, 0], first[k, 1], first[k, 2], one)
        bx, by, bz = _decoded(second[k, 0], second[k, 1], second[k, 2], one)
        x, y, z = ax * rest + bx * t, ay * rest + by * t, az * rest + bz * t
        out[k, 0], out[k, 1], out[k, 2] = _encoded(x, y, z)


@kernel
def strengthen_rows(normal, out, strength):  # type: ignore[no-untyped-def]
    """Tip encoded normals (n, 3) so many times as far."""
    for k in range(out.shape[0]):
        x, y, z = _decoded(normal[k, 0], normal[k, 1], normal[k, 2], strength)
        out[k, 0], out[k, 1], out[k, 2] = _encoded(x, y, z)


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
    out = empty_like(normal)

    def band(y0: int, y1: int) -> None:
        strengthen_rows(normal[y0:y1].reshape(-1, 3), out[y0:y1].reshape(-1, 3), np.float32(strength))

    context.bands(band)
    return out


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
