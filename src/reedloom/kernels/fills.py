"""Fills closed paths around the tile: how much of each sample lies within, and within which path."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import kernel

LINES = 8
"""Lines across each row of samples along which paths are cut; along each line what is covered is exact."""
EVEN_ODD, WINDING = 0, 1


class Outlines(NamedTuple):
    """Closed paths in samples.

    Attributes
    ----------
    starts : (n + 1,) int64
        Where each begins among the corners, and where the last ends.
    x, y : (m,) float64
        Corners, from the border of the first sample; the last corner of each is its first.
    top, bottom : (n,) float64
        How far each reaches.
    """

    starts: np.ndarray
    x: np.ndarray
    y: np.ndarray
    top: np.ndarray
    bottom: np.ndarray


class Filled(NamedTuple):
    """What is filled in.

    Attributes
    ----------
    cover : (H, W) float32
        How much of each sample lies within any path.
    labels : (H, W) int32
        The last path that covers most of it, from 1; 0 for none.
    """

    cover: np.ndarray
    labels: np.ndarray


@kernel
def fill_rows(near, outlines, rule, filled, y0, y1):  # type: ignore[no-untyped-def]
    """Fill rows y0 to y1 with paths, one over the other.

    Parameters
    ----------
    near : (k,) int64
        The paths that reach these rows, in order.
    outlines : Outlines
    rule : int
        EVEN_ODD or WINDING, for paths that cross themselves.
    filled : Filled
    """
    starts, xs, ys, top, bottom = outlines
    cover, labels = filled
    height, width = cover.shape
    line = np.zeros(width, np.float32)
    for k in near:
        first, last = starts[k], starts[k + 1]
        cuts, ways = np.empty(last - first, np.float64), np.empty(last - first, np.int64)
        for y in range(y0, y1):
            low, high = width, -1
            whole = False
            # The row itself, and those a whole tile above and below it that the path reaches.
            turn = int(np.ceil((top[k] - y - 1) / height))
            while y + turn * height <= bottom[k]:
                for part in range(LINES):
                    at = y + turn * height + (part + 0.5) / LINES
                    count = 0
                    for c in range(first, last - 1):
                        above, below = ys[c], ys[c + 1]
                        if (above <= at) != (below <= at):
                            cuts[count] = xs[c] + (at - above) / (below - above) * (xs[c + 1] - xs[c])
                            ways[count] = 1 if below > above else -1
                            count += 1
                    order = np.argsort(cuts[:count])
                    wound = 0
                    for n in range(count - 1):
                        wound += ways[order[n]]
                        inside = n % 2 == 0 if rule == EVEN_ODD else wound != 0
                        if not inside:
                            continue
                        a, b = cuts[order[n]], cuts[order[n + 1]]
                        if b - a >= width:
                            whole = True
                        i, end = int(np.floor(a)), int(np.floor(b))
                        for x in range(i, end + 1):
                            share = min(b, x + 1.0) - max(a, float(x))
                            column = x % width
                            line[column] += np.float32(share / LINES)
                            low, high = min(low, column), max(high, column)
                turn += 1
            if high < 0:
                continue
            if whole:
                low, high = 0, width - 1
            for x in range(low, high + 1):
                share = min(line[x], np.float32(1))
                line[x] = 0
                if share > 0:
                    cover[y, x] += share * (np.float32(1) - cover[y, x])
                    if share >= np.float32(0.5):
                        labels[y, x] = k + 1
