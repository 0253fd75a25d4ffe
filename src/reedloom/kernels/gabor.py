"""Sparse Gabor convolution: a noise of a chosen direction, frequency and band width.

A. Lagae and others, *Procedural noise using sparse Gabor convolution* (SIGGRAPH 2009). A few waves
under a bell are set at hashed places of each cell of a periodic lattice, and each sample adds up those that
reach it.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from reedloom.kernels.hashing import BLOCK, Check, hash_lattice, no_check, unit_lattice
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.runs import locate, outside, row_cells, run_end, span
from reedloom.kernels.wave_lanes import WAVE, add_turned_waves, add_waves

WAVES_EACH = 2
"""Waves in each cell."""
CUT = 0.02
"""A wave ends where its bell has fallen to this."""


SINC = np.array([(-(math.pi**2)) ** k / math.factorial(2 * k + 1) for k in range(9)], np.float32)
"""The factors of the powers of q² in sin(πq) / πq."""


class Waves(NamedTuple):
    """The waves of one noise.

    Attributes
    ----------
    table : (n, 6) float64
        Place u and v (tiles), turn (radians), phase (radians), weight, random for the spread of turn.
        Waves of one cell follow one another, cells row by row.
    cells : int
        Cells across and down.
    frequency : float
        Waves across the tile.
    sharpness : float
        Of the bell: exp(-sharpness d²), d in tiles.
    reach : float
        How far a wave reaches, in tiles; at most one cell.
    """

    table: np.ndarray
    cells: int
    frequency: float
    sharpness: float
    reach: float

    @property
    def deviation(self) -> float:
        """Standard deviation of the sum: each wave is a random draw of a bell times a cosine."""
        density = self.cells**2 * WAVES_EACH
        power = (self.table[:, 4] ** 2).mean() * math.pi / (4 * self.sharpness)
        return math.sqrt(density * power)


def make_waves(
    seed: int, frequency: float, bandwidth: float, direction: float, spread: float, evolution: float,
    check: Check = no_check,
) -> Waves:  # fmt: skip
    """Waves about one frequency, running along one direction.

    Parameters
    ----------
    frequency : float
        Waves across the tile.
    bandwidth : float
        Relative, 0 to 1.
    direction, spread : float
        Radians; each wave's direction departs by up to ± spread.
    evolution : float
        The phase of every wave turns once, twice or back while it goes from 0 to 1.
    check : callable
        Called every few milliseconds; may raise `Cancelled`.

    Returns
    -------
    Waves
    """
    sharpness = (math.pi * frequency * max(bandwidth, 0.02)) ** 2
    reach = math.sqrt(-math.log(CUT) / sharpness)
    cells = max(1, min(1024, math.floor(1 / reach))) if reach < 1 else 1
    reach = min(reach, 1.0 / cells)
    n = cells * WAVES_EACH
    table = np.empty((cells, n, 6))
    step = max(1, BLOCK // 8 // n)
    for first in range(0, cells, step):
        check()
        part = table[first : first + step]
        rows = len(part)
        stream = [unit_lattice(seed, n, rows, k, first).astype(np.float64) for k in range(5)]
        turns = np.array([-2.0, -1.0, 1.0, 2.0])[hash_lattice(seed, n, rows, 9, first) & np.uint32(3)]
        part[..., 0] = (np.arange(n) // WAVES_EACH + stream[0]) / cells
        part[..., 1] = (np.arange(first, first + rows)[:, None] + stream[1]) / cells
        part[..., 2] = direction + spread * (stream[4] * 2 - 1)
        part[..., 3] = 2 * math.pi * (stream[2] + turns * evolution)
        sign = np.where(stream[3] < 0.5, -1.0, 1.0)
        part[..., 4] = sign * (0.6 + 0.8 * np.abs(stream[3] * 2 % 1 - 0.5))
        part[..., 5] = stream[4] * 2 - 1
    return Waves(table.reshape(-1, 6), cells, frequency, sharpness, reach)


@kernel
def add_wave_rows(waves, place, turn, spread, footprint, amount, out):  # type: ignore[no-untyped-def]
    """Add waves at given places; where a wave is finer than a sample it fades out.

    Parameters
    ----------
    waves : Waves
    place : (n, W, 2) float32
        In tiles.
    turn : (n, W) float32, or (1, 1) for the waves' own
        Radians.
    spread : float
        By how much a wave's direction may depart from `turn`, radians.
    footprint : (n, W) or (1, 1) float32
        What each sample covers, in tiles.
    amount : float
        What the waves are multiplied by.
    out : (n, W) float32
    """
    table, across, frequency, sharpness, reach = waves
    own = turn.shape[0] * turn.shape[1] == 1
    wide = 1 if footprint.shape[0] * footprint.shape[1] > 1 else 0
    n = out.shape[1]
    at, total, turns = row_cells(n), np.empty(n, np.float32), np.empty(0 if own else n, np.float32)
    cell, column, row, u, v, _, parts = at
    parts = parts.reshape(-1)
    near, run = np.empty(9 * WAVES_EACH * WAVE, np.float32), np.array([0, 0, n])
    # From here on lengths are in cells and angles in turns.
    whole = np.float32(1.0 / (2 * math.pi))
    fall = -sharpness / (across * across) / math.log(2.0)
    bell = np.array([fall, (reach * across) ** 2], np.float32)
    each, often, strength = np.float32(frequency / across), np.float32(frequency), np.float32(amount)
    for y in range(out.shape[0]):
        locate(place[y].reshape(-1), across, across, at)
        for x in range(n):
            total[x] = np.float32(0.0)
        for x in range(turns.shape[0]):
            turns[x] = turn[y, x] * whole
        a = 0
        while a < n:
            b = run_end(cell, a)
            run[0], run[1] = a, b
            corner = row[a], column[a], span(u, a, b), span(v, a, b)
            ways = own, each, np.float32(spread) * whole
            count = np.int64(_find_waves(table, across, corner, bell[1], ways, near))
            if own:
                add_waves(parts, total, near, count, run, bell)
            else:
                add_turned_waves(parts, turns, total, near, count, run, bell)
            a = b
        covered, line = footprint[y * wide], out[y]
        if wide:
            for x in range(n):
                line[x] += strength * _clear(often * covered[x]) * total[x]
        else:
            clear = strength * _clear(often * covered[0])
            for x in range(n):
                line[x] += clear * total[x]


@inlined
def _find_waves(table, across, corner, limit, ways, near):  # type: ignore[no-untyped-def]
    """Lay the waves that may reach a run as `wave_lanes` takes them; how many they are."""
    (row, column, (left, right), (top, bottom)), (own, each, spread) = corner, ways
    count = 0
    for dj in range(-1, 2):
        for di in range(-1, 2):
            q, p = (row + dj) % across, (column + di) % across
            for k in range(WAVES_EACH):
                wave = (q * across + p) * WAVES_EACH + k
                pu = np.float32(table[wave, 0] * across - p + di)
                pv = np.float32(table[wave, 1] * across - q + dj)
                away_u, away_v = outside(left, right, pu), outside(top, bottom, pv)
                if away_u * away_u + away_v * away_v < limit:
                    first = count * WAVE
                    near[first], near[first + 1] = pu, pv
                    near[first + 2], near[first + 3] = table[wave, 3] / (2 * math.pi), table[wave, 4]
                    if own:
                        near[first + 4] = each * np.float32(math.cos(table[wave, 2]))
                        near[first + 5] = each * np.float32(math.sin(table[wave, 2]))
                    else:
                        near[first + 4], near[first + 5] = each, table[wave, 5] * spread
                    count += 1
    return count


@inlined
def _clear(per_sample):  # type: ignore[no-untyped-def]
    """How much of a wave a sample carries: the mean of a cosine over a box of that many waves, to 1e-6.

    The series of sin(πq) / πq, without a branch, so that it becomes vectors.
    """
    q = min(np.float32(per_sample), np.float32(1))
    square, total = q * q, np.float32(0)
    for term in range(8, -1, -1):
        total = total * square + SINC[term]
    return total if q < np.float32(1) else np.float32(0)
