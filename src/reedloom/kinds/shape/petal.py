"""Petal: a leaf with a point and a vein."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.curves import evaluate_curve
from reedloom.kernels.outlines import deepest
from reedloom.kinds.shape.shape_parts import (
    ONE_TILE,
    PLACED,
    SHAPE_INPUTS,
    SHAPE_OUTPUTS,
    THIN,
    draw_form,
    nearest_copy,
    sample_size,
    seen_from_middle,
)
from reedloom.kit import Context, Float, FormHandles, Length, ToneCurve, kind

LEAF = ((0.0, 0.0, 0.0), (0.15, 0.55, 0.0), (0.45, 1.0, 0.0), (0.8, 0.5, 0.0), (1.0, 0.0, 0.0))
PIECES = 96
"""Straight pieces along each side."""


@kind(
    id="petal",
    label="Petal",
    family="shape",
    version=2,
    purpose="A leaf or petal: width along its length by a curve, a point, a vein.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("length", 0.6, (0.02, 1), (0, 8), help="From the foot to the point."),
        Length("width", 0.3, (0.01, 1), (0, 8), help="At its widest."),
        ToneCurve(
            "width_along",
            LEAF,
            former=("along",),
            help="How wide it is from foot to point.",
        ),
        Float("vein", 0.3, (0, 1), (0, 1), help="How deep the vein along its middle is, in the profile."),
        Length("vein_width", 0.02, (0.002, 0.1), (0, 1), help="How wide the vein is."),
        Float("bend", 0.0, (-1, 1), (-4, 4), help="How far its middle is bent aside, against its length."),
        *PLACED,
    ),
    exempt=ONE_TILE,
    synonyms=("leaf", "feather", "flower", "blade"),
    changes={2: THIN},
    handles=FormHandles(("centre_u", "centre_v"), turn="turn"),
)
def petal(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    length = max(values["length"], 1e-4)
    bend = values["bend"] * length
    t = np.linspace(0, 1, PIECES)
    half = np.maximum(evaluate_curve(values["width_along"], t), 0) * values["width"] / 2
    middle = bend * (1 - (2 * t - 1) ** 2)
    u = (t - 0.5) * length
    outline = np.concatenate([np.stack([u, middle + half], 1), np.stack([u, middle - half], 1)[::-1]])
    depth = deepest(outline)

    reach = length / 2 + abs(bend) + values["width"] / 2
    outputs = draw_form(context, inputs[0], outline, values, depth, reach)
    if values["vein"] > 0 and "profile" in outputs:
        share, width = np.float32(values["vein"]), np.float32(max(values["vein_width"], 1e-5))
        lean = np.float32(4 * bend / length**2)

        def from_middle(u: np.ndarray, v: np.ndarray) -> np.ndarray:
            away = np.abs(v - np.float32(bend) + lean * u * u)
            return np.where(np.abs(u) <= length, away, np.float32(1e3))

        nearest = nearest_copy(context, from_middle, values, reach)
        see, profile = seen_from_middle(context, inputs[0], values), outputs["profile"]
        sample = np.broadcast_to(sample_size(context, inputs[0]), profile.shape)

        def sink(y0: int, y1: int) -> None:
            if not profile[y0:y1].any():
                return
            # What a sample covers blurs the vein: wider, and as much shallower.
            wider = np.sqrt(width * width + sample[y0:y1] ** 2 / 6)
            profile[y0:y1] *= 1 - share * (width / wider) * np.exp(-((nearest(see(y0, y1)) / wider) ** 2))

        context.bands(sink, band_rows=16)
    return outputs
