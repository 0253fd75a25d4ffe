"""Blur: an exact periodic Gaussian of any radius, the same everywhere or by a map."""

from __future__ import annotations

import itertools

import numpy as np

from reedloom.kernels.gauss import gaussian_blur
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Length, Port, driving, kind, multiplies

LEVEL_RATIO = 1.4
"""Ratio of neighbouring radii between which a radius map mixes."""
SURELY = 1 - 1e-5
"""A little less than 1: a radius that a sample has, but for rounding, is not left out."""


@kind(
    id="blur",
    label="Blur",
    family="filter",
    version=1,
    purpose="Softens a map; the border wraps.",
    inputs=(
        Port("map", GREY | COLOUR),
        driving("radius_map", multiplies("radius"), "Multiplies the radius, point by point, from 0 to 1."),
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "radius",
            0.01,
            (0, 0.1),
            (0, 0.5),
            help="Standard deviation of the Gaussian, as a share of the tile.",
            neutral=0.0,
        ),
    ),
    synonyms=("soften", "smooth", "gaussian"),
    sample={"radius": 0.04},
)
def blur(context: Context, map: np.ndarray, radius_map: np.ndarray | None, *, radius: float) -> np.ndarray:
    if map.ndim == 3:
        parts = [
            _blur_grey(context, np.ascontiguousarray(map[..., c]), radius_map, radius)
            for c in range(map.shape[2])
        ]
        return np.stack(parts, axis=-1)
    return _blur_grey(context, map, radius_map, radius)


def _blur_grey(context: Context, map: np.ndarray, radius_map: np.ndarray | None, radius: float) -> np.ndarray:
    if radius == 0:
        return map
    if radius_map is None:
        return gaussian_blur(map, context.shares(radius), context.bands)
    return _blur_by_map(context, map, np.clip(radius_map, 0, 1), radius)


def _blur_by_map(context: Context, map: np.ndarray, share: np.ndarray, radius: float) -> np.ndarray:
    """Mix whole blurs of neighbouring radii; each sample mixes the two around its own, by variance."""
    least = 0.25 * min(context.spacing)
    radii = [radius]
    while radii[-1] > least and len(radii) < 24:
        radii.append(radii[-1] / LEVEL_RATIO)
    radii = [0.0, *reversed(radii)]
    wanted = (share * np.float32(radius)) ** 2
    least, most = SURELY * wanted.min(), wanted.max() / SURELY
    out, lower = map.copy(), None
    for small, large in itertools.pairwise(radii):
        if large**2 < least or small**2 > most:  # no sample is between these
            continue
        if lower is None:
            lower = gaussian_blur(map, context.shares(small), context.bands) if small else map
        upper = gaussian_blur(map, context.shares(large), context.bands)

        def mix(
            before: np.ndarray,
            low: np.ndarray,
            high: np.ndarray,
            variance: np.ndarray,
            small: float = small,
            large: float = large,
        ) -> np.ndarray:
            t = np.clip((variance - np.float32(small**2)) / np.float32(large**2 - small**2), 0, 1)
            return np.where(variance > small**2, low + t * (high - low), before)

        out = context.map_bands(mix, out, lower, upper, wanted)
        lower = upper
    return out
