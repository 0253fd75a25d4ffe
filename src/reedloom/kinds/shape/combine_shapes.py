"""Combine shapes: two forms joined, cut or intersected by their distances."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from reedloom.kernels.forms import mask_rows, mean_heights, profile_rows
from reedloom.kernels.places import steepness_rows
from reedloom.kinds.shape.shape_parts import (
    PROFILE,
    PROFILE_CURVE,
    SHAPE_OUTPUTS,
    SOFTNESS,
    THIN,
    Profile,
)
from reedloom.kit import GREY, Choice, Context, Length, Port, Role, kind
from reedloom.kit.ways import length_of


def smooth_least(a: np.ndarray, b: np.ndarray, radius: float) -> np.ndarray:
    """The lower of two distances, with the crease between them rounded by a circle of the radius."""
    if radius <= 0:
        return np.minimum(a, b)
    r = np.float32(radius)
    u, v = np.maximum(r - a, 0), np.maximum(r - b, 0)
    return np.maximum(r, np.minimum(a, b)) - length_of(u, v)


JOINS: dict[str, Callable[[np.ndarray, np.ndarray, float], np.ndarray]] = {
    "union": smooth_least,
    "intersect": lambda a, b, r: -smooth_least(-a, -b, r),
    "subtract": lambda a, b, r: -smooth_least(-a, b, r),
}


@kind(
    id="combine_shapes",
    label="Combine shapes",
    family="shape",
    version=2,
    purpose="Joins two forms, cuts one out of the other, or keeps what both share; hard or smooth.",
    inputs=(
        Port("first", GREY, help="The distance of a form.", role=Role.DISTANCE),
        Port("second", GREY, help="The distance of another form.", role=Role.DISTANCE),
    ),
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Choice(
            "way",
            "union",
            tuple(JOINS),
            help="Subtract cuts the second out of the first.",
        ),
        Length("smoothness", 0.0, (0, 0.2), (0, 4), help="The radius that rounds the crease between them."),
        Length(
            "depth",
            0.1,
            (0.005, 0.5),
            (1e-4, 8),
            help="How far inside the edge the profile is at its full height.",
        ),
        SOFTNESS,
        PROFILE,
        PROFILE_CURVE,
    ),
    synonyms=("boolean", "union", "difference", "intersection", "carve", "metaball"),
    changes={2: THIN},
)
def combine_shapes(
    context: Context,
    first: np.ndarray,
    second: np.ndarray,
    *,
    way: str,
    smoothness: float,
    depth: float,
    softness: float,
    profile: str,
    profile_curve: Any,
) -> dict[str, np.ndarray]:
    distance = context.map_bands(lambda a, b: JOINS[way](a, b, smoothness), first, second)
    mask, height = context.empty(), context.empty()
    rise = Profile.of({"profile": profile, "profile_curve": profile_curve}, depth)

    def band(y0: int, y1: int) -> None:
        width = np.empty((y1 - y0, context.width), np.float32)
        steepness_rows(distance, width, y0, y1)
        np.maximum(width, np.float32(1e-6), out=width)
        mask_rows(distance[y0:y1], width, np.float32(softness), mask[y0:y1])
        profile_rows(distance[y0:y1], width, *rise[:3], height[y0:y1])
        near = np.flatnonzero(np.abs(distance[y0:y1]) < width)
        mean, across = np.empty(near.size, np.float32), width.reshape(-1)[near]
        whole = distance[y0:y1].reshape(-1)[near][:, None]
        mean_heights(whole, across, rise.depth, np.inf, *rise[1:], mean)
        height[y0:y1].reshape(-1)[near] = mean

    context.bands(band)
    return {"distance": distance, "mask": mask, "profile": height}
