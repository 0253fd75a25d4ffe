"""Keeps the small tables that kernels read, so that a dragged value does not make them anew each time."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache, wraps

import numpy as np

COUNT = 256
"""Tables of one maker that are kept, the last used ones."""


def kept_few(most: int) -> Callable[[Callable[..., np.ndarray]], Callable[..., np.ndarray]]:
    """For a function of plain numbers that makes a table, (seed, columns, rows, ...): keep what it last made.

    Tables are read-only. Those of more than `most` cells are made each time, which bounds the memory.
    """

    def around(make: Callable[..., np.ndarray]) -> Callable[..., np.ndarray]:
        @wraps(make)
        def frozen(*arguments: float) -> np.ndarray:
            table = make(*arguments)
            table.flags.writeable = False
            return table

        kept = lru_cache(COUNT)(frozen)

        @wraps(make)
        def get(seed: int, columns: int, rows: int, *more: float) -> np.ndarray:
            return (kept if columns * rows <= most else frozen)(seed, columns, rows, *more)

        return get

    return around
