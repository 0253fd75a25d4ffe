"""Which points are joined: from each to the nearest left, and the least tree, around the tile."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel

AT_ONCE = 3_000_000
"""Pairs of points that are looked at before it is asked whether to stop."""


def nearest_order(u: np.ndarray, v: np.ndarray, aspect: float, check: Callable[[], None]) -> np.ndarray:
    """Points in an order in which each is followed by the nearest that is left: (n,) int64, from the first.

    Parameters
    ----------
    u, v : (n,) float64
        In widths.
    aspect : float
        The tile's height in widths.
    check : callable
        Raises when it is to stop.
    """
    order, left = np.zeros(len(u), np.int64), np.ones(len(u), np.bool_)
    for first, last in _rounds(len(u)):
        check()
        follow_nearest(u, v, aspect, order, left, first, last)
    return order


def _rounds(count: int) -> Iterator[tuple[int, int]]:
    """Rounds over all points, so many at a time that a stop is heard."""
    step = max(1, AT_ONCE // max(count, 1))
    return ((first, min(first + step, count)) for first in range(0, count, step))


def least_tree(
    u: np.ndarray, v: np.ndarray, aspect: float, longest: float, check: Callable[[], None]
) -> tuple[np.ndarray, np.ndarray]:
    """The tree that joins points by the least length in all, without joins longer than `longest`.

    R. C. Prim, *Shortest connection networks* (1957).

    Parameters
    ----------
    u, v : (n,) float64
        In widths.
    aspect : float
        The tile's height in widths.
    longest : float
        In widths.
    check : callable
        Raises when it is to stop.

    Returns
    -------
    order : (n,) int64
        The points, each after the one it hangs on.
    parent : (n,) int64
        Where in that order the one it hangs on is; -1 where none is near enough.
    """
    count = len(u)
    order, parent = np.zeros(count, np.int64), np.full(count, -1, np.int64)
    found = Growing(np.full(count, 1e300), np.full(count, -1, np.int64), np.ones(count, np.bool_))
    for first, last in _rounds(count):
        check()
        grow_least(u, v, aspect, longest, found, order, parent, first, last)
    return order, parent


class Growing(NamedTuple):
    """How far a least tree has grown, for each point: (n,) each.

    Attributes
    ----------
    away : float64
        The square of the way to the nearest point of the tree.
    near : int64
        Which that is, by its place in the order.
    left : bool
        Whether it is still to be reached.
    """

    away: np.ndarray
    near: np.ndarray
    left: np.ndarray


@inlined
def _apart(u, v, i, j, aspect):  # type: ignore[no-untyped-def]
    """The square of the way from one point to another."""
    du = u[i] - u[j]
    dv = v[i] - v[j]
    du -= np.floor(du + 0.5)
    dv -= aspect * np.floor(dv / aspect + 0.5)
    return du * du + dv * dv


@kernel
def follow_nearest(u, v, aspect, order, left, first, last):  # type: ignore[no-untyped-def]
    """See `nearest_order`.

    Parameters
    ----------
    u, v : (n,) float64
    aspect : float
    order : (n,) int64
        Filled from `first` to `last` - 1; the one after has its point, too.
    left : (n,) bool
        Which points are still to be reached.
    first, last : int
    """
    count = u.shape[0]
    for k in range(first, last):
        at = order[k]
        left[at] = False
        best, near = 1e300, -1
        for i in range(count):
            if left[i]:
                away = _apart(u, v, at, i, aspect)
                if away < best:
                    best, near = away, i
        if near >= 0:
            order[k + 1] = near


@kernel
def grow_least(u, v, aspect, longest, found, order, parent, first, last):  # type: ignore[no-untyped-def]
    """See `least_tree`.

    Parameters
    ----------
    u, v : (n,) float64
    aspect, longest : float
    found : Growing
    order, parent : (n,) int64
        Filled from `first` to `last` - 1; the order has the one after, too.
    first, last : int
    """
    count = u.shape[0]
    away, near, left = found
    for k in range(first, last):
        at = order[k]
        if near[at] >= 0 and away[at] <= longest * longest:
            parent[k] = near[at]
        left[at] = False
        for i in range(count):
            if left[i]:
                d = _apart(u, v, at, i, aspect)
                if d < away[i]:
                    away[i], near[i] = d, k
        best = 1e300
        for i in range(count):
            if left[i] and away[i] < best:
                best, order[k + 1] = away[i], i


@kernel
def hang_on(parent, du, dv, at_u, at_v):  # type: ignore[no-untyped-def]
    """Lay each point of a tree by its way from the one it hangs on, which comes before it.

    Parameters
    ----------
    parent : (n,) int64
    du, dv : (n,) float64
        The ways.
    at_u, at_v : (n,) float64
        Where points are; changed for those that hang on another.
    """
    for k in range(parent.shape[0]):
        p = parent[k]
        if p >= 0:
            at_u[k], at_v[k] = at_u[p] + du[k], at_v[p] + dv[k]
