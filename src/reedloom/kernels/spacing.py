"""Keeps paths apart: each ends before it comes too near to one before it.

The idea of evenly spaced streamlines (Jobard and Lefer 1997), with the paths given and in their order: places
along those already laid stand in cells of a torus, so that only near ones are looked at.
"""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import kernel

MOST_CELLS = 2048
"""Along a side of the tile."""


def ends_apart(
    starts: np.ndarray, x: np.ndarray, y: np.ndarray, apart: float, height: float
) -> tuple[np.ndarray, np.ndarray]:
    """Where each path ends so that it stays away from those before it.

    Parameters
    ----------
    starts : (n + 1,) int64
        Where each path's corners begin.
    x, y : (m,) float64
        Corners, in widths of the tile.
    apart : float
        The least distance, above 0, in widths.
    height : float
        The tile's height, in widths.

    Returns
    -------
    piece : (n,) int64
        How many whole pieces of each path stay.
    share : (n,) float64
        How much of the next piece stays, 0 to 1; a path that begins too near keeps nothing of either.
    """
    across = max(1, min(MOST_CELLS, int(1 / apart)))
    down = max(1, min(MOST_CELLS, int(height / apart)))
    steps = np.hypot(np.diff(x, append=x[-1:]), np.diff(y, append=y[-1:]))
    steps[starts[1:] - 1] = 0
    room = int(np.ceil(steps / (apart / 2)).sum()) + len(x)  # one for a piece of no length, too
    piece, share = np.zeros(len(starts) - 1, np.int64), np.zeros(len(starts) - 1)
    keep_apart(starts, x, y, apart, height, (across, down), room, piece, share)
    return piece, share


@kernel
def keep_apart(starts, x, y, apart, height, cells, room, piece, share):  # type: ignore[no-untyped-def]
    """Fill `piece` and `share` as `ends_apart` returns them.

    Parameters
    ----------
    starts, x, y, apart, height
        As of `ends_apart`.
    cells : (int, int)
        How many stand across and down the tile, none smaller than `apart`.
    room : int
        At most so many places are laid.
    piece, share : (n,)
        Filled.
    """
    across, down = cells
    head = np.full(across * down, -1, np.int64)
    after = np.empty(room, np.int64)
    px, py = np.empty(room), np.empty(room)
    laid = 0
    for path in range(starts.shape[0] - 1):
        begin = laid
        stopped = False
        for k in range(starts[path], starts[path + 1]):
            is_end = k == starts[path + 1] - 1
            bx, by = (0.0, 0.0) if is_end else (x[k + 1] - x[k], y[k + 1] - y[k])
            places = 1 if is_end else max(1, math.ceil(math.sqrt(bx * bx + by * by) / (apart / 2)))
            for n in range(places):
                t = n / places
                u, v = (x[k] + t * bx) % 1.0, (y[k] + t * by) % height
                if _is_near(u, v, px, py, head, after, apart, height, cells):
                    stopped = True
                    break
                px[laid], py[laid] = u, v
                laid += 1
                piece[path], share[path] = k - starts[path], t
            if stopped:
                break
        for n in range(begin, laid):  # only now, so that a path is not kept from itself
            cell = min(int(py[n] / height * down), down - 1) * across + min(int(px[n] * across), across - 1)
            after[n] = head[cell]
            head[cell] = n


@kernel
def _is_near(u, v, px, py, head, after, apart, height, cells):  # type: ignore[no-untyped-def]
    """Whether a place is nearer than `apart` to one that was laid."""
    across, down = cells
    column, row = int(u * across), int(v / height * down)
    for dj in range(-1, 2):
        for di in range(-1, 2):
            n = head[((row + dj) % down) * across + (column + di) % across]
            while n >= 0:
                du, dv = abs(px[n] - u), abs(py[n] - v)
                du, dv = min(du, 1.0 - du), min(dv, height - dv)
                if du * du + dv * dv < apart * apart:
                    return True
                n = after[n]
    return False
