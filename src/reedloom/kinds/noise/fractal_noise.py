"""Fractal noise: octaves of a chosen basis summed in a chosen way."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import Any

import numpy as np

from reedloom.kernels.fractals import FOLDED, SUMS, Octave, SumState, add_octave, fill_lost
from reedloom.kernels.hashing import hash_seed, unit_lattice
from reedloom.kernels.octaves import DEVIATIONS, Layer, Reader
from reedloom.kinds.noise.noise_parts import (
    CONTRAST,
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    SIGNED,
    TURN,
    cells_across,
    make_reader,
    octave_parameters,
    octaves_of,
    turned_lattice,
    turning_stops,
)
from reedloom.kit import GREY, Change, Choice, Context, Float, Port, kind

UNIT_SPREAD = 0.25
"""Each octave is scaled to this standard deviation before it enters the sum, about ±1 at its ends."""
TRIALS = 128
BOLD = {
    "multifractal": 2.0,
    "hybrid multifractal": 2.2,
    "heterogeneous terrain": 2.2,
    "ridged multifractal": 1.7,
}
"""By how much the noise is raised at a character of 1: enough for crests, and for parts rough and smooth."""


@cache
def measure_range(
    how: str, plan: tuple[Octave, ...], offset: float, ridge_gain: float, character: float
) -> tuple[float, float]:
    """The range nearly all values of a sum fall into, for any map size.

    The sum is tried on independent, roughly normal draws in place of noise, hashed and so always
    the same; the middle 99 % of the outcome is the range.
    """
    state = begin_sum((TRIALS, TRIALS), offset, ridge_gain, character)
    spread = UNIT_SPREAD * boldness(how, character) / 0.57735
    for number, octave in enumerate(plan):
        draws = np.sum(
            [unit_lattice(number, TRIALS, TRIALS, stream) for stream in range(4)], axis=0
        ) - np.float32(2)
        add_octave(how, state, draws * np.float32(spread), octave)
    low, high = np.percentile(state.value, (0.5, 99.5))
    return float(low), float(max(high, low + 1e-6))


def begin_sum(shape: tuple[int, int], offset: float, ridge_gain: float, character: float) -> SumState:
    """A sum before its first octave."""
    return SumState(
        np.zeros(shape, np.float32), np.ones(shape, np.float32), offset, ridge_gain, min(character, 1.0)
    )


KEPT_AT = np.array([0.0, 0.125, 0.25, 0.375, 0.5, 0.75, 1.0, 1.5, 2.0, 3.0], np.float32)
KEPT = {
    "gradient": np.array([1.0, 0.99, 0.96, 0.91, 0.85, 0.7, 0.54, 0.33, 0.2, 0.0], np.float32),
    "value": np.array([1.0, 0.99, 0.97, 0.95, 0.925, 0.85, 0.75, 0.59, 0.44, 0.0], np.float32),
    "cellular": np.array([1.0, 0.99, 0.95, 0.9, 0.805, 0.645, 0.35, 0.32, 0.17, 0.0], np.float32),
}
"""What of each basis' deviation a map keeps where a sample is so many cells wide, as measured."""
SPREADS = {"gradient": 0.86, "value": 1.27, "cellular": 0.78}
MEANS = {"gradient": 0.0, "value": 0.0, "cellular": -0.2}
"""The deviation and mean of each basis in UNIT_SPREAD, as measured."""


def lost_below(reader: Reader, basis: str, octave: Octave, scale: float, y0: int, y1: int) -> np.ndarray:
    """The deviation of what is finer than samples in an octave, times a scale: (n, W) or (1, 1) float32."""
    footprint = reader.footprint if reader.footprint.size == 1 else reader.footprint[y0:y1]
    cells, out = reader.per_width(octave.columns, octave.rows), np.empty(footprint.shape, np.float32)
    fill_lost(footprint, np.float32(cells), KEPT_AT, KEPT[basis], np.float32(scale * SPREADS[basis]), out)
    return out


def boldness(how: str, character: float) -> float:
    """By how much an octave's noise is raised before it enters a sum."""
    return 1 + character * (BOLD.get(how, 1.0) - 1)


def as_it_was(values: Mapping[str, Any]) -> dict[str, Any]:
    """Values of the version before, with the sums that have character without it."""
    return dict(values) | ({"character": 0.0} if values.get("sum") in BOLD else {})


@kind(
    id="fractal_noise",
    label="Fractal noise",
    family="noise",
    version=2,
    purpose="Octaves of a noise added, multiplied or ridged: rock, clouds, mountain crests.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(Port("noise", GREY),),
    parameters=(
        Choice("basis", "gradient", ("gradient", "value", "cellular"), help="The noise that is summed."),
        Choice("sum", "fBm", tuple(SUMS), help="How the octaves are put together."),
        Float(
            "character",
            1.0,
            (0, 1.5),
            (0, 8),
            help="How boldly the sum shows what it is: crests, and parts rough and smooth.",
            shown_if={"sum": tuple(BOLD)},
        ),
        *cells_across(4),
        *octave_parameters(6),
        Choice(
            "falloff",
            "Hurst exponent",
            ("Hurst exponent", "gain"),
            help="Which of the two sets how octaves fade.",
        ),
        Float(
            "hurst_exponent",
            0.8,
            (0, 1.5),
            (-2, 8),
            former=("hurst",),
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
            shown_if={"sum": tuple(BOLD)},
        ),
        Float(
            "ridge_gain",
            2.0,
            (0, 4),
            (0, 32),
            help="How sharply fine ridges gather on coarse ones.",
            shown_if={"sum": "ridged multifractal"},
        ),
        CONTRAST,
        SEED,
        EVOLUTION,
        SIGNED,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("ridged", "turbulence", "billow", "multifractal", "terrain", "rock"),
    sample={"sum": "ridged multifractal"},
    changes={
        2: Change("Ridged and multiplied sums have a character; at 0 they are as they were.", as_it_was)
    },
)
def fractal_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    basis: str,
    sum: str,
    character: float,
    cells: int,
    cells_down: int,
    octaves: float,
    lacunarity: float,
    falloff: str,
    hurst_exponent: float,
    gain: float,
    offset: float,
    ridge_gain: float,
    contrast: float,
    seed: int,
    evolution: float,
    signed: bool,
    turn: float,
) -> np.ndarray:
    cosets = turned_lattice(context, turn, cells, cells_down)
    reader = make_reader(context, place, evolution_map, evolution, cosets)
    if falloff == "Hurst exponent":
        gain = min(4.0, max(lacunarity, 1e-3) ** -hurst_exponent)
    plan = octaves_of(context, cosets, cells, cells_down, octaves, lacunarity, gain)
    low, high = measure_range(sum, plan, offset, ridge_gain, character)
    spread = UNIT_SPREAD * boldness(sum, character) / DEVIATIONS[basis]
    scale = contrast * (2 if signed else 1) / (high - low)
    start = (0.0 if signed else 0.5) - scale * (low + high) / 2
    # Octaves finer than any sample still enter the sum, as level noise, so that its range stays.
    read_rows = reader.apart(
        basis, [Layer(hash_seed(seed, n), o.columns, o.rows, spread) for n, o in enumerate(plan)]
    )
    if sum in FOLDED:
        reader.measured()  # before bands ask for it side by side
    out = context.empty()
    deviation = UNIT_SPREAD * boldness(sum, character)

    def lost_in(octave: Octave, y0: int, y1: int) -> np.ndarray | None:
        return lost_below(reader, basis, octave, deviation, y0, y1) if sum in FOLDED else None

    def band(y0: int, y1: int) -> None:
        shape = (y1 - y0, context.width)
        state = begin_sum(shape, offset, ridge_gain, character)
        for octave, read in zip(plan, read_rows(y0, y1), strict=True):
            noise = np.full(shape, deviation * MEANS[basis], np.float32) if read is None else read
            add_octave(sum, state, noise, octave, lost_in(octave, y0, y1))
        out[y0:y1] = state.value * np.float32(scale) + np.float32(start)

    context.bands(band)
    return out
