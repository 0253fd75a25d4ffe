"""What the kinds that work on vectors share: their ports, and lengths in widths."""

from __future__ import annotations

import numpy as np

from reedloom.kit import VECTOR, Context, Port, Role
from reedloom.kit.ways import numbers_of, ways_of

VECTORS_IN = Port("vectors", VECTOR, help="The vectors to work on.", role=Role.WAY)
VECTORS_OUT = Port("vectors", VECTOR, role=Role.WAY)


def lengths_of(context: Context, vectors: np.ndarray) -> np.ndarray:
    """How long vectors (..., 2) in tiles are, in widths: (...)."""
    found: np.ndarray = np.abs(numbers_of(context.in_widths(vectors)))
    return found


def turned(context: Context, vectors: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """Vectors (..., 2) in tiles turned and lengthened, true to the tile's shape, as `towards` tells."""
    return context.in_tiles(ways_of(numbers_of(context.in_widths(vectors)) * turn))
