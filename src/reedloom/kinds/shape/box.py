"""Box: a rectangle with rounded corners."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kinds.shape.shape_parts import ONE_TILE, PLACED, SHAPE_INPUTS, SHAPE_OUTPUTS, THIN, draw_form
from reedloom.kit import Context, FormHandles, Length, kind
from reedloom.kit.ways import length_of


@kind(
    id="box",
    label="Box",
    family="shape",
    version=2,
    purpose="A rectangle, with corners as round as wanted.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("width", 0.5, (0.01, 1), (0, 8), help="From the left side to the right."),
        Length("height", 0.35, (0.01, 1), (0, 8), help="From the top to the bottom."),
        Length("corner", 0.03, (0, 0.25), (0, 4), help="The radius of the corners."),
        *PLACED,
    ),
    exempt=ONE_TILE,
    synonyms=("rectangle", "square", "rounded", "plate"),
    changes={2: THIN},
    handles=FormHandles(("centre_u", "centre_v"), turn="turn"),
)
def box(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    half_u, half_v = values["width"] / 2, values["height"] / 2
    corner = min(values["corner"], half_u, half_v)

    def measure(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        qu, qv = np.abs(u) - np.float32(half_u - corner), np.abs(v) - np.float32(half_v - corner)
        outside = length_of(np.maximum(qu, 0), np.maximum(qv, 0))
        return outside + np.minimum(np.maximum(qu, qv), 0) - np.float32(corner)

    depth, reach = min(half_u, half_v), float(np.hypot(half_u, half_v))
    return draw_form(context, inputs[0], measure, values, depth, reach, True)
