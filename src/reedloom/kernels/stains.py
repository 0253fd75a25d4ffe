"""Stains that run down a surface, row by row."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.places import beside

ROWS = 64
"""Rows between two looks at the stop flag."""
FAINT = 0.003


def run_down(
    source: np.ndarray, aside: np.ndarray, keep: float, widen: float, length: float, check: Callable[[], None]
) -> np.ndarray:
    """Carry stains down the rows, around the tile, until what began at the top no longer shows.

    Parameters
    ----------
    source : (H, W) float32
        What starts at each place, from 0.
    aside : (H, W) float32
        Columns moved for each row.
    keep : float
        The share left after each row, 0 to 1.
    widen : float
        Variance gained a row, in columns.
    length : float
        In tiles, until a third is left.
    check : callable
        Called every few rows; raises to end the work.

    Returns
    -------
    (H, W) float32
    """
    height, width = source.shape
    out = np.zeros_like(source)
    now, spare = np.zeros(width, np.float32), np.empty(width, np.float32)
    turns = 1 + min(12, int(np.ceil(-np.log(FAINT) * length)))
    side = np.float32(min(0.25, widen / 2))
    for start in range(0, turns * height, ROWS):
        check()
        run_rows(
            source, aside, np.float32(keep), side, now, spare, out, start, min(ROWS, turns * height - start)
        )
    return out


@kernel
def run_rows(source, aside, keep, side, now, spare, out, start, count):  # type: ignore[no-untyped-def]
    """Carry the stain `now` (W,) on over some rows, and leave it in `out`.

    Parameters
    ----------
    source, aside, keep
        As in `run_down`.
    side : float32
        The share that each column gives to both sides, 0 to 0.25.
    now, spare : (W,) float32
        The stain, which is changed, and scratch memory.
    out : (H, W) float32
        Rows from `start` on are filled, `count` of them, around the tile.
    """
    height, width = source.shape
    for n in range(start, start + count):
        y = n % height
        line = source[y]
        turn = aside[y]
        for x in range(width):  # each place asks where what comes to it was
            at = x - turn[x]
            i = int(np.floor(at))
            part = np.float32(at - i)
            spare[x] = now[i % width] * (np.float32(1) - part) + now[(i + 1) % width] * part
        for x in range(width):
            left, right = beside(x, width)
            spread = spare[x] + side * (spare[left] - spare[x] - spare[x] + spare[right])
            spread *= keep
            now[x] = spread if spread > line[x] else line[x]
            out[y, x] = now[x]
