"""Map points: the peaks of a map."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel, read_only
from reedloom.kernels.places import beside
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
    soft = read_only(soften(context, map, softness))  # the map itself, if nothing softens it
    is_peak = np.empty(soft.shape, np.bool_)
    context.bands(lambda y0, y1: find_peaks(soft, np.float32(level), is_peak, y0, y1))
    y, x = np.nonzero(is_peak)
    height, width = soft.shape

    def beyond(before: np.ndarray, after: np.ndarray) -> np.ndarray:
        """How far from the sample the peak of the parabola through three samples lies."""
        b, a, here = before.astype(np.float64), after.astype(np.float64), soft[y, x]
        return np.clip((a - b) / np.maximum(2 * (2 * here - a - b), 1e-12), -0.5, 0.5)

    u = (x + 0.5 + beyond(soft[y, x - 1], soft[y, (x + 1) % width])) / width
    v = (y + 0.5 + beyond(soft[y - 1, x], soft[(y + 1) % height, x])) / height
    points = make_points(u, v)
    points["id"], points["tone"] = place_ids(points["u"], points["v"]), soft[y, x]
    points = points[np.argsort(-points["tone"], kind="stable")]
    if distance > 0:
        points = points[thin_out(points["u"], points["v"], distance, context.aspect)]
    return points[:most]


@kernel
def find_peaks(map, level, out, y0, y1):  # type: ignore[no-untyped-def]
    """Mark what is above a level and above all eight around it; of equal neighbours the first one.

    Parameters
    ----------
    map : (H, W) float32
    level : float32
    out : (H, W) bool
        Rows y0 to y1 are filled.
    """
    height, width = map.shape
    for y in range(y0, y1):
        up, down = beside(y, height)
        above, here, below, line = map[up], map[y], map[down], out[y]
        for x in range(width):
            left, right = beside(x, width)
            own = here[x]
            before = max(above[left], above[x], above[right], here[left])
            after = max(below[left], below[x], below[right], here[right])
            line[x] = own > level and own >= before and own > after
