"""Gradient and value noise over whole periodic lattices, on the tile's own grid or at given places.

Gradient noise is K. Perlin's (*Improving noise*, SIGGRAPH 2002: quintic fade) with unit gradients.
Both kinds share one form: each lattice place carries a value and a slope in u and v, and the noise
is the faded mix of its four corners' planes. Value noise has slopes of 0, gradient noise values of 0.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from reedloom.kernels.hashing import hash_lattice
from reedloom.kernels.jit import inlined, kernel

GRADIENT_DEVIATION = 0.2520
"""Standard deviation of one octave of `gradient_lattice` noise (measured, in lattice units)."""
VALUE_DEVIATION = 0.1740
"""Standard deviation of one octave of `value_lattice` noise with quintic fade (measured)."""


@dataclass(frozen=True, slots=True)
class Lattice:
    """Corner planes of one octave.

    Attributes
    ----------
    planes : (rows + 1, columns + 1, 3) float32
        Value, slope in u, slope in v; the last row and column repeat the first.
    deviation : float
        Standard deviation of the noise it makes.
    """

    planes: np.ndarray
    deviation: float

    @property
    def cells(self) -> tuple[int, int]:
        """Lattice cells across and down the tile."""
        return self.planes.shape[1] - 1, self.planes.shape[0] - 1


def lattice_phases(seed: int, columns: int, rows: int, value_noise: bool) -> np.ndarray:
    """Each lattice place's phase (0..1) and how often it turns while evolution goes from 0 to 1.

    Gradients turn once, twice, or back; values swing once or twice through their range. So noise
    changes without moving and comes back to itself after every whole step of evolution.
    Returns (rows + 1, columns + 1, 2) float32, the last row and column repeating the first.
    """
    bits = hash_lattice(seed, columns, rows)
    choices = np.array([1.0, 2.0, 1.0, 2.0] if value_noise else [-2.0, -1.0, 1.0, 2.0])
    phases = np.stack([(bits >> np.uint32(8)) / 2.0**24, choices[bits & np.uint32(3)]], axis=-1)
    return np.ascontiguousarray(np.pad(phases, ((0, 1), (0, 1), (0, 0)), mode="wrap").astype(np.float32))


def gradient_lattice(seed: int, columns: int, rows: int, evolution: float = 0.0) -> Lattice:
    """Random unit gradients, as turned by `evolution`."""
    phases = lattice_phases(seed, columns, rows, value_noise=False)
    angle = (2 * math.pi) * (phases[..., 0] + phases[..., 1] * np.float32(evolution % 1.0))
    return Lattice(
        np.stack([np.zeros_like(angle), np.cos(angle), np.sin(angle)], axis=-1), GRADIENT_DEVIATION
    )


def value_lattice(seed: int, columns: int, rows: int, evolution: float = 0.0) -> Lattice:
    """Random values from -0.5 to 0.5, as swung by `evolution`."""
    phases = lattice_phases(seed, columns, rows, value_noise=True)
    planes = np.zeros((rows + 1, columns + 1, 3), np.float32)
    t = (phases[..., 0] + 2 * phases[..., 1] * np.float32(evolution % 1.0)) % 2
    planes[..., 0] = 0.5 - np.abs(t - 1)
    return Lattice(planes, VALUE_DEVIATION)


@inlined
def _fade(t):  # type: ignore[no-untyped-def]
    return t * t * t * (t * (t * np.float32(6.0) - np.float32(15.0)) + np.float32(10.0))


@kernel
def add_lattice_rows(planes, columns, fractions, weights, height, amount, out, y0, y1):  # type: ignore[no-untyped-def]
    """Add one octave to rows of a map on the tile's own grid.

    `columns`, `fractions`, `weights` give each sample's cell, place in it and faded place, worked
    out once for all rows. Within a row the two corner planes left and right of a sample are already
    mixed down the cell, so each sample costs two lines and one mix. `out` holds just the band's rows.
    """
    rows = planes.shape[0] - 1
    across = planes.shape[1]
    width = out.shape[1]
    base = np.empty(across, np.float32)
    rise = np.empty(across, np.float32)
    for y in range(y0, y1):
        v = (y + 0.5) * rows / height
        row = int(v)
        fy = np.float32(v - row)
        wy = _fade(fy)
        gy = fy - np.float32(1.0)
        for c in range(across):
            top = planes[row, c, 0] + planes[row, c, 2] * fy
            bottom = planes[row + 1, c, 0] + planes[row + 1, c, 2] * gy
            base[c] = (top + wy * (bottom - top)) * amount
            rise[c] = (planes[row, c, 1] + wy * (planes[row + 1, c, 1] - planes[row, c, 1])) * amount
        for x in range(width):
            c = columns[x]
            fx = fractions[x]
            left = base[c] + rise[c] * fx
            right = base[c + 1] + rise[c + 1] * (fx - np.float32(1.0))
            out[y - y0, x] += left + weights[x] * (right - left)


@kernel
def add_lattice_places(planes, place, footprint, amount, out, y0, y1):  # type: ignore[no-untyped-def]
    """Add one octave to rows of a map at given places, fading it where it is finer than a sample."""
    rows = planes.shape[0] - 1
    across = planes.shape[1] - 1
    finest = max(rows, across)
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            weight = octave_weight(finest * footprint[y, x]) * amount
            if weight == 0.0:
                continue
            u = place[y, x, 0] * across
            v = place[y, x, 1] * rows
            cu = math.floor(u)
            cv = math.floor(v)
            fx = np.float32(u - cu)
            fy = np.float32(v - cv)
            i = int(cu) % across
            j = int(cv) % rows
            gx = fx - np.float32(1.0)
            gy = fy - np.float32(1.0)
            a = planes[j, i, 0] + planes[j, i, 1] * fx + planes[j, i, 2] * fy
            b = planes[j, i + 1, 0] + planes[j, i + 1, 1] * gx + planes[j, i + 1, 2] * fy
            c = planes[j + 1, i, 0] + planes[j + 1, i, 1] * fx + planes[j + 1, i, 2] * gy
            d = planes[j + 1, i + 1, 0] + planes[j + 1, i + 1, 1] * gx + planes[j + 1, i + 1, 2] * gy
            wx = _fade(fx)
            top = a + wx * (b - a)
            bottom = c + wx * (d - c)
            out[y - y0, x] += weight * (top + _fade(fy) * (bottom - top))


@inlined
def octave_weight(cells_per_sample):  # type: ignore[no-untyped-def]
    """How much of an octave a sample can carry: 1 for coarse ones, 0 from 0.6 cells a sample.

    It follows the mean of the noise's spectrum under a box the size of a sample, so that a large
    map averaged down is the small map.
    """
    if cells_per_sample >= 0.6:
        return np.float32(0.0)
    q = np.float32(cells_per_sample)
    soft = np.float32(math.exp(-np.float32(2.1) * q * q))
    if q <= 0.4:
        return soft
    t = (np.float32(0.6) - q) * np.float32(5.0)
    return soft * t * t * (np.float32(3.0) - np.float32(2.0) * t)


@kernel
def add_turning_places(phases, value_noise, place, footprint, evolution, amount, out, y0, y1):  # type: ignore[no-untyped-def]
    """`add_lattice_places` where each sample has an evolution of its own.

    phases : (rows + 1, columns + 1, 2) float32 from `lattice_phases`; evolution : (H, W).
    """
    rows = phases.shape[0] - 1
    across = phases.shape[1] - 1
    finest = max(rows, across)
    corner = np.empty(4, np.float32)
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            weight = octave_weight(finest * footprint[y, x]) * amount
            if weight == 0.0:
                continue
            u = place[y, x, 0] * across
            v = place[y, x, 1] * rows
            fx = np.float32(u - math.floor(u))
            fy = np.float32(v - math.floor(v))
            i = math.floor(u) % across
            j = math.floor(v) % rows
            for k in range(4):
                phase = phases[j + k // 2, i + k % 2, 0]
                turns = phases[j + k // 2, i + k % 2, 1]
                if value_noise:
                    corner[k] = _swing(phase + np.float32(2.0) * turns * evolution[y, x])
                else:
                    angle = np.float32(2 * math.pi) * (phase + turns * evolution[y, x])
                    corner[k] = math.cos(angle) * (fx - k % 2) + math.sin(angle) * (fy - k // 2)
            wx = _fade(fx)
            top = corner[0] + wx * (corner[1] - corner[0])
            bottom = corner[2] + wx * (corner[3] - corner[2])
            out[y - y0, x] += weight * (top + _fade(fy) * (bottom - top))


@inlined
def _swing(phase):  # type: ignore[no-untyped-def]
    """Back and forth between -0.5 and 0.5 with a period of 2."""
    t = phase - np.float32(2.0) * np.float32(math.floor(phase * np.float32(0.5)))
    return np.float32(0.5) - abs(t - np.float32(1.0))
