"""What the kinds that work on vectors share: their ports, and lengths in widths."""

from __future__ import annotations

import numpy as np

from reedloom.kit import VECTOR, Context, Port, Role

VECTORS_IN = Port("vectors", VECTOR, help="The vectors to work on.", role=Role.WAY)
VECTORS_OUT = Port("vectors", VECTOR, role=Role.WAY)


def lengths_of(context: Context, vectors: np.ndarray) -> np.ndarray:
    """How long vectors (..., 2) in tiles are, in widths: (...)."""
    ways = context.in_widths(vectors)
    return np.hypot(ways[..., 0], ways[..., 1])


def turned(
    context: Context, vectors: np.ndarray, cosine: np.ndarray | np.float32, sine: np.ndarray | np.float32
) -> np.ndarray:
    """Vectors (..., 2) turned clockwise, true to the tile's shape."""
    ways = context.in_widths(vectors)
    across, down = ways[..., 0], ways[..., 1]
    return context.in_tiles(np.stack([cosine * across - sine * down, sine * across + cosine * down], axis=-1))
