"""Fractal noise: octaves of a chosen basis summed in a chosen way."""

from __future__ import annotations

from functools import cache

import numpy as np

from reedloom.kernels.fractals import SUMS, Octave, SumState, add_octave, plan_octaves
from reedloom.kernels.hashing import hash_seed, unit_lattice
from reedloom.kernels.octaves import DEVIATIONS
from reedloom.kinds.noise.noise_parts import (
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    cells_across,
    cells_of,
    make_reader,
    octave_parameters,
)
from reedloom.kit import GREY, Choice, Context, Float, Port, kind

UNIT_SPREAD = 0.25
"""Each octave is scaled to this standard deviation before it enters the sum, about ±1 at its ends."""
TRIALS = 128


@cache
def measure_range(
    how: str, plan: tuple[Octave, ...], offset: float, ridge_gain: float
) -> tuple[float, float]:
    """The range nearly all values of a sum fall into, for any map size.

    The sum is tried on independent, roughly normal draws in place of noise, hashed and so always
    the same; the middle 99 % of the outcome is the range.
    """
    state = SumState(
        np.zeros((TRIALS, TRIALS), np.float32), np.ones((TRIALS, TRIALS), np.float32), offset, ridge_gain
    )
    for number, octave in enumerate(plan):
        draws = np.sum(
            [unit_lattice(number, TRIALS, TRIALS, stream) for stream in range(4)], axis=0
        ) - np.float32(2)
        add_octave(how, state, draws * np.float32(UNIT_SPREAD / 0.57735), octave)
    low, high = np.percentile(state.value, (0.5, 99.5))
    return float(low), float(max(high, low + 1e-6))


@kind(
    id="fractal_noise",
    label="Fractal noise",
    family="noise",
    version=1,
    purpose="Octaves of a noise added, multiplied or ridged: rock, clouds, mountain crests.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(Port("noise", GREY),),
    parameters=(
        Choice("basis", "gradient", ("gradient", "value", "cellular"), help="The noise that is summed."),
        Choice("sum", "fBm", tuple(SUMS), help="How the octaves are put together."),
        *cells_across(4),
        *octave_parameters(6),
        Choice(
            "falloff",
            "Hurst exponent",
            ("Hurst exponent", "gain"),
            help="Which of the two sets how octaves fade.",
        ),
        Float(
            "hurst",
            0.8,
            (0, 1.5),
            (-2, 8),
            label="Hurst exponent",
            help="Smoothness: low is rough, 1 is smooth.",
            shown_if={"falloff": "Hurst exponent"},
        ),
        Float(
            "gain",
            0.5,
            (0, 1),
            (0, 4),
            help="How strong each octave is against the one before.",
            shown_if={"falloff": "gain"},
        ),
        Float(
            "offset",
            1.0,
            (0, 2),
            (-8, 8),
            help="Lifts the noise before octaves multiply, or sets where ridges lie.",
            shown_if={
                "sum": ("multifractal", "hybrid multifractal", "heterogeneous terrain", "ridged multifractal")
            },
        ),
        Float(
            "ridge_gain",
            2.0,
            (0, 4),
            (0, 32),
            help="How sharply fine ridges gather on coarse ones.",
            shown_if={"sum": "ridged multifractal"},
        ),
        SEED,
        EVOLUTION,
    ),
    synonyms=("ridged", "turbulence", "billow", "multifractal", "terrain", "rock"),
    sample={"sum": "ridged multifractal"},
)
def fractal_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    basis: str,
    sum: str,
    cells: int,
    cells_v: int,
    octaves: float,
    lacunarity: float,
    falloff: str,
    hurst: float,
    gain: float,
    offset: float,
    ridge_gain: float,
    seed: int,
    evolution: float,
) -> np.ndarray:
    reader = make_reader(context, place, evolution_map, evolution)
    if falloff == "Hurst exponent":
        gain = min(4.0, max(lacunarity, 1e-3) ** -hurst)
    plan = plan_octaves(cells_of(context, cells, cells_v), octaves, lacunarity, gain)
    low, high = measure_range(sum, plan, offset, ridge_gain)
    spread = UNIT_SPREAD / DEVIATIONS[basis]
    # Octaves finer than any sample still enter the sum, as level noise, so that its range stays.
    readers = [
        reader.basis(basis, hash_seed(seed, n), o.columns, o.rows)
        if reader.per_width(o.columns, o.rows) <= reader.finest
        else None
        for n, o in enumerate(plan)
    ]
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        shape = (y1 - y0, context.width)
        state = SumState(np.zeros(shape, np.float32), np.ones(shape, np.float32), offset, ridge_gain)
        for octave, add in zip(plan, readers, strict=True):
            noise = np.zeros(shape, np.float32)
            if add is not None:
                add(spread, noise, y0, y1)
            add_octave(sum, state, noise, octave)
        out[y0:y1] = (state.value - np.float32(low)) * np.float32(1 / (high - low))

    context.bands(band)
    return out
