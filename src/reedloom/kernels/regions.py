"""Regions of a label map: their sizes, centres and axes, measured the shortest way around the tile."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from reedloom.kernels.jit import kernel


@dataclass(frozen=True, slots=True)
class RegionTable:
    """What is known of the regions of a label map; entry 0 stands for what is in none.

    Attributes
    ----------
    area : (n,) float64
        Share of the tile; 0 for numbers that no sample has.
    u, v : (n,) float64
        Centre on the tile, 0..1.
    axis : (n,) float64
        The long axis in radians, clockwise from the right.
    length, breadth : (n,) float64
        Standard deviation along and across the long axis, in tiles.
    low, high : (n, 2) float64
        The least and greatest way from the centre, along u and v, in tiles.
    """

    area: np.ndarray
    u: np.ndarray
    v: np.ndarray
    axis: np.ndarray
    length: np.ndarray
    breadth: np.ndarray
    low: np.ndarray
    high: np.ndarray

    @property
    def present(self) -> np.ndarray:
        """The numbers of all regions there are, without 0."""
        found = np.flatnonzero(self.area > 0)
        return found[found > 0]


def measure_regions(labels: np.ndarray) -> RegionTable:
    """The table of a label map (H, W) int32 with numbers from 0."""
    height, width = labels.shape
    count = int(labels.max()) + 1
    round_ = np.zeros((count, 5))
    u, v = (np.arange(width) + 0.5) / width, (np.arange(height) + 0.5) / height
    turns = [f(2 * np.pi * a) for a in (u, v) for f in (np.cos, np.sin)]
    sum_turns(labels, *turns, round_)
    # A circle's mean is the way to a first guess; the true mean is then taken of what lies around it.
    guess = [np.arctan2(round_[:, 2 + k], round_[:, 1 + k]) / (2 * np.pi) for k in (0, 2)]
    sums, low, high = np.zeros((count, 5)), np.full((count, 2), 1.0), np.full((count, 2), -1.0)
    sum_ways(labels, guess[0], guess[1], sums, low, high)
    n = np.maximum(round_[:, 0], 1)
    mean_u, mean_v, uu, uv, vv = (sums[:, k] / n for k in range(5))
    uu, uv, vv = uu - mean_u**2, uv - mean_u * mean_v, vv - mean_v**2
    half, root = (uu + vv) / 2, np.sqrt(np.maximum((uu - vv) ** 2 / 4 + uv**2, 0))
    half_sample = np.array([0.5 / width, 0.5 / height])
    means = np.stack([mean_u, mean_v], axis=1)
    return RegionTable(
        round_[:, 0] / (width * height),
        (guess[0] + mean_u) % 1,
        (guess[1] + mean_v) % 1,
        0.5 * np.arctan2(2 * uv, uu - vv),
        np.sqrt(np.maximum(half + root, 0)),
        np.sqrt(np.maximum(half - root, 0)),
        low - means - half_sample,
        high - means + half_sample,
    )


@kernel
def sum_turns(labels, cu, su, cv, sv, sums):  # type: ignore[no-untyped-def]
    """Per label: samples, and the sums of the circular u and v; sums (n, 5)."""
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            k = labels[y, x]
            sums[k, 0] += 1
            sums[k, 1] += cu[x]
            sums[k, 2] += su[x]
            sums[k, 3] += cv[y]
            sums[k, 4] += sv[y]


@kernel
def sum_ways(labels, middle_u, middle_v, sums, low, high):  # type: ignore[no-untyped-def]
    """Per label: first and second moments of the way from a middle, and its reach; sums (n, 5)."""
    height, width = labels.shape
    for y in range(height):
        v = (y + 0.5) / height
        for x in range(width):
            k = labels[y, x]
            du = (x + 0.5) / width - middle_u[k]
            dv = v - middle_v[k]
            du -= np.round(du)
            dv -= np.round(dv)
            sums[k, 0] += du
            sums[k, 1] += dv
            sums[k, 2] += du * du
            sums[k, 3] += du * dv
            sums[k, 4] += dv * dv
            low[k, 0] = min(low[k, 0], du)
            low[k, 1] = min(low[k, 1], dv)
            high[k, 0] = max(high[k, 0], du)
            high[k, 1] = max(high[k, 1], dv)
