"""Chipped edges: bites out of ridges and edges."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.distance import signed_distance
from reedloom.kernels.maps import empty_like
from reedloom.kernels.regions import find_regions, measure_regions, place_chances
from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.height.height_parts import HEIGHT_IN, HEIGHT_OUT, crumbs, nearly_most, smooth_step
from reedloom.kinds.height.island_parts import of_each
from reedloom.kit import GREY, Context, Count, Float, Length, Port, Role, Seed, kind


@kind(
    id="chip",
    label="Chipped edges",
    family="height",
    version=1,
    purpose="Bites pieces out of edges and ridges, as knocks do.",
    inputs=(
        HEIGHT_IN,
        Port(
            "mask",
            GREY,
            optional=True,
            help="Whose edges are chipped; the surface's own ridges if not tied.",
            role=Role.MASK,
        ),
        Port("pattern", GREY, optional=True, help="Where pieces break: low first; a noise if not tied."),
    ),
    outputs=(HEIGHT_OUT, Port("chips", GREY, help="1 where something is broken off.")),
    parameters=(
        Length("width", 0.03, (0.002, 0.1), (0.0001, 1), help="How far from the edge chips reach."),
        Float("amount", 0.5, (0, 1), (0, 2), help="How much of the edge is gone."),
        Float("depth", 0.3, (0, 1), (-10, 10), help="How deep the bites are."),
        Count("cells", 18, (4, 64), (1, 1024), help="How fine they are: bites across the tile, about."),
        Float("hardness", 0.7, (0, 1), (0, 1), help="From crumbled (0) to cleanly broken (1)."),
        Float("share", 1.0, (0, 1), (0, 1), help="The share of the mask's elements that are hit."),
        Seed(),
    ),
    exempt={
        "metric": "bites lie by chance, which differs from place to place",
        "resolution": "bites are told from ridges by the sharpest of them, which a smaller map blunts",
        "shift": "the noise by which pieces break stays where it is",
    },
    synonyms=("damage", "edge wear", "broken", "spall", "erode"),
)
def chip(
    context: Context,
    height: np.ndarray,
    mask: np.ndarray | None,
    pattern: np.ndarray | None,
    *,
    width: float,
    amount: float,
    depth: float,
    cells: int,
    hardness: float,
    share: float,
    seed: int,
) -> dict[str, np.ndarray]:
    near = nearness(context, height, mask, width)
    if share < 1 and mask is not None:
        near = near * _hit(context, mask, share, seed)
    # A noise keeps to the middle; spread out, the amount runs evenly from none to all.
    breaks = smooth_step(0.2, 0.8, crumbs(context, cells, seed)) if pattern is None else pattern
    soft = 0.35 * (1 - hardness) + 0.02
    chips, out = context.empty(), empty_like(height)

    def band(y0: int, y1: int) -> None:
        bite = near[y0:y1] * np.float32(2 * amount) - breaks[y0:y1]
        chips[y0:y1] = smooth_step(0.0, soft, bite) * (near[y0:y1] > 0)
        # Deeper where more of the edge is gone, so that the floor of a bite slopes outward.
        fall = chips[y0:y1] * (np.float32(0.4) + np.float32(0.6) * np.clip(bite, 0, 1))
        out[y0:y1] = height[y0:y1] - np.float32(depth) * fall

    context.bands(band)
    return {"height": out, "chips": chips}


def nearness(context: Context, height: np.ndarray, mask: np.ndarray | None, width: float) -> np.ndarray:
    """1 on a mask's edge, 0 from `width` inward; without a mask, how far the surface stands out."""
    if mask is not None:
        inward = -signed_distance(mask, context.bands, outside=False, aspect=context.aspect)
        scale = np.float32(1 / width)
        near: np.ndarray = np.where(mask >= 0.5, np.clip(1 - inward * scale, 0, 1), np.float32(0))
        return near
    proud = np.maximum(height - soften(context, height, width / 2), 0)
    return np.clip(proud / np.float32(max(nearly_most(proud, 0.99), 1e-6)), 0, 1)


def _hit(context: Context, mask: np.ndarray, share: float, seed: int) -> np.ndarray:
    """1 on the mask's islands that are hit."""
    labels = find_regions(mask >= 0.5, False, check=context.stop.check)
    table = measure_regions(labels, context.stop.check)
    return of_each(context, labels, place_chances(seed, table.u, table.v, 6) < share)
