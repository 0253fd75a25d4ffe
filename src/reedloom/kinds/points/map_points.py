"""Map points: the peaks of a map."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import make_points
from reedloom.kernels.scatter import thin_out
from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.points.points_parts import POINTS_OUT, place_ids
from reedloom.kit import GREY, Context, Count, Float, Length, Port, kind


@kind(
    id="map_points",
    label="Map points",
    family="points",
    version=1,
    purpose="A point on each peak of a map, highest first; their tone is the peak's height.",
    inputs=(Port("map", GREY, help="Where its peaks are, points come."),),
    outputs=(POINTS_OUT,),
    parameters=(
        Float("level", 0.5, (0, 1), help="Only peaks higher than this."),
        Length("softness", 0.004, (0, 0.05), (0, 0.5), help="Blurs the map first: small bumps do not count."),
        Length("distance", 0.02, (0, 0.2), (0, 1), help="The least distance from point to point."),
        Count("most", 2000, (1, 5000), (1, 200000), help="No more points than this."),
    ),
    exempt={"resolution": "of two peaks that lie too near, a hair decides which one stays"},
    synonyms=("peaks", "maxima", "summits", "detect"),
)  # fmt: skip
def map_points(
    context: Context, map: np.ndarray, level: float, softness: float, distance: float, most: int
) -> np.ndarray:
    soft = soften(context, map, softness)
    around = {(j, i): np.roll(soft, (-j, -i), (0, 1)) for j in (-1, 0, 1) for i in (-1, 0, 1) if i or j}
    is_peak = soft > level
    for (j, i), other in around.items():
        is_peak &= (soft > other) if (j, i) > (0, 0) else (soft >= other)
    y, x = np.nonzero(is_peak)

    def beyond(before: np.ndarray, after: np.ndarray) -> np.ndarray:
        """How far from the sample the peak of the parabola through three samples lies."""
        b, a, here = before[y, x].astype(np.float64), after[y, x].astype(np.float64), soft[y, x]
        return np.clip((a - b) / np.maximum(2 * (2 * here - a - b), 1e-12), -0.5, 0.5)

    u = (x + 0.5 + beyond(around[0, -1], around[0, 1])) / context.width
    v = (y + 0.5 + beyond(around[-1, 0], around[1, 0])) / context.height
    points = make_points(u, v)
    points["id"], points["tone"] = place_ids(points["u"], points["v"]), soft[y, x]
    points = points[np.argsort(-points["tone"], kind="stable")]
    if distance > 0:
        points = points[thin_out(points["u"], points["v"], distance, context.aspect)]
    return points[:most]
