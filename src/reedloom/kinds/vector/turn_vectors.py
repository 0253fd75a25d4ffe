"""Turn vectors: turned and lengthened, the same everywhere or by maps."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kinds.vector.vector_parts import VECTORS_IN, VECTORS_OUT, turned
from reedloom.kit import Angle, Context, Float, adds_to, driving, kind, multiplies
from reedloom.kit.ways import towards


@kind(
    id="turn_vectors",
    label="Turn vectors",
    family="vector",
    version=1,
    purpose="Turns and lengthens vectors: a flow downhill becomes one along the slope, or twice as strong.",
    inputs=(
        VECTORS_IN,
        driving("turn_map", adds_to("turn"), "Added to the turn, point by point: 1 is a whole turn."),
        driving("strength_map", multiplies("strength"), "Multiplies the strength, point by point."),
    ),
    outputs=(VECTORS_OUT,),
    parameters=(
        Angle("turn", 90.0, help="Turns each vector clockwise."),
        Float("strength", 1.0, (0, 4), (-1000, 1000), help="Lengthens each vector; below 0 it turns back."),
    ),
    synonyms=("rotate", "scale", "multiply", "reverse", "perpendicular", "contour"),
)
def turn_vectors(
    context: Context,
    vectors: np.ndarray,
    turn_map: np.ndarray | None,
    strength_map: np.ndarray | None,
    *,
    turn: float,
    strength: float,
) -> np.ndarray:
    start, drive = np.float32(math.radians(turn)), np.float32(strength)
    driven = [map for map in (turn_map, strength_map) if map is not None]

    def work(rows: np.ndarray, *more: np.ndarray) -> np.ndarray:
        angle = start if turn_map is None else start + np.float32(2 * math.pi) * more[0]
        times = drive if strength_map is None else drive * more[-1]
        return turned(context, rows, towards(angle, times))

    return context.map_bands(work, vectors, *driven)
