"""Island points: one point in each island."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import make_points
from reedloom.kernels.regions import measure_regions
from reedloom.kinds.points.points_parts import POINTS_OUT, place_ids
from reedloom.kit import ISLANDS, Context, Float, Port, Switch, kind


@kind(
    id="island_points",
    label="Island points",
    family="points",
    version=1,
    purpose="A point at the centre of each island, as large as it is.",
    inputs=(Port("islands", ISLANDS, help="The islands, or the elements of a pattern."),),
    outputs=(POINTS_OUT,),
    parameters=(
        Switch("sized", True, help="Sizes points by their islands: 1 is the average one."),
        Switch("turned", True, help="Turns points along their islands' long axis."),
        Float("least_size", 0.0, (0, 0.01), (0, 1), help="Leaves out islands smaller than this."),
    ),
    synonyms=("centroid", "centre", "regions", "elements"),
)  # fmt: skip
def island_points(
    context: Context, islands: np.ndarray, sized: bool, turned: bool, least_size: float
) -> np.ndarray:
    table = measure_regions(islands, context.stop.check, context.aspect)
    shown = table.present
    shown = shown[table.area[shown] >= least_size]
    points = make_points(table.u[shown], table.v[shown])
    points["id"] = place_ids(points["u"], points["v"])
    if sized and len(shown):
        across = np.sqrt(table.area[shown])
        points["size"] = across / across.mean()
    if turned:
        points["turn"] = np.degrees(table.axis[shown])
    return points
