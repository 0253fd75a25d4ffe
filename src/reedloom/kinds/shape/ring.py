"""Ring: a ring, or an arc of one."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from reedloom.kernels.forms import arc_rows
from reedloom.kinds.shape.shape_parts import ONE_TILE, PLACED, SHAPE_INPUTS, SHAPE_OUTPUTS, THIN, draw_form
from reedloom.kit import Angle, Context, FormHandles, Length, kind


@kind(
    id="ring",
    label="Ring",
    family="shape",
    version=2,
    purpose="A ring, whole or an arc from one angle to another, with round ends.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("radius", 0.3, (0.01, 0.5), (0, 8), help="From the middle to the middle of the band."),
        Length("thickness", 0.06, (0.002, 0.3), (0, 4), help="Across the band."),
        Angle("start", -180.0, help="Where the arc begins, clockwise from the right."),
        Angle("end", 180.0, help="Where the arc ends."),
        *PLACED,
    ),
    exempt=ONE_TILE,
    synonyms=("circle outline", "arc", "torus", "hoop"),
    changes={2: THIN},
    sample={"start": -150.0, "end": 110.0},
    handles=FormHandles(("centre_u", "centre_v"), size="radius", turn="turn"),
)
def ring(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    radius, half = values["radius"], values["thickness"] / 2
    span = min(abs(values["end"] - values["start"]), 360.0)
    middle = math.radians(min(values["start"], values["end"]) + span / 2)
    aperture = math.radians(span / 2)

    def measure(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        out = np.empty_like(u)
        arc_rows(u, v, np.float32(radius), np.float32(half), aperture, middle, out)
        return out

    return draw_form(context, inputs[0], measure, values, half, radius + half)
