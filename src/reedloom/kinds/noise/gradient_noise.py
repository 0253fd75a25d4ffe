"""Gradient noise: Perlin's, summed over octaves."""

from __future__ import annotations

import numpy as np

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
from reedloom.kit import GREY, Context, Port, kind


@kind(
    id="gradient_noise",
    label="Gradient noise",
    family="noise",
    version=1,
    purpose="Soft rolling noise, the base of most natural surfaces.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(Port("noise", GREY),),
    parameters=(
        *cells_across(6),
        *octave_parameters(4),
        GAIN,
        CONTRAST,
        SEED,
        EVOLUTION,
        SIGNED,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("perlin", "fbm", "clouds", "random"),
)
def gradient_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    cells: int,
    cells_down: int,
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
    return noise_map(context, reader, "gradient", plan, seed, contrast=contrast, signed=signed)
