"""Fibre noise: fine long grains."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial

import numpy as np

from reedloom.kernels.cells import lay_cells
from reedloom.kernels.fractals import plan_octaves
from reedloom.kernels.grains import RING, TABLE, Scatter, fibre_rows
from reedloom.kernels.hashing import Check, hash_seed, unit_lattice
from reedloom.kernels.octaves import AddRows, Reader
from reedloom.kernels.turned import Cosets
from reedloom.kinds.noise.noise_parts import (
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    TURN,
    cells_of,
    make_reader,
    moved_places,
    scatter_map,
    sum_rows,
    turned_lattice,
    turning_stops,
)
from reedloom.kit import GREY, Change, Context, Count, Float, Port, kind


@kind(
    id="fibre_noise",
    label="Fibre noise",
    family="noise",
    version=2,
    purpose="Fine long grains side by side: wood, brushed metal, paper, hair, rushes.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(Port("fibres", GREY),),
    parameters=(
        Count(
            "along",
            5,
            (1, 24),
            (1, TABLE),
            help="Fibres one after another across the tile: fewer are longer.",
        ),
        Count("across", 90, (8, 160), (1, TABLE), help="Fibres side by side down the tile: more are finer."),
        Float(
            "length",
            0.8,
            (0.1, 0.95),
            (0.01, 0.95),
            help="The greatest half length of a fibre, in cells along.",
        ),
        Float(
            "thickness", 0.45, (0.2, 0.5), (0.01, 0.5), help="The greatest half thickness, in cells across."
        ),
        Float(
            "unevenness", 0.6, (0, 1), (0, 1), help="How different in length, thickness and tone fibres are."
        ),
        Float("ends", 0.6, (0, 1), (0, 1), help="The share of the length over which ends fade."),
        Float(
            "slant",
            0.3,
            (0, 2),
            (0, 8),
            help="How much fibres cross one another, in cells across for one along.",
        ),
        Float(
            "waviness",
            0.5,
            (0, 1.5),
            (0, 32),
            help="How far all fibres together wander, against the length of a wave.",
        ),
        Count("waves", 3, (1, 16), (1, 256), help="How often they wander across the tile."),
        Count("layers", 2, (1, 4), (1, 4), help="Fibres laid over one another."),
        SEED,
        EVOLUTION,
        TURN,
    ),
    stops=turning_stops,
    changes={
        2: Change(
            "Fibres that wander are averaged over all that a sample covers: small maps differ slightly."
        )
    },
    synonyms=("grain", "hair", "strands", "brushed", "wood", "streaks"),
)
def fibre_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    along: int,
    across: int,
    length: float,
    thickness: float,
    unevenness: float,
    ends: float,
    slant: float,
    waviness: float,
    waves: int,
    layers: int,
    seed: int,
    evolution: float,
    turn: float,
) -> np.ndarray:
    cosets = turned_lattice(context, turn, along, across)
    plan = plan_octaves(cells_of(context, waves), 2.0, 2.0, 0.4)

    def wander(reader: Reader) -> AddRows:
        return sum_rows(reader, "gradient", plan, hash_seed(seed, 77), 0.2 * waviness / waves)

    where = place
    if waviness > 0:
        add = wander(make_reader(context, place, None, 0.0))
        way = (0.0, 1.0) if cosets is None else aside(cosets)
        where = moved_places(context, place, [add], np.array(way, np.float32))
    reader = make_reader(context, where, evolution_map, evolution, cosets)
    if cosets is not None:
        along, across = cosets.g, cosets.h

    def straight(layer: int, columns: int, rows: int) -> np.ndarray:
        layer_seed = hash_seed(seed, layer)
        return fibre_table(
            layer_seed, columns, rows, length, thickness, unevenness, slant, context.stop.check
        )

    tables = [
        straight(layer, along, across) if cosets is None else cosets.laid(partial(straight, layer), RING)
        for layer in range(layers)
    ]

    def fill(place: np.ndarray, swing: np.ndarray, footprint: np.ndarray, out: np.ndarray) -> None:
        out[...] = 0
        for table in tables:
            fibre_rows(table, np.float32(ends), place, swing, footprint, out)

    scatter = Scatter.of(fill, along, across, 0.8 / thickness)
    return scatter_map(context, reader, [(scatter, 1.0)], 0.0)


def aside(cosets: Cosets) -> tuple[float, float]:
    """The way across turned fibres, in tiles, as long as from the top of a tile to its bottom."""
    length = math.hypot(cosets.a, cosets.b)
    return -cosets.b / length * cosets.p / cosets.q, cosets.a / length


def fibre_table(
    seed: int, along: int, across: int, length: float, thickness: float, unevenness: float, slant: float,
    check: Check,
) -> np.ndarray:  # fmt: skip
    """Each fibre's half length, half thickness, slant and tone behind its point."""
    uneven = np.float32(unevenness)

    def more(first: int, n: int) -> Iterator[np.ndarray]:
        long, thick, lean, tone = (unit_lattice(seed, along, n, 40 + k, first) for k in range(4))
        yield np.float32(length) * (1 - uneven * np.float32(0.8) * long)
        yield np.float32(thickness) * (1 - uneven * np.float32(0.7) * thick)
        yield np.float32(slant) * (lean * 2 - 1)
        yield 1 - uneven * np.float32(0.8) * tone

    return lay_cells(seed, along, across, 1.0, RING, 4, more, check)
