"""Blue noise on a tile: points that keep apart, in an order whose every beginning does so too.

Darts are thrown for a shrinking distance (after M. McCool and E. Fiume, *Hierarchical Poisson disk sampling
distributions*, 1992): all points kept at one distance come before those of the next. More points are
thus added to those there, and none of them moves.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import around

MOST_POINTS = 200_000
SHRINK = 0.93
"""How much nearer points may come from one round to the next."""
THROWS = 2.0
"""Darts a round, as a multiple of the points that fit."""
CHUNK = 100_000
"""Darts between two looks at the stop flag."""


class Listed(NamedTuple):
    """Points listed by the cell that holds them, to find those near a place.

    Attributes
    ----------
    heads : (rows, columns) int64
        The last point put into each cell, -1 for none.
    following : (n,) int64
        For each point the one put into its cell before it, -1 for none.
    us, vs : (n,) float64
        Where the points lie, 0 to 1.
    """

    heads: np.ndarray
    following: np.ndarray
    us: np.ndarray
    vs: np.ndarray


def scatter(
    seed: int, count: int, spacing: float, check: Callable[[], None], aspect: float = 1.0
) -> tuple[np.ndarray, np.ndarray]:
    """Points on the tile, none nearer to another than a distance around it.

    Parameters
    ----------
    count : int
        How many are wanted; fewer where no more fit.
    spacing : float
        The distance, in widths.
    check : callable
        Called now and then; raises to end the work.
    aspect : float
        The tile's height in widths.

    Returns
    -------
    u and v, each (N,) float64 within 0 to 1, in an order whose beginnings are evenly spread
    """
    u, v = np.empty(count), np.empty(count)
    found, thrown = 0, 0
    for radius in _rounds(spacing):
        if found >= count:
            break
        listed = Listed(_no_heads(1 / radius, aspect), np.empty(count, np.int64), u, v)
        fill_cells(listed, found)
        left = int(THROWS * aspect / radius**2) + 8
        while left > 0 and found < count:
            check()
            throws = min(left, CHUNK)
            found = throw_darts(seed, thrown, throws, radius, aspect, listed, found)
            thrown += throws
            left -= throws
    return u[:found], v[:found]


def _rounds(spacing: float) -> Iterator[float]:
    """The distances of the rounds, down to just the one asked for."""
    radius = 0.5
    while radius > max(spacing, 5e-4):
        yield radius
        radius *= SHRINK
    yield max(spacing, 5e-4)


def _no_heads(across: float, aspect: float) -> np.ndarray:
    """An empty table of cells no smaller than a distance of which so many go across the tile."""
    return np.full((max(1, int(across * aspect)), max(1, int(across))), -1, np.int64)


def thin_out(u: np.ndarray, v: np.ndarray, apart: float, aspect: float = 1.0) -> np.ndarray:
    """Which points to keep, so that none is nearer than `apart` to one kept before it: (N,) bool.

    Parameters
    ----------
    u, v : (N,) float64
        In tiles.
    apart : float
        In widths.
    aspect : float
        The tile's height in widths.

    Returns
    -------
    (N,) bool
    """
    heads = _no_heads(min(2048 / max(1.0, aspect), 1 / max(apart, 1e-6)), aspect)
    following = np.empty(max(1, len(u)), np.int64)
    listed = Listed(heads, following, np.ascontiguousarray(u), np.ascontiguousarray(v))
    kept = np.zeros(len(u), np.bool_)
    keep_apart(listed, apart, aspect, kept)
    return kept


@inlined
def _chance(seed, index):  # type: ignore[no-untyped-def]
    """A random value 0..1 from a seed and a number, by the finaliser of SplitMix64."""
    h = (np.uint64(seed) << np.uint64(32)) ^ np.uint64(index)
    h = (h + np.uint64(0x9E3779B97F4A7C15)) & np.uint64(0xFFFFFFFFFFFFFFFF)
    h = (h ^ (h >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    h = (h ^ (h >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    h = h ^ (h >> np.uint64(31))
    return np.float64(h >> np.uint64(11)) * 2.0**-53


@inlined
def _is_free(u, v, nearest, aspect, heads, following, us, vs):  # type: ignore[no-untyped-def]
    """Whether no point lies nearer than a distance whose square is given.

    The arrays are given one by one: to take them out of `Listed` for each dart would cost half its time.
    """
    rows, columns = heads.shape
    x = min(int(u * columns), columns - 1)
    y = min(int(v * rows), rows - 1)
    if not _is_cell_free(heads[y, x], u, v, nearest, aspect, following, us, vs):
        return False  # most often what is near is in the same cell
    few_rows, few_columns = rows <= 2, columns <= 2  # so few cells that each borders all others
    for j in range(rows if few_rows else 3):
        row = j if few_rows else around(y + j - 1, rows)
        for i in range(columns if few_columns else 3):
            column = i if few_columns else around(x + i - 1, columns)
            if not _is_cell_free(heads[row, column], u, v, nearest, aspect, following, us, vs):
                return False
    return True


@inlined
def _is_cell_free(at, u, v, nearest, aspect, following, us, vs):  # type: ignore[no-untyped-def]
    """Whether no point of a cell, the last of which is given, lies nearer than that."""
    while at >= 0:
        du = abs(us[at] - u)
        dv = abs(vs[at] - v)
        du = min(du, 1 - du)
        dv = min(dv, 1 - dv) * aspect
        if du * du + dv * dv < nearest:
            return False
        at = following[at]
    return True


@inlined
def _put(at, u, v, listed):  # type: ignore[no-untyped-def]
    heads, following = listed.heads, listed.following
    rows, columns = heads.shape
    x = min(int(u * columns), columns - 1)
    y = min(int(v * rows), rows - 1)
    following[at] = heads[y, x]
    heads[y, x] = at


@kernel
def fill_cells(listed, count):  # type: ignore[no-untyped-def]
    """List the first points by the cell that holds them."""
    for at in range(count):
        _put(at, listed.us[at], listed.vs[at], listed)


@kernel
def throw_darts(seed, start, throws, radius, aspect, listed, found):  # type: ignore[no-untyped-def]
    """Throw darts and keep those that are free; returns how many points there are now.

    Parameters
    ----------
    start, throws : int
        The first dart and how many.
    radius : float
        In widths.
    aspect : float
        The tile's height in widths.
    listed : Listed
        Those found are added.
    found : int
        How many points there are.

    Returns
    -------
    how many there are now
    """
    nearest = radius * radius
    heads, following, us, vs = listed
    for dart in range(start, start + throws):
        if found >= us.shape[0]:
            break
        u = _chance(seed, 2 * dart)
        v = _chance(seed, 2 * dart + 1)
        if _is_free(u, v, nearest, aspect, heads, following, us, vs):
            us[found], vs[found] = u, v
            _put(found, u, v, listed)
            found += 1
    return found


@kernel
def keep_apart(listed, apart, aspect, kept):  # type: ignore[no-untyped-def]
    """Mark the points that are free of those kept before them.

    Parameters
    ----------
    listed : Listed
        The points; those kept are put into its cells.
    apart : float
        In widths.
    aspect : float
        The tile's height in widths.
    kept : (N,) bool
        True is written for those kept.
    """
    heads, following, us, vs = listed
    for at in range(kept.shape[0]):
        u, v = us[at], vs[at]
        if _is_free(u, v, apart * apart, aspect, heads, following, us, vs):
            kept[at] = True
            _put(at, u, v, listed)
