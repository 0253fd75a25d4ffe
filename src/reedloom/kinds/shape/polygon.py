"""Polygon: a regular polygon or star."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from reedloom.kinds.shape.shape_parts import ONE_TILE, PLACED, SHAPE_INPUTS, SHAPE_OUTPUTS, draw_form
from reedloom.kit import Context, Count, Float, FormHandles, Length, kind


@kind(
    id="polygon",
    label="Polygon",
    family="shape",
    version=1,
    purpose="A regular polygon, or a star, with corners as round as wanted.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("radius", 0.3, (0.01, 0.5), (0, 8), help="From the middle to a corner."),
        Count("sides", 6, (3, 12), (3, 64), help="How many corners there are."),
        Float(
            "star", 0.0, (0, 1), (0, 1), help="How deeply the sides are drawn in, up to a star of thin rays."
        ),
        Length("rounding", 0.0, (0, 0.1), (0, 4), help="The radius of the corners."),
        *PLACED,
    ),
    exempt=ONE_TILE,
    synonyms=("hexagon", "triangle", "star", "ngon"),
    handles=FormHandles(("centre_u", "centre_v"), size="radius", turn="turn"),
)
def polygon(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    sides, rounding = values["sides"], min(values["rounding"], 0.9 * values["radius"])
    radius = values["radius"] - rounding
    # What a half turn is divided by for a corner's flank: 2 for a plain polygon, more for a star.
    m = 2 + 0.98 * (sides - 2) * values["star"]
    part, flank = math.pi / sides, math.pi / m
    corner = np.array([math.cos(part), math.sin(part)]) * radius
    way = np.array([math.cos(flank), math.sin(flank)])

    def measure(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """Distance to one flank, all others folded onto it (after I. Quilez, 2019)."""
        angle = np.arctan2(u, -v)
        folded = np.abs((angle + part) % (2 * part) - part)
        length = np.hypot(u, v)
        x, y = length * np.cos(folded) - corner[0], length * np.sin(folded) - corner[1]
        along = np.clip(-(x * way[0] + y * way[1]), 0, corner[1] / max(way[1], 1e-9))
        x, y = x + way[0] * along, y + way[1] * along
        return (np.hypot(x, y) * np.sign(x) - rounding).astype(np.float32)

    depth = radius * math.cos(part) * (1 - 0.8 * values["star"]) + rounding
    return draw_form(context, inputs[0], measure, values, depth, values["radius"])
