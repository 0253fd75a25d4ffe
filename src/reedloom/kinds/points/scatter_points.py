"""Scatter points: blue noise, by count or by distance, thinned by a density map."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import make_points, read_at
from reedloom.kernels.scatter import MOST_POINTS, scatter
from reedloom.kinds.points.points_parts import FIXED, POINTS_OUT, SEED
from reedloom.kit import GREY, Choice, Context, Count, Float, Length, Port, kind


@kind(
    id="scatter_points",
    label="Scatter points",
    family="points",
    version=1,
    purpose="Points strewn so that they keep apart; more can be added and none of the others moves.",
    inputs=(Port("density_map", GREY, optional=True, help="How densely they lie: all at 1, none at 0."),),
    outputs=(POINTS_OUT,),
    parameters=(
        Choice("by", "count", ("count", "distance"), help="Whether you say how many, or how far apart."),
        Count(
            "count",
            200,
            (10, 5000),
            (1, MOST_POINTS),
            help="How many points, before they are thinned.",
            shown_if={"by": "count"},
        ),
        Length(
            "distance",
            0.05,
            (0.01, 0.2),
            (0.002, 0.5),
            help="The least distance from point to point.",
            shown_if={"by": "distance"},
        ),
        Float("density", 1.0, (0, 1), (0, 1), help="The share of the points that stay; times the map."),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("blue noise", "poisson", "random", "strew", "sprinkle"),
)
def scatter_points(
    context: Context, density_map: np.ndarray | None, by: str, count: int, distance: float,
    density: float, seed: int,
) -> np.ndarray:  # fmt: skip
    most, spacing = (count, 0.0) if by == "count" else (MOST_POINTS, distance)
    points = make_points(*scatter(seed, most, spacing, context.stop.check, context.aspect))
    # The first points of the order are evenly spread themselves, so that thinning by rank stays even.
    rank = (np.arange(len(points)) + 0.5) / max(1, len(points))
    there = density if density_map is None else density * read_at(density_map, points["u"], points["v"])
    return points[rank < there]
