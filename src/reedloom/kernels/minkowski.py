"""Distances by H. Minkowski's metric for a run of samples, of all metrics the one that takes longest."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined
from reedloom.kernels.quick import logarithm_of_two, power_of_two

INWARDS = np.array([4, 1, 3, 5, 7, 0, 2, 6, 8, *range(9, 25)], np.int32)
"""Numbers of the points of a cell and those around it, row by row and then farther out: its own first."""


@inlined
def compare_minkowski(k0, k1, power, found, run, measured, nearest):  # type: ignore[no-untyped-def]
    """Compare points with a run of samples, from the middle outwards and only where one may be nearer.

    Parameters
    ----------
    k0, k1 : int
        The first of the points, and the one after the last.
    power : (POWER,) float32
        The metric's, and the terms of `cell_lanes.root_terms`.
    found : four (25,) float32
        Where points lie, in u and v; what else is known of them is not looked at.
    run : (int, int)
        The first of the samples, and the one after the last.
    measured : three (n,) float32
        Where samples lie, in u and v; and room for distances.
    nearest : (n,) int32 and two (n,) float32
        Each sample's nearest point, its distance and the second nearest's: brought up to date.
    """
    u, v, away = measured
    which, first, second = nearest
    pu, pv, _, _ = found
    for number in range(k0, k1):
        k = INWARDS[number]
        a, b = _may_be_nearer((pu[k], pv[k]), run, u, v, second)
        measure_minkowski((pu[k], pv[k]), power, (a, b), u, v, away)
        for x in range(np.uint64(a), np.uint64(b)):
            d, f, s, i = away[x], first[x], second[x], which[x]
            first[x] = min(d, f)
            second[x] = min(s, max(d, f))
            nearer = d < f or (d == f and k < i)  # as if they came in their order
            which[x] = np.int32(k) if nearer else i


@inlined
def _may_be_nearer(point, run, u, v, so_far):  # type: ignore[no-untyped-def]
    """From where to where a point may be nearer than so far: Minkowski's is never below the longer way."""
    pu, pv = point
    begin, end = np.int32(run[1]), np.int32(run[0])
    none_begins, none_ends = begin, end
    for x in range(np.uint64(run[0]), np.uint64(run[1])):
        at, is_near = np.int32(x), max(abs(pu - u[x]), abs(pv - v[x])) < so_far[x]
        begin = min(begin, at if is_near else none_begins)
        end = max(end, at + np.int32(1) if is_near else none_ends)
    return begin, max(begin, end)


@inlined
def measure_minkowski(point, power, run, u, v, away):  # type: ignore[no-untyped-def]
    """How far a point is from a run of samples, a step a loop: all in one, they become no vectors.

    Parameters
    ----------
    point : (float32, float32)
    power, run, u, v, away
        As in `compare_minkowski`; `away` is filled.
    """
    pu, pv = point
    for x in range(np.uint64(run[0]), np.uint64(run[1])):
        du, dv = abs(pu - u[x]), abs(pv - v[x])
        away[x] = logarithm_of_two(min(du, dv) / max(du, dv, np.float32(1e-30)))
    exponent = power[0]
    for x in range(np.uint64(run[0]), np.uint64(run[1])):
        away[x] = power_of_two(exponent * away[x])
    a, b, c, d, e = power[1], power[2], power[3], power[4], power[5]
    f, g, h, i = power[6], power[7], power[8], power[9]
    for x in range(np.uint64(run[0]), np.uint64(run[1])):
        w = away[x] - np.float32(0.5)
        root = (((a * w + b) * w + c) * w + d) * w + e
        root = (((root * w + f) * w + g) * w + h) * w + i
        away[x] = max(abs(pu - u[x]), abs(pv - v[x])) * root
