"""Connected regions across the seam: finding them, and their sizes, centres, axes and chances."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
from msgspec import Struct

from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.stamp_lanes import BOW_MEAN

WAVES = 24
"""Waves whose sum gives a place its chance."""
ROWS = 512
"""Rows between two looks at the stop flag."""
FINEST = 40
"""The shortest wave, per tile: regions further apart than its half have chances of their own."""


class RegionTable(Struct, frozen=True):
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


def _go_on() -> None:
    """Nothing stops the work."""


def _parts(rows: int, check: Callable[[], None]) -> Iterator[tuple[int, int]]:
    """All rows, a few hundred at a time, with a look at the stop flag before each part."""
    for y0 in range(0, rows, ROWS):
        check()
        yield y0, min(rows, y0 + ROWS)


def measure_regions(
    labels: np.ndarray, check: Callable[[], None] = _go_on, aspect: float = 1.0
) -> RegionTable:
    """The table of a label map.

    Parameters
    ----------
    labels : (H, W) int32
        From 0; 0 is a region like the others.
    check : callable
        Called now and then; raises to end the work.
    aspect : float
        The tile's height in widths, by which lengths and directions are measured.

    Returns
    -------
    RegionTable
        With one row for each label.
    """
    height, width = labels.shape
    count = int(labels.max()) + 1
    round_ = np.zeros((count, 5))
    u, v = (np.arange(width) + 0.5) / width, (np.arange(height) + 0.5) / height
    turns = [f(2 * np.pi * a) for a in (u, v) for f in (np.cos, np.sin)]
    for y0, y1 in _parts(height, check):
        sum_turns(labels, *turns, round_, y0, y1)
    # A circle's mean is the way to a first guess; the true mean is then taken of what lies around it.
    guess = [np.arctan2(round_[:, 2 + k], round_[:, 1 + k]) / (2 * np.pi) for k in (0, 2)]
    sums, low, high = np.zeros((count, 5)), np.full((count, 2), 1.0), np.full((count, 2), -1.0)
    for y0, y1 in _parts(height, check):
        sum_ways(labels, guess[0], guess[1], sums, low, high, y0, y1)
    n = np.maximum(round_[:, 0], 1)
    mean_u, mean_v, uu, uv, vv = (sums[:, k] / n for k in range(5))
    uu, uv, vv = uu - mean_u**2, (uv - mean_u * mean_v) * aspect, (vv - mean_v**2) * aspect**2
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
        (low - means - half_sample) * [1, aspect],
        (high - means + half_sample) * [1, aspect],
    )


@kernel
def fill_ways(labels, middles, ways, bows, out, y0, y1):  # type: ignore[no-untyped-def]
    """For each sample what its label makes of the way from the label's middle, the shortest on the tile.

    Parameters
    ----------
    labels : (H, W) int32
    middles : (n, 2) float64
        In tiles.
    ways : (n, channels, 3) float64
        What the way along u and along v is multiplied by, in tiles, and what is added.
    bows : (n,) or (0,) float64
        How much of the square of twice the first channel less 1, less its mean, the second one gets.
    out : (H, W, channels) float32
        Filled; 0 where the label is 0.
    """
    height, width = labels.shape
    for y in range(y0, y1):
        v = (y + 0.5) / height
        for x in range(width):
            k = labels[y, x]
            du = (x + 0.5) / width - middles[k, 0]
            dv = v - middles[k, 1]
            du -= np.round(du)
            dv -= np.round(dv)
            for c in range(out.shape[2]):
                way = ways[k, c, 0] * du + ways[k, c, 1] * dv + ways[k, c, 2]
                out[y, x, c] = way if k > 0 else 0.0
            if len(bows) and k > 0:
                q = 2 * out[y, x, 0] - 1
                out[y, x, 1] += bows[k] * (q * q - BOW_MEAN)


@kernel
def sum_turns(labels, cu, su, cv, sv, sums, y0, y1):  # type: ignore[no-untyped-def]
    """Per label: samples, and the sums of the circular u and v; sums (n, 5).

    Parameters
    ----------
    labels : (H, W) int32
    cu, su : (W,) float64
        Cosine and sine of each column's turn around the tile.
    cv, sv : (H,) float64
        Of each row's.
    sums : (n, 5) float64
        Added to.
    """
    for y in range(y0, y1):
        for x in range(labels.shape[1]):
            k = labels[y, x]
            sums[k, 0] += 1
            sums[k, 1] += cu[x]
            sums[k, 2] += su[x]
            sums[k, 3] += cv[y]
            sums[k, 4] += sv[y]


@kernel
def sum_ways(labels, middle_u, middle_v, sums, low, high, y0, y1):  # type: ignore[no-untyped-def]
    """Per label: first and second moments of the way from a middle, and its reach; sums (n, 5).

    Parameters
    ----------
    labels : (H, W) int32
    middle_u, middle_v : (n,) float64
        In tiles.
    sums : (n, 5) float64
        Added to.
    low, high : (n, 2) float64
        Widened to the farthest ways.
    """
    height, width = labels.shape
    for y in range(y0, y1):
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


def find_regions(
    inside: np.ndarray, diagonal: bool, least: float = 0.0, check: Callable[[], None] = _go_on
) -> np.ndarray:
    """Number the connected regions of a tile, across its seam, in the order of their first samples.

    Parameters
    ----------
    inside : (H, W) bool
    diagonal : bool
        Whether samples that touch at a corner are joined.
    least : float
        Regions smaller than this share of the tile are left out.
    check : callable
        Called now and then; raises to end the work.

    Returns
    -------
    (H, W) int32, 0 outside, from 1 on inside
    """
    labels = np.zeros(inside.shape, np.int32)
    parents = np.zeros(inside.size // 2 + inside.shape[0] + 2, np.int32)
    inside, count = np.ascontiguousarray(inside), 0
    for y0, y1 in _parts(len(inside), check):
        count = join_regions(inside, diagonal, labels, parents, count, y0, y1)
    areas = np.zeros(count + 1, np.int64)
    check()
    settle_labels(labels, parents, areas)
    kept = areas >= max(1.0, least * inside.size)
    kept[0] = False
    numbers = np.where(kept, np.cumsum(kept), 0).astype(np.int32)
    check()
    renumber(labels, numbers)
    return labels


def place_chances(seed: int, u: np.ndarray, v: np.ndarray, stream: int = 0) -> np.ndarray:
    """A chance 0..1 for each place, evenly spread, that hardly changes when the place moves by a hair.

    A sum of many waves of random direction and phase has nearly normal values, which the normal
    distribution's own curve spreads evenly. It depends on nothing but the place: other regions may come
    and go, and the same region has the same chance at every size of the map.

    Parameters
    ----------
    u, v : (N,) float64
        In tiles.
    stream : int
        Chances of other streams have nothing in common.

    Returns
    -------
    (N,) float32, 0 to 1
    """
    from scipy.special import ndtr  # its import is slow, and few kinds need it

    steps = unit_lattice(seed, WAVES, 3, 40 + stream).astype(np.float64)
    waves = np.round((steps[:2] * 2 - 1) * FINEST)
    waves[0] += (waves[0] == 0) & (waves[1] == 0)
    phase = 2 * np.pi * (np.outer(u, waves[0]) + np.outer(v, waves[1]) + steps[2])
    found: np.ndarray = ndtr(np.cos(phase).sum(axis=1) / np.sqrt(WAVES / 2)).astype(np.float32)
    return found


@inlined
def _root(parents, label):  # type: ignore[no-untyped-def]
    while parents[label] != label:
        parents[label] = parents[parents[label]]
        label = parents[label]
    return label


@inlined
def _join(parents, first, second):  # type: ignore[no-untyped-def]
    """Join two labels; the lower one stands for both."""
    a = _root(parents, first)
    b = _root(parents, second)
    if a < b:
        parents[b] = a
        return a
    parents[a] = b
    return b


@kernel
def join_regions(inside, diagonal, labels, parents, count, y0, y1):  # type: ignore[no-untyped-def]
    """Label runs of some rows and join those that touch (A. Rosenfeld and J. Pfaltz, 1966).

    Parameters
    ----------
    inside : (H, W) bool
    labels : (H, W) int32
        Rows y0 to y1 are filled.
    parents : (n,) int32
        For each label one that it is joined to; changed.
    count : int
        The labels used so far.

    Returns
    -------
    the labels used now
    """
    height, width = inside.shape
    reach = 1 if diagonal else 0
    for y in range(y0, y1):
        line = inside[y]
        here = labels[y]
        for x in range(width):
            if line[x]:
                if x > 0 and line[x - 1]:
                    here[x] = here[x - 1]
                else:
                    count += 1
                    parents[count] = count
                    here[x] = count
        if width > 1 and line[0] and line[width - 1]:
            _join(parents, here[0], here[width - 1])
        if y > 0:
            _join_rows(labels[y - 1], here, reach, parents)
    if height > 1 and y1 == height:
        _join_rows(labels[height - 1], labels[0], reach, parents)
    return count


@inlined
def _join_rows(above, here, reach, parents):  # type: ignore[no-untyped-def]
    """Join the labels of two rows where they touch."""
    width = here.shape[0]
    before = np.int32(0)
    beside = np.int32(0)
    for x in range(width):
        if here[x]:
            for step in range(-reach, reach + 1):
                other = above[(x + step) % width] if step else above[x]
                # Along two runs that touch, the same two labels meet again and again.
                if other and (other != beside or here[x] != before):
                    _join(parents, here[x], other)
                    before = here[x]
                    beside = other


@kernel
def settle_labels(labels, parents, areas):  # type: ignore[no-untyped-def]
    """Put the label that stands for each region on all its samples, and count them."""
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            if labels[y, x]:
                root = _root(parents, labels[y, x])
                labels[y, x] = root
                areas[root] += 1


@kernel
def renumber(labels, numbers):  # type: ignore[no-untyped-def]
    """Replace every label by its number."""
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            labels[y, x] = numbers[labels[y, x]]
