"""Line path: straight or waved lines across the tile, closed at the seam."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kinds.path.path_parts import FIXED, PATHS_OUT, SIZES, make_even_paths, sized
from reedloom.kit import Choice, Context, Count, Float, Length, Seed, kind

CORNERS = 256


@kind(
    id="line_path",
    label="Line path",
    family="path",
    version=1,
    purpose="Lines that run across the tile and close at its edge, straight or waved.",
    outputs=(PATHS_OUT,),
    parameters=(
        Choice("direction", "across", ("across", "down"), help="Which way the lines run."),
        Count("lines", 5, (1, 32), (1, 1024), help="Lines, evenly apart."),
        Length("wave", 0.0, (0, 0.1), (0, 1), help="How far the lines swing to either side."),
        Count("waves", 2, (1, 16), (1, 256), help="Swings along each line."),
        Float("phase", 0.0, (0, 1), (-64, 64), help="How far the swings are moved along, in swings."),
        *SIZES,
        Float("unevenness", 0.0, (0, 1), (0, 1), help="How far each line's swing is out of step."),
        Seed(),
    ),
    exempt=FIXED,
    sample={"wave": 0.03, "unevenness": 0.5},
    synonyms=("rows", "furrows", "strings", "wavy"),
)
def line_path(context: Context, **values: Any) -> np.ndarray:
    along = np.linspace(0, 1, CORNERS + 1)
    lag = values["phase"] + values["unevenness"] * unit_chances(values["seed"], np.arange(values["lines"]), 3)
    lines = np.arange(values["lines"])
    swing = values["wave"] * np.sin(2 * np.pi * (values["waves"] * along + lag[:, None]))
    aside = ((lines + 0.5) / values["lines"])[:, None]
    along = np.broadcast_to(along, swing.shape)
    if values["direction"] == "across":
        return sized(make_even_paths(along, aside + swing / context.aspect, lines), values)
    return sized(make_even_paths(aside + swing, along, lines), values)
