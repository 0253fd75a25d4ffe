"""Gradient noise: Perlin's, summed over octaves."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.fractals import plan_octaves
from reedloom.kinds.noise.noise_parts import (
    CONTRAST,
    EVOLUTION,
    EVOLUTION_MAP,
    GAIN,
    PLACE,
    SEED,
    SIGNED,
    cells_across,
    cells_of,
    make_reader,
    noise_map,
    octave_parameters,
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
    ),
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
) -> np.ndarray:
    reader = make_reader(context, place, evolution_map, evolution)
    plan = plan_octaves(cells_of(context, cells, cells_down), octaves, lacunarity, gain)
    return noise_map(context, reader, "gradient", plan, seed, contrast=contrast, signed=signed)
