"""Polygon: a regular polygon or star."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from reedloom.kinds.shape.shape_parts import ONE_TILE, PLACED, SHAPE_INPUTS, SHAPE_OUTPUTS, THIN, draw_form
from reedloom.kit import Context, Count, Float, FormHandles, Length, kind


@kind(
    id="polygon",
    label="Polygon",
    family="shape",
    version=2,
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
    changes={2: THIN},
    handles=FormHandles(("centre_u", "centre_v"), size="radius", turn="turn"),
)
def polygon(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    sides, rounding = values["sides"], min(values["rounding"], 0.9 * values["radius"])
    radius = values["radius"] - rounding
    # What a half turn is divided by for a corner's flank: 2 for a plain polygon, more for a star.
    m = 2 + 0.98 * (sides - 2) * values["star"]
    part, flank = math.pi / sides, math.pi / m
    turn = 2 * part * np.arange(sides)
    corners = radius * np.stack([np.sin(turn + part), -np.cos(turn + part)], axis=1)
    # Between two corners the flanks meet this far from the middle.
    waist = radius * (math.cos(part) - math.sin(part) / math.tan(flank))
    waists = waist * np.stack([np.sin(turn), -np.cos(turn)], axis=1)
    outline = np.stack([waists, corners], axis=1).reshape(-1, 2) if values["star"] else corners
    depth = radius * math.cos(part) * (1 - 0.8 * values["star"]) + rounding
    return draw_form(context, inputs[0], outline, values, depth, values["radius"], rounding=rounding)
