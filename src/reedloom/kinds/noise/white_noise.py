"""Grain: one value for each cell of a fine lattice."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from reedloom.kernels.hashing import BLOCK, hash_lattice, unit_lattice
from reedloom.kernels.mosaic import average_grid, ringed
from reedloom.kernels.octaves import fade_unclear
from reedloom.kernels.places import tile_places
from reedloom.kernels.reach import measure_footprint
from reedloom.kernels.turned import Cosets
from reedloom.kinds.noise.noise_parts import (
    CONTRAST,
    EVOLUTION,
    PLACE,
    SEED,
    TURN,
    cells_of,
    turned_lattice,
    turning_stops,
)
from reedloom.kit import GREY, Choice, Context, Count, Port, kind

SPREADS = ("even", "bell")
MOST_TIMES = 8
"""Places in a sample along each side at most, in which turned cells are read."""

GRAIN = {
    "tiles": "it jumps at every border of a cell, of which the seam is one",
    "grid": "at given places, grain finer than two samples fades, while the grid's own is averaged exactly",
}


@kind(
    id="white_noise",
    label="Grain",
    family="noise",
    version=1,
    purpose="One random value for each cell of a fine lattice: grit, film grain, sparkle masks.",
    inputs=(PLACE,),
    outputs=(Port("noise", GREY, exempt=GRAIN),),
    parameters=(
        Count("cells", 256, (8, 1024), (1, 8192), help="Cells across the tile."),
        Count(
            "cells_down",
            0,
            (0, 1024),
            (0, 8192),
            label="Cells down",
            help="Cells from top to bottom; 0 takes as many as across.",
        ),
        Choice("spread", "even", SPREADS, help="Every tone as often, or mostly middle tones."),
        CONTRAST,
        SEED,
        EVOLUTION,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("white noise", "grit", "static", "random", "sand"),
    sample={"cells": 48},
)
def white_noise(
    context: Context,
    place: np.ndarray | None,
    *,
    cells: int,
    cells_down: int,
    spread: str,
    contrast: float,
    seed: int,
    evolution: float,
    turn: float,
) -> np.ndarray:
    cosets = turned_lattice(context, turn, cells, cells_down)
    columns, rows = cells_of(context, cells, cells_down)
    if cosets is not None:
        i, j = cosets.table().same()
        columns, rows = int(i.max()) + 1, int(j.max()) + 1

    def grains() -> Iterator[np.ndarray]:
        step = max(1, BLOCK // 4 // columns)
        for first in range(0, rows, step):
            context.stop.check()
            grain = grain_lattice(seed, columns, min(step, rows - first), spread, evolution, first)
            yield (grain - np.float32(0.5)) * np.float32(contrast) + np.float32(0.5)

    if place is None and cosets is None:
        return spread_over(context, np.concatenate([averaged_over(g, context.width) for g in grains()]))
    grain = np.concatenate(list(grains()))
    if cosets is not None:
        grain = grain[j, i]
    if place is None:
        assert cosets is not None
        return turned_grain(context, grain, cosets)
    footprint, aspect = measure_footprint(place, context.bands, context.aspect), context.aspect
    if cosets is not None:
        place, footprint, aspect = among_corners(place, footprint, cosets)
    table, out = ringed(grain), context.empty()
    finest = np.float32(max(grain.shape[1], len(grain) / aspect))

    def band(y0: int, y1: int) -> None:
        found = out[y0:y1]
        average_grid(place[y0:y1], footprint[y0:y1], np.float32(aspect), table, found)
        fade_unclear(finest, np.float32(0.5), footprint[y0:y1].reshape(-1), found.reshape(-1))

    context.bands(band)
    return out


def among_corners(
    place: np.ndarray, footprint: np.ndarray, cosets: Cosets
) -> tuple[np.ndarray, np.ndarray, float]:
    """As `Cosets.among`, in a table that may repeat within the tile."""
    repeats = np.float32(cosets.g // cosets.table().g)
    where, covered, aspect = cosets.among(place, footprint)
    return where * repeats, covered * repeats, aspect


def turned_grain(context: Context, grain: np.ndarray, cosets: Cosets) -> np.ndarray:
    """A turned lattice's cells averaged over each sample, by as many places as it takes to meet them all."""
    a_width = max(cosets.g, cosets.h) * math.hypot(cosets.a, cosets.b)
    times = min(MOST_TIMES, max(1, math.ceil(2 * a_width * context.sample)))
    size = (times * context.width, times * context.height)
    table, out = ringed(grain), context.empty()
    reach = np.full((1, 1), context.sample / times, np.float32)

    def band(y0: int, y1: int) -> None:
        fine = np.empty(((y1 - y0) * times, size[0]), np.float32)
        places = tile_places(*size, range(y0 * times, y1 * times))
        where, covered, _ = among_corners(places, reach, cosets)
        average_grid(np.ascontiguousarray(where), covered, np.float32(1), table, fine)
        out[y0:y1] = fine.reshape(y1 - y0, times, context.width, times).mean(axis=(1, 3))

    context.bands(band, band_rows=32)
    return out


def grain_lattice(
    seed: int, columns: int, rows: int, spread: str, evolution: float, first: int
) -> np.ndarray:
    """Each cell's value 0..1 from a row on: (rows, columns) float32.

    It swings once or twice while evolution goes by 1.
    """
    streams = 1 if spread == "even" else 4
    total = np.zeros((rows, columns), np.float32)
    for stream in range(streams):
        phase = unit_lattice(seed, columns, rows, stream, first)
        if evolution % 1:
            ways = hash_lattice(seed, columns, rows, 50 + stream, first) & np.uint32(1)
            turns = 1 + ways.astype(np.float32)
            phase = np.abs((phase + 2 * turns * np.float32(evolution % 1)) % 2 - 1)
        total += phase if not evolution % 1 else 1 - phase
    # Four even draws added have twice the deviation of one; halved about the middle they keep its range.
    return total if streams == 1 else (total - np.float32(2)) * np.float32(0.4) + np.float32(0.5)


def averaged_over(grains: np.ndarray, count: int) -> np.ndarray:
    """Rows of cells averaged over `count` even stretches, each cell by its share: (rows, count)."""
    n = grains.shape[1]
    summed = np.concatenate([np.zeros((len(grains), 1)), np.cumsum(grains, axis=1, dtype=np.float64)], axis=1)
    ends = np.arange(count + 1) * (n / count)
    whole = np.minimum(ends.astype(np.int64), n - 1)
    at_ends = summed[:, whole] + (ends - whole) * (summed[:, whole + 1] - summed[:, whole])
    return (np.diff(at_ends, axis=1) * (count / n)).astype(np.float32)


def spread_over(context: Context, rows: np.ndarray) -> np.ndarray:
    """Rows (n, W) averaged down over the samples of a map, each by its share."""
    n, height = len(rows), context.height
    out = context.empty()
    ends = np.arange(height + 1) * (n / height)

    def few(y0: int, y1: int) -> None:
        """Cells are larger than samples: each sample lies in one cell or in two."""
        first = ends[y0:y1].astype(np.int64)
        beyond = np.clip((ends[y0 + 1 : y1 + 1] - first - 1) * (height / n), 0, 1).astype(np.float32)[:, None]
        out[y0:y1] = rows[first]
        crossing = np.flatnonzero(beyond[:, 0])
        share, cell = beyond[crossing], first[crossing]
        out[y0 + crossing] += share * (rows[(cell + 1) % n] - rows[cell])

    def many(y0: int, y1: int) -> None:
        for y in range(y0, y1):
            first, last = int(ends[y]), min(int(np.ceil(ends[y + 1])), n)
            under = np.arange(first, last)
            shares = np.minimum(under + 1, ends[y + 1]) - np.maximum(under, ends[y])
            out[y] = (shares / max(shares.sum(), 1e-12)).astype(np.float32) @ rows[first:last]

    context.bands(few if n <= height else many)
    return out
