"""Path points: points along paths, at even steps."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from reedloom.kernels.points import make_points
from reedloom.kinds.path.path_parts import starts_of
from reedloom.kinds.points.points_parts import POINTS_OUT, grid_ids
from reedloom.kit import PATHS, Choice, Context, Count, Float, Length, Port, Switch, kind


@kind(
    id="path_points",
    label="Path points",
    family="points",
    version=1,
    purpose="Points at even steps along each path, facing along it.",
    inputs=(Port("paths", PATHS, help="The paths to walk along."),),
    outputs=(POINTS_OUT,),
    parameters=(
        Choice("by", "count", ("count", "distance"), help="Whether you say how many, or how far apart."),
        Count("count", 12, (1, 96), (1, 4096), help="Points on each path.", shown_if={"by": "count"}),
        Length(
            "distance",
            0.05,
            (0.005, 0.2),
            (0.0005, 1),
            help="About the distance from point to point.",
            shown_if={"by": "distance"},
        ),
        Float("start", 0.5, (0, 1), (0, 1), help="Where within the first step the first point lies."),
        Switch("face_along", True, help="Turns the points along the path."),
    ),
    synonyms=("curve", "line", "follow", "beads", "stitches"),
)
def path_points(
    context: Context, paths: np.ndarray, by: str, count: int, distance: float, start: float, face_along: bool
) -> np.ndarray:
    laid = [make_points(np.zeros(0), np.zeros(0))]
    for first, last in pairwise(starts_of(paths)):
        context.stop.check()
        path = paths[first:last]
        number = int(path["path"][0])
        du, dv = np.diff(path["u"]), np.diff(path["v"]) * context.aspect
        run = np.concatenate([[0.0], np.cumsum(np.hypot(du, dv))])
        if len(path) < 2 or run[-1] <= 0:
            continue
        steps = count if by == "count" else int(np.clip(round(run[-1] / distance), 1, 4096))
        at = (np.arange(steps) + start) / steps * run[-1]
        piece = np.clip(np.searchsorted(run, at, side="right") - 1, 0, len(du) - 1)
        points = make_points(
            np.interp(at, run, path["u"]),
            np.interp(at, run, path["v"]),
            grid_ids(np.full(steps, number), np.arange(steps)),
        )
        points["size"] = np.interp(at, run, path["width"])
        points["tone"] = np.interp(at, run, path["height"])
        points["row"], points["column"] = number, np.arange(steps)
        if face_along:
            points["turn"] = np.degrees(np.arctan2(dv[piece], du[piece]))
        laid.append(points)
    return np.concatenate(laid)
