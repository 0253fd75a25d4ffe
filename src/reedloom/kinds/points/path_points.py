"""Path points: points along paths, at even steps."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import make_points, members_of, starts_of
from reedloom.kinds.path.path_parts import places_on_paths, runs_of, set_in, ways_on_paths
from reedloom.kinds.points.points_parts import POINTS_OUT, grid_ids
from reedloom.kit import PATHS, Choice, Context, Count, Float, Length, Port, Switch, kind

MOST = 4096
"""Points on one path."""


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
        Switch("to_ends", False, help="Spaces points evenly from the very start to the very end."),
        Float("fade_start", 0.0, (0, 1), (0, 1), help="Over which share of a path points grow from nothing."),
        Float("fade_end", 0.0, (0, 1), (0, 1), help="Over which share of a path points shrink to nothing."),
        Switch("face_along", True, help="Turns the points along the path."),
    ),
    synonyms=("curve", "line", "follow", "beads", "stitches"),
)
def path_points(
    context: Context, paths: np.ndarray, by: str, count: int, distance: float, start: float, to_ends: bool,
    fade_start: float, fade_end: float, face_along: bool,
) -> np.ndarray:  # fmt: skip
    starts = starts_of(paths)
    _, lengths = runs_of(context, paths, starts)
    steps = np.full(len(lengths), count)
    if by == "distance":
        steps = np.clip(np.round(lengths / distance), 1, MOST).astype(np.int64)
    steps[(lengths <= 0) | (np.diff(starts) < 2)] = 0
    context.room_for(int(steps.sum()), "points")
    which, number = members_of(steps)
    share = (number + start) / np.maximum(steps[which], 1)
    if to_ends:
        share = np.where(steps[which] > 1, number / np.maximum(steps[which] - 1, 1), start)
    u, v, width, height = places_on_paths(context, paths, which, share)
    firsts = paths[starts[:-1]]
    points = make_points(u, v, grid_ids(firsts["id"][which], number))
    points["size"] = width * set_in(share, fade_start, fade_end, lambda t: t)
    points["tone"], points["row"], points["column"] = height, firsts["path"][which], number
    if face_along:
        points["turn"] = np.degrees(ways_on_paths(context, paths, which, share))
    return points
