"""Two pictures over one another: the line along which they differ least, and the slopes of both joined."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import beside
from reedloom.kernels.quick import power_of_two
from reedloom.kernels.spectral import change_waves

MOST_RISE = 4.0
"""Deviations beyond which what rises higher costs no more."""
FAR = 1e18


@kernel
def fill_differences(first, second, out, y0, y1):  # type: ignore[no-untyped-def]
    """How far two pictures are apart, summed over their channels.

    Parameters
    ----------
    first, second : (H, W, channels) float32
    out : (H, W) float32
        Rows y0 to y1 are filled.
    """
    channels = first.shape[2]
    for y in range(y0, y1):
        a, b, line = first[y].reshape(-1), second[y].reshape(-1), out[y]
        for x in range(line.shape[0]):
            total = np.float32(0)
            for c in range(channels):
                total += abs(a[x * channels + c] - b[x * channels + c])
            line[x] = total


@kernel
def fill_rises(map, around, difference, sums, y0, y1):  # type: ignore[no-untyped-def]
    """How far a picture rises above what is around, and what tells how much that and differences usually are.

    Parameters
    ----------
    map : (H, W) float32
        Rows y0 to y1 are changed.
    around, difference : (H, W) float32
    sums : (3, H) float64
        Filled, for these rows: the sums of differences, of rises and of their squares.
    """
    for y in range(y0, y1):
        line, other, apart = map[y], around[y], difference[y]
        usual, rise, square = 0.0, 0.0, 0.0
        for x in range(line.shape[0]):
            line[x] -= other[x]
        for x in range(line.shape[0]):
            usual += apart[x]
            rise += line[x]
            square += np.float64(line[x]) * line[x]
        sums[0, y], sums[1, y], sums[2, y] = usual, rise, square


def solve_bends(
    size: tuple[int, int],
    bends: Callable[[int, int], np.ndarray],
    put: Callable[[int, int, np.ndarray], None],
    bands: Callable[..., None],
) -> None:
    """Find the picture around the tile that is bent as told, and whose mean is 0.

    Its rows are taken apart into waves; along columns each wave is the solution of a difference equation.
    After R. Hockney, *A fast direct solution of Poisson's equation using Fourier analysis* (1965).

    Parameters
    ----------
    size : (int, int)
        Rows and columns.
    bends : callable
        Rows y0 to y1, float32, of what the four neighbours of a sample are more than it, summed.
    put : callable
        Takes rows y0 to y1 of the picture.
    bands : callable
        Runs band functions to the end.
    """
    width = size[1]
    kept = width // 2 + 1
    bent = 2 - 2 * np.cos(2 * np.pi * np.arange(kept) / width)  # what a wave of 1 bends, and the other way
    roots = np.repeat((2 + bent - np.sqrt(bent * bent + 4 * bent)) / 2, 2)

    def unbend(waves: np.ndarray, which: slice) -> None:
        first, last, _ = which.indices(kept)
        if first == 0:
            waves[:, 0] = _level(waves[:, 0])
        unbend_columns(waves.view(np.float32), roots, 2 * max(first, 1), 2 * last)

    change_waves(size, kept, bends, unbend, put, bands, columns=AT_ONCE)


def _level(bends: np.ndarray) -> np.ndarray:
    """What is bent so along a line around the tile, and has the mean 0: (H,) complex."""
    down = 2 * np.cos(2 * np.pi * np.arange(len(bends)) / len(bends)) - 2
    down[0] = np.inf
    return np.fft.ifft(np.fft.fft(bends) / down)


AT_ONCE = 64
"""Waves that are solved together."""
ENOUGH = 23.0
"""Powers of e, minus this, that are lost in a number's rounding."""


@kernel
def unbend_columns(waves, roots, first, last):  # type: ignore[no-untyped-def]
    """Make columns of numbers those that are bent so around the tile.

    Bending is what two steps do, down and back, in each of which a number is itself less a share of the one
    before it. Each is undone row by row, from what it comes to after ever so many turns around the tile.

    Parameters
    ----------
    waves : (H, n) float32
        Columns `first` to `last` are changed.
    roots : (n,) float64
        The share, below 1 in these columns.
    first, last : int
    """
    height, n = waves.shape[0], max(last - first, 0)
    if n == 0:
        return
    root, turns, sums = roots[first:last], np.empty(n), np.zeros(n)
    longest = 0.0
    for k in range(n):
        turns[k] = 1.0 / (1.0 - root[k] ** height)
        longest = max(longest, root[k])
    enough = min(height, int(-ENOUGH / math.log(longest)) + 1)
    for y in range(enough):
        _sum_row(waves[height - enough + y, first:last], root, sums)
    for k in range(n):
        sums[k] *= turns[k]
    for y in range(height):
        row = waves[y, first:last]
        _sum_row(row, root, sums)
        for k in range(n):
            row[k] = sums[k]
    sums[:] = 0.0
    for y in range(enough):
        _add_row(waves[enough - 1 - y, first:last], root, sums)
    for k in range(n):
        sums[k] *= turns[k]
    for y in range(height):
        row = waves[height - 1 - y, first:last]
        _add_row(row, root, sums)
        for k in range(n):
            row[k] = sums[k]


@inlined
def _sum_row(row, root, sums):  # type: ignore[no-untyped-def]
    """A share of sums less a row."""
    for k in range(sums.shape[0]):
        sums[k] = root[k] * (sums[k] - row[k])


@inlined
def _add_row(row, root, sums):  # type: ignore[no-untyped-def]
    """A share of sums, and a row."""
    for k in range(sums.shape[0]):
        sums[k] = root[k] * sums[k] + row[k]


@kernel
def fill_costs(difference, rise, moved, numbers, y0, y1):  # type: ignore[no-untyped-def]
    """Make differences what a line costs there: little where pictures are alike, and where both are deep.

    Parameters
    ----------
    difference : (H, W) float32
        Rows y0 to y1 are changed.
    rise, moved : (H, W) float32
        How far both pictures rise above what is around.
    numbers : (3,) float32
        The usual difference, the usual rise, and how much it counts.
    """
    usual, spread, counts = numbers
    most, least = np.float32(MOST_RISE), np.float32(0.1)
    power = counts * np.float32(math.log2(math.e))
    for y in range(y0, y1):
        line, one, other = difference[y], rise[y], moved[y]
        for x in range(line.shape[0]):
            up = min(max(max(one[x], other[x]) / spread, -most), most)
            line[x] = (line[x] / usual + least) * power_of_two(power * up)


@kernel
def find_least_line(strip, line):  # type: ignore[no-untyped-def]
    """The line from the first row to the last that costs least, to the side by at most one a row.

    By dynamic programming (R. Bellman, 1957). It ends where it began, so that it closes around the tile.

    Parameters
    ----------
    strip : (rows, columns) float64
        What each place costs, above 0.
    line : (rows,) int64
        Filled with columns.
    """
    rows, n = strip.shape
    start = int(np.argmin(strip[0]))
    cost, before = np.full(n, FAR), np.full(n, FAR)
    came = np.zeros((rows, n), np.int8)
    cost[start] = strip[0, start]
    for y in range(1, rows):
        cost, before = before, cost
        for x in range(n):
            best, side = before[x - 1] if x > 0 else FAR, -1
            if before[x] < best:
                best, side = before[x], 0
            if x < n - 1 and before[x + 1] < best:
                best, side = before[x + 1], 1
            cost[x] = best + strip[y, x]
            came[y, x] = side
    at = start
    for back in range(rows):
        y = rows - 1 - back
        line[y] = at
        at = max(0, min(at + came[y, at], n - 1))


@inlined
def _step(firsts, seconds, shares):  # type: ignore[no-untyped-def]
    """What slopes of two pictures, each by its share between two samples, have more than the first one's."""
    along = np.float32(0.5) * (shares[0] + shares[1])
    return along * (seconds[1] - seconds[0] - (firsts[1] - firsts[0]))


@inlined
def _along(first, second, share, a, b):  # type: ignore[no-untyped-def]
    """`_step` from one sample of a row to another."""
    return _step((first[a], first[b]), (second[a], second[b]), (share[a], share[b]))


@kernel
def fill_bends(first, second, share, out, y0, y1):  # type: ignore[no-untyped-def]
    """How much more slopes of two pictures, each by its share, change at a sample than the first one's.

    Parameters
    ----------
    first, second, share : (H, W) float32
        The share is the second picture's, 0 to 1.
    out : (y1 - y0, W) float32
        Filled for rows y0 to y1.
    """
    height, width = share.shape
    for y in range(y0, y1):
        line = out[y - y0]
        for x in range(np.uint64(1), np.uint64(width - 1)):
            on = _along(first[y], second[y], share[y], x, x + np.uint64(1))
            line[x] = on - _along(first[y], second[y], share[y], x - np.uint64(1), x)
        for x in (0, width - 1):
            left, right = beside(x, width)
            on = _along(first[y], second[y], share[y], x, right)
            line[x] = on - _along(first[y], second[y], share[y], left, x)
        up, down = beside(y, height)
        for above, below, sign in ((up, y, -1.0), (y, down, 1.0)):
            upper, lower, weigh = first[above], first[below], np.float32(sign)
            over, under = second[above], second[below]
            share_over, share_under = share[above], share[below]
            for x in range(width):
                slope = _step((upper[x], lower[x]), (over[x], under[x]), (share_over[x], share_under[x]))
                line[x] += weigh * slope
