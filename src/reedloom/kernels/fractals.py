"""Sums of noise octaves, after the published definitions.

D. S. Ebert and others, *Texturing and Modeling: A Procedural Approach*, 3rd edition
2003, chapter 16 (multifractal, hybrid multifractal, heterogeneous terrain, ridged multifractal);
K. Perlin 1985 (turbulence). Each sum is a small step that takes one octave and the running state.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np


@dataclass(slots=True)
class SumState:
    """A block of rows on its way through the octaves."""

    value: np.ndarray
    weight: np.ndarray
    offset: float
    ridge_gain: float
    first: bool = True
    scratch: dict[str, np.ndarray] = field(default_factory=dict)


Step = Callable[[SumState, np.ndarray, float, float], None]


def _fbm(state: SumState, noise: np.ndarray, amplitude: float, share: float) -> None:
    state.value += noise * np.float32(amplitude * share)


def _turbulence(state: SumState, noise: np.ndarray, amplitude: float, share: float) -> None:
    state.value += np.abs(noise) * np.float32(amplitude * share)


def _multifractal(state: SumState, noise: np.ndarray, amplitude: float, share: float) -> None:
    # A last, partial octave is mixed towards the factor 1, which changes nothing.
    factor = 1 + np.float32(share) * (noise * np.float32(amplitude) + np.float32(state.offset - 1))
    if state.first:
        state.value[...] = 1
    state.value *= factor


def _hybrid_multifractal(state: SumState, noise: np.ndarray, amplitude: float, share: float) -> None:
    signal = (noise + np.float32(state.offset)) * np.float32(amplitude)
    if state.first:
        state.value[...] = signal
        state.weight[...] = signal
        return
    np.minimum(state.weight, 1, out=state.weight)
    state.value += np.float32(share) * state.weight * signal
    state.weight *= signal


def _heterogeneous_terrain(state: SumState, noise: np.ndarray, amplitude: float, share: float) -> None:
    if state.first:
        state.value[...] = noise + np.float32(state.offset)
        return
    state.value += (
        np.float32(share) * (noise + np.float32(state.offset)) * np.float32(amplitude) * state.value
    )


def _ridged_multifractal(state: SumState, noise: np.ndarray, amplitude: float, share: float) -> None:
    signal = np.float32(state.offset) - np.abs(noise)
    signal *= signal
    if not state.first:
        signal *= state.weight
    state.value += signal * np.float32(amplitude * share)
    state.weight[...] = np.clip(signal * np.float32(state.ridge_gain), 0, 1)


SUMS: dict[str, Step] = {
    "fBm": _fbm,
    "turbulence": _turbulence,
    "multifractal": _multifractal,
    "hybrid multifractal": _hybrid_multifractal,
    "heterogeneous terrain": _heterogeneous_terrain,
    "ridged multifractal": _ridged_multifractal,
}


LARGEST = np.float32(1e18)
"""Products of octaves are held below this, so that extreme settings stay finite."""


def add_octave(how: str, state: SumState, noise: np.ndarray, octave: Octave) -> None:
    """Take one octave's noise (standard deviation about 0.25) into the sum `how`, one of SUMS.

    Parameters
    ----------
    how : str
        One of SUMS.
    state : SumState
        The sum so far; changed.
    noise : (n, W) float32
        With a mean of 0.
    octave : Octave
    """
    SUMS[how](state, noise, octave.amplitude, octave.share)
    np.clip(state.value, -LARGEST, LARGEST, out=state.value)
    np.clip(state.weight, -LARGEST, LARGEST, out=state.weight)
    state.first = False


@dataclass(frozen=True, slots=True)
class Octave:
    """One octave's lattice counts, amplitude and share (1, or less for the last, partial one)."""

    columns: int
    rows: int
    amplitude: float
    share: float


def plan_octaves(
    counts: tuple[int, int], octaves: float, lacunarity: float, gain: float
) -> tuple[Octave, ...]:
    """The octaves of a sum, each rounded to a whole period so that it closes at the seam.

    Parameters
    ----------
    counts : (int, int)
        Lattice cells of the first octave in u and v.
    octaves : float
        How many; the fraction is the share of the last.
    lacunarity : float
        Each octave's frequency over the one before, from 0 up.
    gain : float
        Each octave's amplitude over the one before.
    """
    planned = []
    for number in range(math.ceil(octaves - 1e-6)):
        scale = lacunarity**number
        columns = max(1, round(min(counts[0] * scale, 1e7)))
        rows = max(1, round(min(counts[1] * scale, 1e7)))
        planned.append(Octave(columns, rows, gain**number, min(1.0, octaves - number)))
    return tuple(planned)


def sum_deviation(octaves: Sequence[Octave], deviation: float) -> float:
    """Standard deviation of the plain (fBm) sum of independent octaves."""
    return deviation * math.sqrt(sum((o.amplitude * o.share) ** 2 for o in octaves))
