"""Twist paths: strands that run around every path: cord, rope, braids."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.path_loops import lay_strands, turn_along
from reedloom.kernels.points import VERTEX, starts_of
from reedloom.kinds.path.path_parts import (
    FIXED,
    PATHS_IN,
    PATHS_OUT,
    evenly_cornered,
    normals_of,
    runs_of,
)
from reedloom.kit import Choice, Context, Count, Float, Length, Seed, Switch, kind

A_TURN = 24
"""Corners that strands have in each turn."""
WAYS = ("twisted", "braided")


@kind(
    id="twist_paths",
    label="Twist paths",
    family="path",
    version=1,
    purpose="Lays strands around every path, over and under one another: cord, rope, braids.",
    inputs=(PATHS_IN,),
    outputs=(PATHS_OUT,),
    parameters=(
        Choice("way", "twisted", WAYS, help="Wound around the path, or crossing it from side to side."),
        Count("strands", 3, (2, 6), (1, 32), help="How many strands there are."),
        Length("turn_length", 0.06, (0.01, 0.3), (0.001, 8), help="How long a whole turn is."),
        Length("radius", 0.012, (0.002, 0.05), (0, 1), help="How far strands run from the path, at width 1."),
        Float("strand_width", 0.7, (0.2, 1.5), (0, 8), help="How wide strands are against the path."),
        Float("relief", 0.6, (0, 1), (0, 4), help="How much lower a strand is where it runs below."),
        Switch("left_handed", False, help="Winds the other way."),
        Seed(help="Another number begins the turn elsewhere on each path."),
    ),
    exempt=FIXED,
    synonyms=("rope", "cord", "braid", "plait", "yarn", "spiral", "cable"),
    sample={"radius": 0.03, "turn_length": 0.2},
)
def twist_paths(
    context: Context,
    paths: np.ndarray,
    *,
    way: str,
    strands: int,
    turn_length: float,
    radius: float,
    strand_width: float,
    relief: float,
    left_handed: bool,
    seed: int,
) -> np.ndarray:
    step = turn_length / A_TURN
    _, lengths = runs_of(context, paths, starts_of(paths))
    context.room_for(int(strands * (lengths / step + 2).sum()), "corners")
    even = evenly_cornered(context, paths, step)
    starts = starts_of(even)
    run, lengths = runs_of(context, even, starts)
    hand = -1.0 if left_handed else 1.0
    # Whole turns on each path, so that closed ones close.
    turns = np.maximum(1.0, np.round(lengths / turn_length)) * hand
    begin = unit_chances(seed, even["id"][starts[:-1]], 5) * hand
    turned = np.empty((2, len(even)))
    turn_along(run, starts, turns, begin, turned)
    begins = 2 * math.pi * hand / strands * np.arange(strands)
    made = np.empty((strands, len(even)), VERTEX)
    shape = (way == "braided", radius, context.aspect, strand_width, relief)
    lay_strands(
        even, normals_of(context, even), turned, np.stack([np.cos(begins), np.sin(begins)]), shape, made
    )
    return made.reshape(-1)
