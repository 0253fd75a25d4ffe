"""Haze: a soft fBm read at places that the same noise has bent."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import hash_seed
from reedloom.kinds.noise.noise_parts import (
    CONTRAST,
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    TURN,
    cells_across,
    cells_of,
    make_reader,
    moved_places,
    noise_map,
    octaves_of,
    sum_rows,
    turned_lattice,
    turning_stops,
)
from reedloom.kit import GREY, Context, Float, Port, kind

BEND = 0.55
"""How far a full depth bends the place, in cells."""


@kind(
    id="haze_noise",
    label="Haze",
    family="noise",
    version=1,
    purpose="Soft mottling from large to small, bent by itself: breath on glass, faded dye, mist.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(Port("noise", GREY),),
    parameters=(
        *cells_across(3),
        Float(
            "octaves",
            6.0,
            (1, 10),
            (1, 16),
            help="How many finer copies are added; a fraction fades the last in.",
        ),
        Float(
            "softness",
            0.6,
            (0, 1),
            (0, 1),
            help="How much weaker each finer octave is: 0 is crisp, 1 only clouds.",
        ),
        Float(
            "depth",
            1.0,
            (0, 2),
            (0, 8),
            help="How strongly the noise is bent by itself, once up to 1 and twice up to 2.",
        ),
        CONTRAST,
        SEED,
        EVOLUTION,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("fog", "domain warp", "mottle", "smoke", "cloudy"),
)
def haze_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    cells: int,
    cells_down: int,
    octaves: float,
    softness: float,
    depth: float,
    contrast: float,
    seed: int,
    evolution: float,
    turn: float,
) -> np.ndarray:
    counts = cells_of(context, cells, cells_down)
    cosets = turned_lattice(context, turn, cells, cells_down)
    plan = octaves_of(context, cosets, cells, cells_down, octaves, 2.0, 0.75 - 0.5 * softness)
    bending = octaves_of(context, cosets, cells, cells_down, min(octaves, 3.0), 2.0, 0.5)
    where = place
    for time, amount in enumerate(
        (min(depth, 1.0) if depth <= 1 else depth - 1, min(depth, 1.0) * (depth > 1))
    ):
        if amount <= 0:
            continue
        reader = make_reader(context, where, evolution_map, evolution, cosets)
        moves = [
            sum_rows(reader, "gradient", bending, hash_seed(seed, 31 + 2 * time + axis), 1.0)
            for axis in (0, 1)
        ]
        where = moved_places(context, place, moves, BEND * amount / np.array(counts, np.float32))
    reader = make_reader(context, where, evolution_map, evolution, cosets)
    return noise_map(context, reader, "gradient", plan, seed, contrast=contrast, signed=False)
