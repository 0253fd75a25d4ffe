"""Fibre: a tapered, bent capsule."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kinds.shape.shape_parts import ONE_TILE, PLACED, SHAPE_INPUTS, SHAPE_OUTPUTS, THIN, draw_form
from reedloom.kit import Context, Float, FormHandles, Length, kind

PIECES = 64
"""Straight pieces along each side."""


@kind(
    id="fibre",
    label="Fibre",
    family="shape",
    version=2,
    purpose="A tapered and bent strand: hair, needle, blade of grass, rush.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("length", 0.6, (0.02, 1), (0, 8), help="From tip to tip."),
        Length("start_width", 0.08, (0, 0.3), (0, 4), help="Across the beginning, on the left."),
        Length("end_width", 0.02, (0, 0.3), (0, 4), help="Across the end, on the right."),
        Float("bend", 0.0, (-1, 1), (-8, 8), help="How far its middle is bent aside, against its length."),
        *PLACED,
    ),
    exempt=ONE_TILE,
    synonyms=("hair", "strand", "needle", "grass", "blade", "capsule"),
    changes={2: THIN},
    sample={"bend": 0.3},
    handles=FormHandles(("centre_u", "centre_v"), turn="turn"),
)
def fibre(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    length = max(values["length"], 1e-4)
    half, bend = length / 2, values["bend"] * length
    first, last = values["start_width"] / 2, values["end_width"] / 2

    t = np.linspace(-1, 1, PIECES)
    u, v = t * half, bend * (1 - t * t)
    slope = np.stack([np.full_like(t, half), -2 * bend * t], axis=1)
    normal = np.stack([-slope[:, 1], slope[:, 0]], axis=1) / np.linalg.norm(slope, axis=1, keepdims=True)
    radius = (first + (last - first) * (t + 1) / 2)[:, None]
    middle = np.stack([u, v], axis=1)
    ends = [round_end(middle[i], normal[i], radius[i, 0], way) for i, way in ((-1, 1.0), (0, -1.0))]
    outline = np.concatenate([middle - radius * normal, ends[0], (middle + radius * normal)[::-1], ends[1]])
    depth = max(first, last)
    reach = half + abs(bend) + depth
    return draw_form(context, inputs[0], outline, values, depth, reach)


def round_end(middle: np.ndarray, normal: np.ndarray, radius: float, way: float) -> np.ndarray:
    """Corners of a half circle around an end, from one side of the strand to the other."""
    along = np.array([normal[1], -normal[0]]) * way
    turn = np.linspace(-np.pi / 2, np.pi / 2, 16)[1:-1, None]
    side = normal * way
    return middle + radius * (np.cos(turn) * along + np.sin(turn) * side)
