"""Spread: carries values outward from a mask."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.distance import edge_distance
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Length, Port, Role, kind


@kind(
    id="spread",
    label="Spread",
    family="height",
    version=1,
    purpose="Distance outward from a mask, and the value of the nearest place inside carried along.",
    inputs=(
        Port("mask", GREY, help="From where it spreads: where it is a half or more.", role=Role.MASK),
        Port("carried", GREY | COLOUR, optional=True, help="What is carried outward; the mask if not tied."),
    ),
    outputs=(
        Port("distance", GREY, help="0 inside, 1 at the limit and beyond."),
        Port(
            "carried",
            SAME_AS("carried"),
            help="The value of the nearest place inside, as far as the limit; 0 beyond.",
            exempt={
                "resolution": "half-way between two places it jumps from the value of one to the other's"
            },
        ),
    ),
    parameters=(Length("limit", 0.1, (0.005, 0.5), (0, 2), help="How far it spreads."),),
    synonyms=("dilate", "voronoi", "nearest", "flood", "bleed", "distance"),
)
def spread(
    context: Context, mask: np.ndarray, carried: np.ndarray | None, *, limit: float
) -> dict[str, np.ndarray]:
    away, nearest = edge_distance(mask, context.bands, context.aspect)
    source = mask if carried is None else carried
    out = np.empty_like(source)
    share = context.empty()

    def band(y0: int, y1: int) -> None:
        share[y0:y1] = np.clip(away[y0:y1] / np.float32(max(limit, 1e-6)), 0, 1)
        found = source[nearest.row[y0:y1], nearest.column[y0:y1]]
        within = away[y0:y1] <= limit
        out[y0:y1] = np.where(within if source.ndim == 2 else within[..., None], found, 0)

    context.bands(band)
    return {"distance": share, "carried": out}
