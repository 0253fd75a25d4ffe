"""Edges: how steeply a map changes at a chosen size."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import STRENGTH_MAP, slope_in_widths, soften
from reedloom.kit import GREY, Change, Context, Float, Length, Port, kind
from reedloom.kit.ways import numbers_of


@kind(
    id="edges",
    label="Edges",
    family="filter",
    version=2,
    purpose="Finds where a map changes steeply, at a chosen size.",
    inputs=(Port("map", GREY), STRENGTH_MAP),
    outputs=(Port("edges", GREY),),
    parameters=(
        Length(
            "width",
            0.006,
            (0.002, 0.05),
            (0.0005, 0.5),
            help="How wide the found edges are; finer detail is passed over.",
        ),
        Float(
            "strength",
            4.0,
            (0, 8),
            (0, 1024),
            help="Multiplies the result; 1 makes a step from 0 to 1 white.",
        ),
    ),
    synonyms=("outline", "gradient", "contour", "sobel", "line"),
    changes={
        2: Change("A new one is stronger, so that softer edges show.", lambda v: {"strength": 1.0, **v})
    },
)
def edges(
    context: Context, map: np.ndarray, strength_map: np.ndarray | None, *, width: float, strength: float
) -> np.ndarray:
    # At least a sample wide, so that no resolution sees a sharper step than it can hold.
    radius = max(width / 2, 0.5 * context.sample)
    soft = soften(context, map, radius)
    slope = slope_in_widths(context, soft)
    # The steepest slope of a unit step under a Gaussian of this deviation.
    scale = np.float32(strength * radius * np.sqrt(2 * np.pi))

    def steep(s: np.ndarray, *drive: np.ndarray) -> np.ndarray:
        found: np.ndarray = np.abs(numbers_of(s)) * scale
        return found * drive[0] if drive else found

    drives = [] if strength_map is None else [strength_map]
    return context.map_bands(steep, slope, *drives, channels=1)
