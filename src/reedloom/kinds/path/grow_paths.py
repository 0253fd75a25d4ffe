"""Grow paths: from points, along a flow or the way each faces, wandering."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import read_at, starts_of, wrapped
from reedloom.kernels.spacing import ends_apart
from reedloom.kinds.path.path_parts import PATHS_OUT, ended, ended_below, grown_paths, read_on
from reedloom.kinds.points.points_parts import POINTS_IN
from reedloom.kit import GREY, VECTOR, Context, Count, Float, Length, Port, Role, Seed, Switch, kind

CALM = 1e-3
"""How short a way to grow is hardly any, in widths for each unit of it."""
LEAST = 1e-4
"""The least distance that paths can be kept apart, in widths."""


@kind(
    id="grow_paths",
    label="Grow paths",
    family="path",
    version=1,
    purpose="A path from every point, along a flow or the way it faces: hair, grass, roots, brush marks.",
    inputs=(
        POINTS_IN,
        Port("along", VECTOR, optional=True, help="The way to grow; else the way each faces.", role=Role.WAY),
        Port("mask", GREY, optional=True, help="Paths end where it is not above the level.", role=Role.MASK),
    ),
    outputs=(PATHS_OUT,),
    parameters=(
        Length("length", 0.15, (0.01, 0.6), (0, 16), help="How long a path of a point of size 1 becomes."),
        Float("uneven", 0.3, (0, 1), (0, 1), help="How much shorter some become, by chance."),
        Count("corners", 16, (2, 48), (2, 512), help="Corners of each path, between which it is straight."),
        Float("curl", 0.0, (-1, 1), (-16, 16), help="How far each turns on its way, in half turns."),
        Float("wander", 0.2, (0, 1), (0, 8), help="How far each strays from its way as it grows."),
        Float("level", 0.5, (0, 1), help="How high the mask is where paths may grow."),
        Switch("end_in_calm", False, help="Ends paths where the way to grow is hardly any."),
        Length("apart", 0.0, (0, 0.1), (0, 1), help="Paths end before they come so near to one before them."),
        Seed(),
    ),
    synonyms=("hair", "fur", "grass", "streamline", "roots", "strands"),
    sample={"wander": 0.5, "length": 0.3},
)
def grow_paths(
    context: Context, points: np.ndarray, along: np.ndarray | None, mask: np.ndarray | None, length: float,
    uneven: float, corners: int, curl: float, wander: float, level: float, end_in_calm: bool, apart: float,
    seed: int,
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

    grown = grown_paths(context, (points["u"], points["v"]), step, steps, ids, heading)
    grown["width"], grown["height"] = np.repeat(points["size"], corners), np.repeat(points["tone"], corners)
    if mask is not None:
        grown = ended_below(grown, read_on(mask, grown), level)
    if end_in_calm and along is not None:
        flow = context.in_widths(read_on(along, grown).astype(np.float64))
        grown = ended_below(grown, np.hypot(flow[:, 0], flow[:, 1]), CALM)
    if apart > 0 and len(grown):
        apart = max(apart, LEAST)
        context.room_for(int((step * steps).sum() / apart * 2), "places along the paths")
        x, y = grown["u"].astype(np.float64), grown["v"] * context.aspect
        grown = ended(grown, *ends_apart(starts_of(grown), x, y, apart, context.aspect))
    return grown
