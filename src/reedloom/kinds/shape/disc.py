"""Disc: a round form with mask, profile and signed distance."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kinds.shape.shape_parts import ONE_TILE, PLACED, SHAPE_INPUTS, SHAPE_OUTPUTS, THIN, draw_form
from reedloom.kit import Context, FormHandles, Length, kind
from reedloom.kit.ways import length_of


@kind(
    id="disc",
    label="Disc",
    family="shape",
    version=2,
    purpose="A round form, drawn sharp at any size and wrapped over the tile's edge.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("radius", 0.3, (0, 0.5), (0, 8), help="From the middle to the edge."),
        *(p for p in PLACED if p.name != "turn"),
    ),
    exempt=ONE_TILE,
    synonyms=("circle", "dot", "ball", "round"),
    changes={2: THIN},
    handles=FormHandles(("centre_u", "centre_v"), size="radius"),
)
def disc(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    radius = values["radius"]

    def measure(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        return length_of(u, v) - np.float32(radius)

    return draw_form(context, inputs[0], measure, {"turn": 0.0, **values}, radius, radius, True)
