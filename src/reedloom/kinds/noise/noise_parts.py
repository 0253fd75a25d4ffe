"""Declarations that all noise kinds share, so that one wording serves them all."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.octaves import Reader
from reedloom.kinds.context import Context
from reedloom.kinds.declare import GREY, VECTOR, Count, Float, Parameter, Port, Seed

PLACE = Port("place", VECTOR, optional=True, help="Where to compute; the plain tile if nothing is tied.")
EVOLUTION_MAP = Port("evolution_map", GREY, optional=True, help="Added to the evolution, point by point.")
SEED = Seed()
EVOLUTION = Float(
    "evolution",
    0.0,
    (0, 1),
    help="Changes the noise without moving it; whole steps return to the start.",
    group="Arrangement",
)


def cells_across(default: int, most: int = 4096) -> tuple[Parameter, ...]:
    """The two counts that set a noise's scale."""
    down = "Cells from top to bottom; 0 takes as many as across."
    return (
        Count("cells", default, (1, 64), (1, most), help="Cells across the tile: more is finer."),
        Count("cells_v", 0, (0, 64), (0, most), label="Cells down", help=down),
    )


def octave_parameters(default: float) -> tuple[Parameter, ...]:
    """How finer octaves are added."""
    return (
        Float(
            "octaves",
            default,
            (1, 10),
            (1, 16),
            help="How many finer copies are added; a fraction fades the last in.",
        ),
        Float("lacunarity", 2.0, (1, 4), (0, 16), help="How much finer each octave is than the one before."),
    )


def make_reader(
    context: Context, place: np.ndarray | None, evolution_map: np.ndarray | None, evolution: float
) -> Reader:
    """The reader for a noise kind's place and evolution."""
    moving = evolution if evolution_map is None else evolution_map + np.float32(evolution)
    return Reader.over(context.width, context.height, place, moving, context.bands)
