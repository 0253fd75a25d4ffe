"""Sums of noise octaves, after the published definitions.

D. S. Ebert and others, *Texturing and Modeling: A Procedural Approach*, 3rd edition
2003, chapter 16 (multifractal, hybrid multifractal, heterogeneous terrain, ridged multifractal);
K. Perlin 1985 (turbulence). Each sum is a small step that takes one octave and the running state.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from reedloom.kernels.jit import inlined, kernel


@dataclass(slots=True)
class SumState:
    """A block of rows on its way through the octaves."""

    value: np.ndarray
    weight: np.ndarray
    offset: float
    ridge_gain: float
    first: bool = True


LARGEST = np.float32(1e18)
"""Products of octaves are held below this, so that extreme settings stay finite."""


@inlined
def _held(value):  # type: ignore[no-untyped-def]
    return min(max(value, -LARGEST), LARGEST)


@kernel
def _fbm(value, weight, noise, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, _, _ = numbers
    by = amplitude * share
    for k in range(noise.shape[0]):
        value[k] = _held(value[k] + noise[k] * by)


@kernel
def _turbulence(value, weight, noise, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, _, _ = numbers
    by = amplitude * share
    for k in range(noise.shape[0]):
        value[k] = _held(value[k] + abs(noise[k]) * by)


@kernel
def _multifractal(value, weight, noise, first, numbers):  # type: ignore[no-untyped-def]
    # A last, partial octave is mixed towards the factor 1, which changes nothing.
    amplitude, share, offset, _ = numbers
    one = np.float32(1.0)
    for k in range(noise.shape[0]):
        before = one if first else value[k]
        value[k] = _held(before * (one + share * (noise[k] * amplitude + offset - one)))


@kernel
def _hybrid_multifractal(value, weight, noise, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, offset, _ = numbers
    for k in range(noise.shape[0]):
        signal = (noise[k] + offset) * amplitude
        if first:
            value[k], weight[k] = _held(signal), _held(signal)
        else:
            least = min(weight[k], np.float32(1.0))
            value[k] = _held(value[k] + share * least * signal)
            weight[k] = _held(least * signal)


@kernel
def _heterogeneous_terrain(value, weight, noise, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, offset, _ = numbers
    for k in range(noise.shape[0]):
        signal = noise[k] + offset
        value[k] = _held(signal if first else value[k] + share * signal * amplitude * value[k])


@kernel
def _ridged_multifractal(value, weight, noise, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, offset, ridge_gain = numbers
    by = amplitude * share
    one, zero = np.float32(1.0), np.float32(0.0)
    for k in range(noise.shape[0]):
        ridge = offset - abs(noise[k])
        signal = ridge * ridge * (one if first else weight[k])
        value[k] = _held(value[k] + signal * by)
        weight[k] = min(max(signal * ridge_gain, zero), one)


SUMS = {
    "fBm": _fbm,
    "turbulence": _turbulence,
    "multifractal": _multifractal,
    "hybrid multifractal": _hybrid_multifractal,
    "heterogeneous terrain": _heterogeneous_terrain,
    "ridged multifractal": _ridged_multifractal,
}
"""Each takes an octave's noise into (n,) values and weights; it is told whether that is the first one, its
amplitude and share, and the sum's offset and ridge gain."""


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
    numbers = (octave.amplitude, octave.share, state.offset, state.ridge_gain)
    flat = (array.reshape(-1) for array in (state.value, state.weight, noise))
    SUMS[how](*flat, state.first, tuple(np.float32(number) for number in numbers))
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
