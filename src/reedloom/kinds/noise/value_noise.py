"""Value noise: random values on a lattice, mixed between."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.lattice import FADES
from reedloom.kinds.noise.noise_parts import (
    CONTRAST,
    EVOLUTION,
    EVOLUTION_MAP,
    GAIN,
    PLACE,
    SEED,
    SIGNED,
    TURN,
    cells_across,
    make_reader,
    noise_map,
    octave_parameters,
    octaves_of,
    turned_lattice,
    turning_stops,
)
from reedloom.kit import GREY, Change, Choice, Context, Port, kind


@kind(
    id="value_noise",
    label="Value noise",
    family="noise",
    version=2,
    purpose="Random values mixed from cell to cell: softer and blockier than gradient noise.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(Port("noise", GREY),),
    parameters=(
        *cells_across(8),
        Choice("mixing", "smooth", tuple(FADES), help="How one value passes into the next."),
        *octave_parameters(2),
        GAIN,
        CONTRAST,
        SEED,
        EVOLUTION,
        SIGNED,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("random", "blotches", "soft noise"),
    changes={2: Change("Its brightness stays the same while it evolves.")},
)
def value_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    cells: int,
    cells_down: int,
    mixing: str,
    octaves: float,
    lacunarity: float,
    gain: float,
    contrast: float,
    seed: int,
    evolution: float,
    signed: bool,
    turn: float,
) -> np.ndarray:
    cosets = turned_lattice(context, turn, cells, cells_down)
    reader = make_reader(context, place, evolution_map, evolution, cosets)
    plan = octaves_of(context, cosets, cells, cells_down, octaves, lacunarity, gain)
    fade = FADES[mixing]
    return noise_map(context, reader, "value", plan, seed, contrast=contrast, signed=signed, fade=fade)
