"""Grow paths: from points, along a flow or the way each faces, wandering."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import read_at, wrapped
from reedloom.kinds.path.path_parts import PATHS_OUT, grown_paths
from reedloom.kinds.points.points_parts import POINTS_IN
from reedloom.kit import VECTOR, Context, Count, Float, Length, Port, Role, Seed, kind


@kind(
    id="grow_paths",
    label="Grow paths",
    family="path",
    version=1,
    purpose="A path from every point, along a flow or the way it faces: hair, grass, roots, brush marks.",
    inputs=(
        POINTS_IN,
        Port("along", VECTOR, optional=True, help="The way to grow; else the way each faces.", role=Role.WAY),
    ),
    outputs=(PATHS_OUT,),
    parameters=(
        Length("length", 0.15, (0.01, 0.6), (0, 16), help="How long a path of a point of size 1 becomes."),
        Float("uneven", 0.3, (0, 1), (0, 1), help="How much shorter some become, by chance."),
        Count("corners", 16, (2, 48), (2, 512), help="Corners of each path, between which it is straight."),
        Float("curl", 0.0, (-1, 1), (-16, 16), help="How far each turns on its way, in half turns."),
        Float("wander", 0.2, (0, 1), (0, 8), help="How far each strays from its way as it grows."),
        Seed(),
    ),
    synonyms=("hair", "fur", "grass", "streamline", "roots", "strands"),
    sample={"wander": 0.5, "length": 0.3},
)
def grow_paths(
    context: Context, points: np.ndarray, along: np.ndarray | None, length: float, uneven: float,
    corners: int, curl: float, wander: float, seed: int,
) -> np.ndarray:  # fmt: skip
    context.room_for(len(points) * corners, "corners")
    ids, steps = points["id"], corners - 1
    step = length * points["size"] * (1 - uneven * unit_chances(seed, ids, 1)) / max(steps, 1)
    facing = np.radians(points["turn"].astype(np.float64))
    stray = np.zeros(len(points))

    def heading(k: int, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        # Strays add up as steps do, so that more corners do not wander further.
        stray[:] += wander * (unit_chances(seed, ids, 2 + k) - 0.5) * np.sqrt(120 / steps) * 0.5
        if along is not None:
            flow = context.in_widths(read_at(along, wrapped(u), wrapped(v)).astype(np.float64))
            moving = np.hypot(flow[:, 0], flow[:, 1]) > 1e-9
            facing[moving] = np.arctan2(flow[:, 1], flow[:, 0])[moving]
        return facing + (stray + curl * np.pi * (k + 0.5) / steps)

    grown = grown_paths(context, (points["u"], points["v"]), step, steps, heading)
    grown["width"], grown["height"] = np.repeat(points["size"], corners), np.repeat(points["tone"], corners)
    return grown
