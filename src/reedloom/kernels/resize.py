"""Brings pictures of any size to the tile's: averaged where they shrink, mixed where they grow; wrapped."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import Check, no_check


def resize_axis(map: np.ndarray, count: int, repeats: float, axis: int) -> np.ndarray:
    """A map repeated along one axis and brought to `count` samples, wrapped at its ends.

    Where a new sample covers one old sample or more it is their average, each by its share; where it
    covers less, it is mixed from the two old samples nearest to it.

    Parameters
    ----------
    map : (h, w, ...) float32
    count : int
        Samples along the axis, after repeating.
    repeats : float
        How many times it is laid side by side, above 0.

    Returns
    -------
    the map with `count` samples along the axis
    """
    source = np.moveaxis(map, axis, 0)
    n = len(source)
    covered = n * repeats / count
    if covered < 1:
        at = (np.arange(count) + 0.5) * covered - 0.5
        first = np.floor(at).astype(np.int64)
        part = (at - first).astype(np.float32).reshape(-1, *([1] * (source.ndim - 1)))
        made = source[first % n] + part * (source[(first + 1) % n] - source[first % n])
    else:
        summed = np.concatenate(
            [np.zeros_like(source[:1], np.float64), np.cumsum(source, axis=0, dtype=np.float64)]
        )
        ends = np.arange(count + 1) * covered
        turn, rest = np.divmod(ends, n)
        whole = np.minimum(rest.astype(np.int64), n - 1)
        part = (rest - whole).reshape(-1, *([1] * (source.ndim - 1)))
        at_ends = summed[whole] + part * (summed[whole + 1] - summed[whole])
        at_ends += turn.reshape(part.shape) * summed[-1]
        made = np.diff(at_ends, axis=0) / covered
    return np.ascontiguousarray(np.moveaxis(made, 0, axis), np.float32)


STRETCH = 2**17
"""Samples that are brought to another size between two looks at whether to stop."""


def resize_map(
    map: np.ndarray,
    width: int,
    height: int,
    repeats_u: float = 1,
    repeats_v: float = 1,
    check: Check = no_check,
) -> np.ndarray:
    """A map (h, w, ...) repeated and brought to (height, width, ...); `check` may raise `Cancelled`.

    Parameters
    ----------
    map : (h, w, ...) float32
    width, height : int
        Samples, after repeating.
    repeats_u, repeats_v : float
        How many times it is laid side by side, above 0.
    check : callable
        Called now and then; may raise `Cancelled`.

    Returns
    -------
    (height, width, ...) float32
    """
    rows, columns = map.shape[:2]
    more = map.shape[2:]
    wide = np.empty((rows, width, *more), np.float32)
    step = max(1, STRETCH // max(columns, width))
    for y in range(0, rows, step):
        check()
        wide[y : y + step] = resize_axis(map[y : y + step], width, repeats_u, 1)
    out = np.empty((height, width, *more), np.float32)
    step = max(1, STRETCH // max(rows, height))
    for x in range(0, width, step):
        check()
        out[:, x : x + step] = resize_axis(wide[:, x : x + step], height, repeats_v, 0)
    return out
