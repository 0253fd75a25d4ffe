"""Sums of noise octaves, after the published definitions.

D. S. Ebert and others, *Texturing and Modeling: A Procedural Approach*, 3rd edition
2003, chapter 16 (multifractal, hybrid multifractal, heterogeneous terrain, ridged multifractal);
K. Perlin 1985 (turbulence). Each sum is a small step that takes one octave and the running state.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.quick import power_of_two
from reedloom.kernels.reach import ends_of


class SumState(Struct):
    """A block of rows on its way through the octaves.

    Attributes
    ----------
    value, weight : (n, W) float32
    offset, ridge_gain : float
        As the definitions have them.
    lasting : float
        How far a hybrid sum's weights leave out that octaves fade, 0 to 1: at 0 they fade as defined, and
        fine octaves are all but lost where the noise is smooth.
    """

    value: np.ndarray
    weight: np.ndarray
    offset: float
    ridge_gain: float
    lasting: float = 0.0
    first: bool = True


LARGEST = np.float32(1e18)
"""Products of octaves are held below this, so that extreme settings stay finite."""


@inlined
def _held(value):  # type: ignore[no-untyped-def]
    return min(max(value, -LARGEST), LARGEST)


KEPT = np.float32(1e-3)
"""A deviation below which nothing counts as lost."""


@inlined
def _keeps_all(lost):  # type: ignore[no-untyped-def]
    """Whether no sample has lost anything."""
    return lost.shape[0] == 1 and lost[0] <= KEPT


@inlined
def _mean_away(noise, lost):  # type: ignore[no-untyped-def]
    """How far noise is from 0 on average over a sample, which has lost a part of such a deviation.

    The error function is M. Abramowitz and I. Stegun's 7.1.26, right to 1.5e-7, whose bell is needed anyway.
    """
    away, one = abs(noise), np.float32(1.0)
    left = max(lost, KEPT)
    wide = left * np.float32(math.sqrt(2.0))
    whole = wide + np.float32(0.3275911) * away
    both = one / (wide * whole)  # divided once, for the place in the bell and for 7.1.26's t
    part, t = away * (whole * both), wide * (wide * both)
    bell = power_of_two(np.float32(-math.log2(math.e)) * part * part)
    fall = np.float32(1.061405429)
    for factor in (-1.453152027, 1.421413741, -0.284496736, 0.254829592):
        fall = fall * t + np.float32(factor)
    blurred = left * np.float32(math.sqrt(2.0 / math.pi)) * bell + away * (one - fall * t * bell)
    return away if lost <= KEPT else blurred


@kernel
def fill_lost(reach, cells, at, kept, spread, out):  # type: ignore[no-untyped-def]
    """The deviation of what samples lose of a noise.

    Parameters
    ----------
    reach : (n, W) float32
        What each sample covers, in widths.
    cells : float32
        In a width.
    at, kept : (k,) float32
        What is kept of the deviation where a sample covers so many cells, a straight line between each two.
    spread : float32
        The noise's deviation.
    out : (n, W) float32
        Filled.
    """
    one, nothing = np.float32(1.0), np.float32(0.0)
    for y in range(out.shape[0]):
        line, covered = out[y], reach[y]
        least, most = ends_of(covered.view(np.int32))
        for x in range(line.shape[0]):
            line[x] = nothing
        # What is lost is summed, since little of it would be rounded away beside one.
        for part in range(at.shape[0] - 1):
            first, long = at[part], at[part + 1] - at[part]
            if cells * most <= first:
                break
            fall = (kept[part] - kept[part + 1]) / long
            if cells * least >= at[part + 1]:
                for x in range(line.shape[0]):
                    line[x] += fall * long
                continue
            for x in range(line.shape[0]):
                line[x] += fall * min(max(cells * covered[x] - first, nothing), long)
        for x in range(line.shape[0]):
            gone = min(line[x], one)
            line[x] = spread * np.float32(math.sqrt(gone * (one + one - gone)))


@kernel
def _fbm(value, weight, noise, lost, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, _, _, _ = numbers
    by = amplitude * share
    for k in range(noise.shape[0]):
        value[k] = _held(value[k] + noise[k] * by)


@kernel
def _turbulence(value, weight, noise, lost, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, _, _, _ = numbers
    by = amplitude * share
    if _keeps_all(lost):  # its own loop, which becomes vectors
        for k in range(noise.shape[0]):
            value[k] = _held(value[k] + abs(noise[k]) * by)
        return
    if lost.shape[0] > 1:
        for k in range(noise.shape[0]):
            value[k] = _held(value[k] + _mean_away(noise[k], lost[k]) * by)
        return
    left = lost[0]
    for k in range(noise.shape[0]):
        value[k] = _held(value[k] + _mean_away(noise[k], left) * by)


@kernel
def _multifractal(value, weight, noise, lost, first, numbers):  # type: ignore[no-untyped-def]
    # A last, partial octave is mixed towards the factor 1, which changes nothing.
    amplitude, share, offset, _, _ = numbers
    one = np.float32(1.0)
    for k in range(noise.shape[0]):
        before = one if first else value[k]
        value[k] = _held(before * (one + share * (noise[k] * amplitude + offset - one)))


@kernel
def _hybrid_multifractal(value, weight, noise, lost, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, offset, _, fading = numbers
    for k in range(noise.shape[0]):
        signal = noise[k] + offset
        if first:
            value[k], weight[k] = _held(signal * amplitude), _held(signal * fading)
        else:
            least = min(weight[k], np.float32(1.0))
            value[k] = _held(value[k] + share * least * signal * amplitude)
            weight[k] = _held(least * signal * fading)


@kernel
def _heterogeneous_terrain(value, weight, noise, lost, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, offset, _, _ = numbers
    for k in range(noise.shape[0]):
        signal = noise[k] + offset
        value[k] = _held(signal if first else value[k] + share * signal * amplitude * value[k])


@kernel
def _ridged_multifractal(value, weight, noise, lost, first, numbers):  # type: ignore[no-untyped-def]
    amplitude, share, offset, ridge_gain, _ = numbers
    by = amplitude * share
    one, zero = np.float32(1.0), np.float32(0.0)
    if _keeps_all(lost):  # its own loop, which becomes vectors
        for k in range(noise.shape[0]):
            ridge = offset - abs(noise[k])
            signal = ridge * ridge * (one if first else weight[k])
            value[k] = _held(value[k] + signal * by)
            weight[k] = min(max(signal * ridge_gain, zero), one)
        return
    if lost.shape[0] > 1:
        for k in range(noise.shape[0]):
            signal = _mean_ridge(offset, noise[k], lost[k]) * (one if first else weight[k])
            value[k] = _held(value[k] + signal * by)
            weight[k] = min(max(signal * ridge_gain, zero), one)
        return
    left = lost[0]
    for k in range(noise.shape[0]):
        signal = _mean_ridge(offset, noise[k], left) * (one if first else weight[k])
        value[k] = _held(value[k] + signal * by)
        weight[k] = min(max(signal * ridge_gain, zero), one)


@inlined
def _mean_ridge(offset, noise, lost):  # type: ignore[no-untyped-def]
    """The mean square of how far noise is below an offset, where it has lost a part of such a deviation."""
    ridge = offset - _mean_away(noise, lost)
    return ridge * ridge + noise * noise + lost * lost - (offset - ridge) * (offset - ridge)


NOTHING_LOST = np.zeros(1, np.float32)
FOLDED = ("turbulence", "ridged multifractal")
"""The sums that fold the noise, so that its finest part leaves more than its mean of nothing."""
SUMS = {
    "fBm": _fbm,
    "turbulence": _turbulence,
    "multifractal": _multifractal,
    "hybrid multifractal": _hybrid_multifractal,
    "heterogeneous terrain": _heterogeneous_terrain,
    "ridged multifractal": _ridged_multifractal,
}
"""Each takes an octave's noise into (n,) values and weights; it is told what of it is lost, whether it is the
first, its amplitude and share, the sum's offset and ridge gain, and by how much weights fade."""


def add_octave(
    how: str, state: SumState, noise: np.ndarray, octave: Octave, lost: np.ndarray | None = None
) -> None:
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
    lost : (n, W) or (1, 1) float32, optional
        The deviation of what is finer in the octave than a sample: folded, as in a ridge, it still counts.
    """
    left = NOTHING_LOST if lost is None else lost.reshape(-1)
    fading = octave.amplitude ** (1 - state.lasting)
    numbers = (octave.amplitude, octave.share, state.offset, state.ridge_gain, fading)
    flat = (array.reshape(-1) for array in (state.value, state.weight, noise))
    SUMS[how](*flat, left, state.first, tuple(np.float32(number) for number in numbers))
    state.first = False


class Octave(Struct, frozen=True):
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
