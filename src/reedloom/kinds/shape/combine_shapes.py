"""Combine shapes: two forms joined, cut or intersected by their distances."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from reedloom.kinds.filter.filter_parts import slope_in_samples
from reedloom.kinds.shape.shape_parts import (
    PROFILE,
    PROFILE_CURVE,
    SHAPE_OUTPUTS,
    SOFTNESS,
    edge_mask,
    profile_height,
)
from reedloom.kit import GREY, Choice, Context, Length, Port, Role, kind


def smooth_least(a: np.ndarray, b: np.ndarray, radius: float) -> np.ndarray:
    """The lower of two distances, with the crease between them rounded by a circle of the radius."""
    if radius <= 0:
        return np.minimum(a, b)
    r = np.float32(radius)
    u, v = np.maximum(r - a, 0), np.maximum(r - b, 0)
    return np.maximum(r, np.minimum(a, b)) - np.hypot(u, v)


JOINS: dict[str, Callable[[np.ndarray, np.ndarray, float], np.ndarray]] = {
    "union": smooth_least,
    "intersect": lambda a, b, r: -smooth_least(-a, -b, r),
    "subtract": lambda a, b, r: -smooth_least(-a, b, r),
}


@kind(
    id="combine_shapes",
    label="Combine shapes",
    family="shape",
    version=1,
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
    slope = slope_in_samples(context, distance)
    mask, height = context.empty(), context.empty()

    def band(y0: int, y1: int) -> None:
        d = distance[y0:y1]
        width = np.maximum(np.hypot(slope[y0:y1, :, 0], slope[y0:y1, :, 1]), np.float32(1e-6))
        mask[y0:y1] = edge_mask(d, width, softness)
        inward = (width / 2 - d) / np.float32(depth)
        height[y0:y1] = profile_height(inward, profile, profile_curve) * edge_mask(d, width, 0.0)

    context.bands(band)
    return {"distance": distance, "mask": mask, "profile": height}
