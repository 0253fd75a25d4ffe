"""What the kinds that work on vectors share: their ports, and lengths in widths."""

from __future__ import annotations

import numpy as np

from reedloom.kit import VECTOR, Context, Port, Role

VECTORS_IN = Port("vectors", VECTOR, help="The vectors to work on.", role=Role.WAY)
VECTORS_OUT = Port("vectors", VECTOR, role=Role.WAY)
HUGE = 1e30
"""Squares of lengths are summed up to here, where no sum runs over; longer vectors are measured with care."""


def lengths_of(context: Context, vectors: np.ndarray) -> np.ndarray:
    """How long vectors (..., 2) in tiles are, in widths: (...)."""
    ways = context.in_widths(vectors)
    across, down = ways[..., 0], ways[..., 1]
    with np.errstate(over="ignore", invalid="ignore"):
        squares = across * across
        squares += down * down
    if squares.max(initial=0) < HUGE:
        return np.sqrt(squares, out=squares)
    return np.hypot(across, down)


def turned(
    context: Context, vectors: np.ndarray, cosine: np.ndarray | np.float32, sine: np.ndarray | np.float32
) -> np.ndarray:
    """Vectors (..., 2) turned clockwise, true to the tile's shape."""
    ways = context.in_widths(vectors)
    across, down = ways[..., 0], ways[..., 1]
    return context.in_tiles(np.stack([cosine * across - sine * down, sine * across + cosine * down], axis=-1))
