"""Angle vectors: a field of vectors from an angle and a length."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kinds.vector.vector_parts import VECTORS_OUT
from reedloom.kit import Angle, Context, Length, adds_to, driving, kind, multiplies
from reedloom.kit.ways import numbers_of, towards


@kind(
    id="angle_vectors",
    label="Angle vectors",
    family="vector",
    version=1,
    purpose="Vectors from an angle and a length, each the same everywhere or from a map.",
    inputs=(
        driving("angle_map", adds_to("angle"), "Added to the angle, point by point: 1 is a whole turn."),
        driving("length_map", multiplies("length"), "Multiplies the length, point by point."),
    ),
    outputs=(VECTORS_OUT,),
    parameters=(
        Angle("angle", help="Which way they point, clockwise from the right."),
        Length("length", 0.1, (0, 0.5), (0, 64), help="How long they are."),
    ),
    sample={"length": 1.0},
    synonyms=("direction", "polar", "heading", "wind"),
)
def angle_vectors(
    context: Context,
    angle_map: np.ndarray | None,
    length_map: np.ndarray | None,
    *,
    angle: float,
    length: float,
) -> np.ndarray:
    start, long = np.float32(math.radians(angle)), np.float32(length)
    out = context.empty(2)

    def band(y0: int, y1: int) -> None:
        turn = start if angle_map is None else start + np.float32(2 * math.pi) * angle_map[y0:y1]
        far = long if length_map is None else long * length_map[y0:y1]
        towards(turn, far, numbers_of(out[y0:y1]))
        if context.aspect != 1:
            out[y0:y1] = context.in_tiles(out[y0:y1])

    context.bands(band)
    return out
