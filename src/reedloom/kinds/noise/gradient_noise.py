"""Gradient noise: Perlin's, summed over octaves."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.fractals import plan_octaves, sum_deviation
from reedloom.kernels.hashing import hash_seed
from reedloom.kernels.lattice import GRADIENT_DEVIATION
from reedloom.kinds.context import Context
from reedloom.kinds.declare import GREY, Float, Port, Switch, kind
from reedloom.kinds.noise.noise_parts import (
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    cells_across,
    make_reader,
    octave_parameters,
)

SPREAD = 2.5
"""How many standard deviations reach from the middle to 0 or 1."""


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
        Float(
            "gain",
            0.5,
            (0, 1),
            (0, 4),
            help="How strong each octave is against the one before: more is rougher.",
        ),
        Float("contrast", 1.0, (0, 3), (0, 100), help="How far the noise departs from its middle."),
        SEED,
        EVOLUTION,
        Switch("signed", False, help="Runs about 0 from -1 to 1 instead of about the middle from 0 to 1."),
    ),
    synonyms=("perlin", "fbm", "clouds", "random"),
)
def gradient_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    cells: int,
    cells_v: int,
    octaves: float,
    lacunarity: float,
    gain: float,
    contrast: float,
    seed: int,
    evolution: float,
    signed: bool,
) -> np.ndarray:
    reader = make_reader(context, place, evolution_map, evolution)
    plan = plan_octaves((cells, cells_v or cells), octaves, lacunarity, gain)
    scale = contrast / (SPREAD * sum_deviation(plan, GRADIENT_DEVIATION))
    middle = 0.0 if signed else 0.5
    amounts = [o.amplitude * o.share * scale * (1.0 if signed else 0.5) for o in plan]
    layers = [
        (reader.basis("gradient", hash_seed(seed, number), o.columns, o.rows), amount)
        for number, (o, amount) in enumerate(zip(plan, amounts, strict=True))
        if max(o.columns, o.rows) <= reader.finest
    ]
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        rows = out[y0:y1]
        rows[...] = middle
        for add, amount in layers:
            add(amount, rows, y0, y1)

    context.bands(band)
    return out
