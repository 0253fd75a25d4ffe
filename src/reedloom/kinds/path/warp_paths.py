"""Warp paths: bent by a vector map, or aside by a grey one, with ends that hold still."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import read_at, starts_of
from reedloom.kinds.path.path_parts import (
    PATHS_IN,
    PATHS_OUT,
    READ,
    normals_of,
    reading_places,
    set_in,
    shares_of,
)
from reedloom.kit import GREY, VECTOR, Change, Context, Float, Length, Port, Role, Seed, kind


@kind(
    id="warp_paths",
    label="Warp paths",
    family="path",
    version=2,
    purpose="Bends paths by a vector map, or to their side by a grey map; their ends can hold still.",
    inputs=(
        PATHS_IN,
        Port("along", VECTOR, optional=True, help="The way each place moves.", role=Role.WAY),
        Port("aside", GREY, optional=True, help="How far each place moves to its path's side; 0.5 stays."),
    ),
    outputs=(PATHS_OUT,),
    parameters=(
        Length(
            "strength",
            0.05,
            (0, 0.2),
            (-8, 8),
            help="How far a vector of 1, or a tone of 1, moves.",
            neutral=0.0,
        ),
        Float("still_start", 0.0, (0, 1), (0, 1), help="Over which share of the path it sets in."),
        Float("still_end", 0.0, (0, 1), (0, 1), help="Over which share of the path it fades out."),
        Float(
            "apart",
            0.0,
            (0, 1),
            (0, 64),
            help="How far from its place each path reads, by chance.",
        ),
        READ,
        Seed(),
    ),
    synonyms=("bend", "distort", "wander", "curl"),
    sample={"strength": 0.02},
    changes={2: Change("Closed paths are bent aside at their join as elsewhere.")},
)
def warp_paths(
    context: Context, paths: np.ndarray, along: np.ndarray | None, aside: np.ndarray | None, strength: float,
    still_start: float, still_end: float, apart: float, read: str, seed: int,
) -> np.ndarray:  # fmt: skip
    if along is None and aside is None:
        context.report("Tie a vector map, or a grey map, to bend the paths by.")
        return paths
    starts = starts_of(paths)
    share = shares_of(context, paths, starts)
    drive = strength * set_in(share, still_start, still_end, lambda t: t * t * (3 - 2 * t))
    u, v = reading_places(paths, share, read, apart, seed)
    way = np.zeros((len(paths), 2))
    if along is not None:
        way += context.in_widths(read_at(along, u, v).astype(np.float64))
    if aside is not None:
        way += normals_of(context, paths) * (read_at(aside, u, v)[:, None] - 0.5) * 2
    step = context.in_tiles(way * drive[:, None])
    warped = paths.copy()
    warped["u"] += step[:, 0]
    warped["v"] += step[:, 1]
    return warped
