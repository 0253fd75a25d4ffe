"""Smooth paths: corners laid evenly along each path, and relaxed."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.path.path_parts import (
    FIXED,
    PATHS_IN,
    PATHS_OUT,
    evenly_cornered,
    relaxed,
)
from reedloom.kit import Context, Count, Float, Length, kind


@kind(
    id="smooth_paths",
    label="Smooth paths",
    family="path",
    version=1,
    purpose="Lays corners evenly along each path and evens out its bends.",
    inputs=(PATHS_IN,),
    outputs=(PATHS_OUT,),
    parameters=(
        Length("spacing", 0.01, (0.002, 0.1), (0.0002, 1), help="How far apart corners are laid."),
        Float("smoothness", 0.5, (0, 1), (0, 1), help="How far each corner goes between its neighbours."),
        Count("rounds", 8, (0, 50), (0, 1000), help="How often they do so: more evens out longer bends."),
    ),
    exempt=FIXED,
    synonyms=("relax", "resample", "simplify", "even", "round"),
    sample={"spacing": 0.03, "rounds": 20},
)
def smooth_paths(
    context: Context, paths: np.ndarray, *, spacing: float, smoothness: float, rounds: int
) -> np.ndarray:
    return relaxed(context, evenly_cornered(context, paths, spacing), smoothness, rounds)
