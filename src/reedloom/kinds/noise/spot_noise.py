"""Spots: sparse dots, soft or hard."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

import numpy as np

from reedloom.kernels.cells import lay_cells
from reedloom.kernels.grains import RING, TABLE, Scatter, lay_spots, spot_rows
from reedloom.kernels.hashing import unit_lattice
from reedloom.kinds.noise.noise_parts import (
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    TURN,
    cells_across,
    cells_of,
    make_reader,
    scatter_map,
    turned_lattice,
    turning_stops,
)
from reedloom.kit import GREY, Context, Float, Port, kind


@kind(
    id="spot_noise",
    label="Spots",
    family="noise",
    version=1,
    purpose="Scattered dots, soft or hard, few or many: specks, pores, droplets, lichen.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(Port("spots", GREY),),
    parameters=(
        *cells_across(12, most=TABLE),
        Float("coverage", 0.6, (0, 1), (0, 1), help="The share of cells that have a spot."),
        Float("smallest", 0.1, (0, 0.8), (0, 0.8), help="The least radius, in cells."),
        Float("largest", 0.4, (0.05, 0.8), (0, 0.8), help="The greatest radius, in cells."),
        Float("hardness", 0.3, (0, 1), (0, 1), help="From a soft glow (0) to a sharp edge (1)."),
        Float("jitter", 1.0, (0, 1), (0, 1), help="How far spots stray from a regular grid."),
        Float("tone_spread", 0.5, (0, 1), (0, 1), help="How much fainter some spots are than others."),
        SEED,
        EVOLUTION,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("dots", "specks", "pores", "speckle", "bubbles", "flecks"),
)
def spot_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    cells: int,
    cells_down: int,
    coverage: float,
    smallest: float,
    largest: float,
    hardness: float,
    jitter: float,
    tone_spread: float,
    seed: int,
    evolution: float,
    turn: float,
) -> np.ndarray:
    cosets = turned_lattice(context, turn, cells, cells_down)
    columns, rows = cells_of(context, cells, cells_down) if cosets is None else (cosets.g, cosets.h)
    low, high = min(smallest, largest), max(smallest, largest)

    def straight(columns: int, rows: int) -> np.ndarray:
        def more(first: int, n: int) -> Iterator[np.ndarray]:
            size, there, tone = (unit_lattice(seed, columns, n, 10 + k, first) for k in range(3))
            # Squared, so that small spots outnumber large ones as in nature.
            yield np.where(there < coverage, low + (high - low) * size * size, 0).astype(np.float32)
            yield 1 - np.float32(tone_spread) * tone

        return lay_cells(seed, columns, rows, jitter, RING, 2, more, context.stop.check)

    table = straight(columns, rows) if cosets is None else cosets.laid(straight, RING)

    @lru_cache(2)  # bands and readings share it
    def laid_by(cos: float, sin: float) -> np.ndarray:
        laid = np.empty((*table.shape[:2], 4), np.float32)
        lay_spots(table, np.float32(cos), np.float32(sin), laid)
        return laid

    def fill(place: np.ndarray, swing: np.ndarray, footprint: np.ndarray, out: np.ndarray) -> None:
        still = swing.shape[:2] == (1, 1)
        laid = laid_by(*swing[0, 0].tolist()) if still else np.empty((0, 0, 4), np.float32)
        spot_rows(table, laid, np.float32(hardness), place, swing, footprint, out)

    reader = make_reader(context, place, evolution_map, evolution, cosets)
    scatter = Scatter.of(fill, columns, rows, 0.7 / max(high, 1e-3))
    return scatter_map(context, reader, [(scatter, 1.0)], 0.0)
