"""Which points are joined: from each to the nearest left, and the least tree, around the tile."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel


def nearest_order(u: np.ndarray, v: np.ndarray, aspect: float) -> np.ndarray:
    """Points in an order in which each is followed by the nearest that is left: (n,) int64, from the first.

    u, v : (n,) float64, in widths; aspect : the tile's height in widths
    """
    order = np.zeros(len(u), np.int64)
    follow_nearest(u, v, aspect, order)
    return order


def least_tree(u: np.ndarray, v: np.ndarray, aspect: float, longest: float) -> tuple[np.ndarray, np.ndarray]:
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

    Returns
    -------
    order : (n,) int64
        The points, each after the one it hangs on.
    parent : (n,) int64
        Where in that order the one it hangs on is; -1 where none is near enough.
    """
    count = len(u)
    order, parent = np.zeros(count, np.int64), np.full(count, -1, np.int64)
    grow_least(u, v, aspect, longest, order, parent)
    return order, parent


@inlined
def _apart(u, v, i, j, aspect):  # type: ignore[no-untyped-def]
    """The square of the way from one point to another."""
    du = u[i] - u[j]
    dv = v[i] - v[j]
    du -= np.floor(du + 0.5)
    dv -= aspect * np.floor(dv / aspect + 0.5)
    return du * du + dv * dv


@kernel
def follow_nearest(u, v, aspect, order):  # type: ignore[no-untyped-def]
    """See `nearest_order`.

    Parameters
    ----------
    u, v : (n,) float64
    aspect : float
    order : (n,) int64
        Filled.
    """
    count = u.shape[0]
    left = np.ones(count, np.bool_)
    at = 0
    for k in range(count):
        order[k] = at
        left[at] = False
        best, near = 1e300, -1
        for i in range(count):
            if left[i]:
                away = _apart(u, v, at, i, aspect)
                if away < best:
                    best, near = away, i
        at = near


@kernel
def grow_least(u, v, aspect, longest, order, parent):  # type: ignore[no-untyped-def]
    """See `least_tree`.

    Parameters
    ----------
    u, v : (n,) float64
    aspect, longest : float
    order, parent : (n,) int64
        Filled.
    """
    count = u.shape[0]
    away = np.full(count, 1e300)
    near = np.full(count, -1, np.int64)
    left = np.ones(count, np.bool_)
    at = 0
    for k in range(count):
        order[k] = at
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
                best, at = away[i], i


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
