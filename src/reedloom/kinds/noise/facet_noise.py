"""Facets: planes that meet in sharp creases."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from reedloom.kernels.cells import lay_cells
from reedloom.kernels.grains import RING, TABLE, Scatter, facet_rows
from reedloom.kernels.hashing import Check, hash_seed, unit_lattice
from reedloom.kernels.turned import Cosets
from reedloom.kinds.noise.noise_parts import (
    EVOLUTION,
    EVOLUTION_MAP,
    GAIN,
    PLACE,
    SEED,
    TURN,
    cells_across,
    make_reader,
    octave_parameters,
    octaves_of,
    scatter_map,
    turned_lattice,
    turning_stops,
)
from reedloom.kit import GREY, Context, Count, Float, Port, kind

REACH = 0.95
"""What nearly all facets lie below, in cells (measured)."""


@kind(
    id="facet_noise",
    label="Facets",
    family="noise",
    version=1,
    purpose="Flat facets with sharp creases: crystals, hewn stone, broken flint.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(Port("height", GREY),),
    parameters=(
        *cells_across(5, most=TABLE),
        Count("sides", 5, (4, 8), (4, 12), help="Facets around each peak."),
        Float("sharpness", 1.0, (0, 1), (0, 1), help="From round hollows (0) to flat facets (1)."),
        Float("jitter", 0.9, (0, 1), (0, 1), help="How far peaks stray from a regular grid."),
        Float("unevenness", 0.3, (0, 1), (0, 1), help="How different in height peaks are."),
        *octave_parameters(1),
        GAIN,
        SEED,
        EVOLUTION,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("crystal", "planes", "rock", "low poly", "chiselled", "flint"),
)
def facet_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    cells: int,
    cells_down: int,
    sides: int,
    sharpness: float,
    jitter: float,
    unevenness: float,
    octaves: float,
    lacunarity: float,
    gain: float,
    seed: int,
    evolution: float,
    turn: float,
) -> np.ndarray:
    cosets = turned_lattice(context, turn, cells, cells_down)
    reader = make_reader(context, place, evolution_map, evolution, cosets)
    plan = octaves_of(context, cosets, cells, cells_down, octaves, lacunarity, gain)
    total = sum(o.amplitude * o.share for o in plan)
    layers = []
    for number, octave in enumerate(plan):
        if max(octave.columns, octave.rows) <= TABLE:
            turned = None if cosets is None else cosets.finer(octave.columns)
            shape = (octave.columns, octave.rows) if turned is None else (turned.g, turned.h)
            table = laid_facets(context, hash_seed(seed, number), shape, sides, jitter, unevenness, turned)
            share = octave.amplitude * octave.share / max(total, 1e-9) / REACH
            layers.append((facets(table, *shape, sides, sharpness), -share))
    return scatter_map(context, reader, layers, 1.0)


def laid_facets(
    context: Context,
    seed: int,
    shape: tuple[int, int],
    sides: int,
    jitter: float,
    unevenness: float,
    cosets: Cosets | None,
) -> np.ndarray:
    """The table of one octave, turned or straight."""

    def straight(columns: int, rows: int) -> np.ndarray:
        return facet_table(seed, columns, rows, sides, jitter, unevenness, context.stop.check)

    return straight(*shape) if cosets is None else cosets.laid(straight, RING)


def facets(table: np.ndarray, columns: int, rows: int, sides: int, sharpness: float) -> Scatter:
    """One octave of pyramids, ready to be read."""

    def fill(place: np.ndarray, swing: np.ndarray, footprint: np.ndarray, out: np.ndarray) -> None:
        facet_rows(table, sides, np.float32(sharpness), place, swing, out)

    return Scatter.of(fill, columns, rows)


def facet_table(
    seed: int, columns: int, rows: int, sides: int, jitter: float, unevenness: float, check: Check
) -> np.ndarray:
    """Each peak's height and its sides' slopes, all of one steepness but turned unevenly."""

    def more(first: int, n: int) -> Iterator[np.ndarray]:
        turn = unit_lattice(seed, columns, n, 20, first)
        yield (unit_lattice(seed, columns, n, 21, first) - np.float32(0.5)) * np.float32(0.5 * unevenness)
        for side in range(sides):
            stray = unit_lattice(seed, columns, n, 30 + side, first) - np.float32(0.5)
            angle = np.float32(2 * math.pi) * (turn + (side + np.float32(0.3) * stray) / sides)
            check()
            yield np.cos(angle)
            yield np.sin(angle)

    return lay_cells(seed, columns, rows, jitter, RING, 1 + 2 * sides, more, check)
