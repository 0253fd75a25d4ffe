"""Lattice noise at given places: a run of samples of one octave, sixteen at once or each by itself."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined
from reedloom.kernels.lattice import faded, swung
from reedloom.kernels.lattice_cells import SLOPES, TURNING_VALUES, VALUES
from reedloom.kernels.lattice_lanes import FADE, add_corners, add_corners_around, bits_at
from reedloom.kernels.quick import cosine_of_turn, sine_of_turn
from reedloom.kernels.vectors import LANES

LIMIT = 0.6
"""Octaves with so many cells a sample or more add nothing."""
COARSE = np.float32(0.03)
"""Up to so many cells in a sample what it carries is told to 2e-7 by the first term of its series."""
FAR = 4 * LIMIT
"""Cells in a sample from which nothing of an octave is read, though it were cut in four twice."""


@inlined
def octave_weight(cells_per_sample):  # type: ignore[no-untyped-def]
    """How much of an octave a sample can carry: 1 for coarse ones, 0 from LIMIT cells a sample.

    It follows the mean of the noise's spectrum under a box the size of a sample, so that a large
    map averaged down is the small map. Without branches, so that it becomes vectors.
    """
    q = min(np.float32(cells_per_sample), np.float32(1))
    p = np.float32(-0.65) * q * q  # from here on exp(p), to 5e-6
    soft = np.float32(1.0) + p * (
        np.float32(1.0) + p * (np.float32(1 / 2) + p * (np.float32(1 / 6) + p * np.float32(1 / 24)))
    )
    t = min(max(np.float32(10 * LIMIT) - np.float32(10) * q, np.float32(0)), np.float32(1))
    return soft * (t * t * (np.float32(3.0) - np.float32(2.0) * t))


@inlined
def are_coarse(finest, most):  # type: ignore[no-untyped-def]
    """Whether factors of what samples cover tell what they carry, since they reach so far at most."""
    return finest * most <= COARSE


@inlined
def set_factors(finest, amount, is_coarse, factors):  # type: ignore[no-untyped-def]
    """Factors of what tells what samples carry: of what they cover, or of what `lay_weights` lays.

    Parameters
    ----------
    finest : float32
        Cells in what reaches are measured by.
    amount : float32
        Of the octave.
    is_coarse : bool
        From `are_coarse`.
    factors : (3,) float32
        Filled; as `lattice_lanes.add_corners` takes them.
    """
    factors[0] = np.float32(0) if is_coarse else np.float32(1)
    factors[1] = amount * np.float32(-0.65) * (finest * finest) if is_coarse else np.float32(0)
    factors[2] = amount if is_coarse else np.float32(0)


@inlined
def lay_weights(finest, amount, reach, most, out):  # type: ignore[no-untyped-def]
    """What samples carry of an octave, times its amount.

    Parameters
    ----------
    finest : float32
        Cells in what reaches are measured by.
    amount : float32
    reach : (n,) float32
        What each sample covers.
    most : float32
        The most of them, or more.
    out : (n,) float32
        Filled.
    """
    if finest * most <= np.float32(0.5):
        # `octave_weight`, with the amount and its factors multiplied once.
        a = amount * np.float32(-0.65)
        b, c, d = a * np.float32(-0.65 / 2), a * np.float32(0.65**2 / 6), a * np.float32(-(0.65**3) / 24)
        for x in range(out.shape[0]):
            q = finest * reach[x]
            q *= q
            out[x] = amount + q * (a + q * (b + q * (c + q * d)))
        return
    for x in range(out.shape[0]):
        out[x] = amount * octave_weight(finest * reach[x])


@inlined
def add_run(wholes, numbers, octave, known, first, carried, factors, begin, line):  # type: ignore[no-untyped-def]
    """Add one octave to a run of samples.

    Parameters
    ----------
    wholes, numbers, octave
        As `lattice_lanes.add_corners` takes them.
    known, first, carried, factors, begin
        As there.
    line : (n,) float32
        Filled.
    """
    n, x, first = np.int64(line.shape[0]), np.int64(0), np.int64(first)
    if is_whole(wholes, octave):
        x = np.int64(add_corners(wholes, numbers, octave, known, first, carried, factors, begin, line, x, n))
    else:
        while x + LANES <= n:
            x = np.int64(
                add_corners_around(wholes, numbers, octave, known, first, carried, factors, begin, line, x, n)
            )
            if x + LANES <= n:
                _add_each(
                    wholes, numbers, octave, known, first, carried, factors, begin, line, (x, x + LANES)
                )
                x += LANES
    if x < n:
        _add_each(wholes, numbers, octave, known, first, carried, factors, begin, line, (x, n))


@inlined
def is_whole(wholes, octave):  # type: ignore[no-untyped-def]
    """Whether an octave's table has all of its corners."""
    return wholes[octave, 1] <= wholes[octave, 3] and wholes[octave, 2] <= wholes[octave, 4]


@inlined
def _add_each(  # type: ignore[no-untyped-def]  # noqa: PLR0917
    wholes, numbers, octave, known, first, carried, factors, begin, line, span
):
    """`add_run` from one sample to an end, one after the other."""
    n, x = line.shape[0], span[0]
    while x < span[1]:
        at, told = first + x, carried[x]
        weight = told * (told * factors[1] + factors[0]) + factors[2]
        if not np.isnan(begin):
            line[x] = begin
        if weight != 0:
            place = known[at], known[n + at], known[2 * n + at]
            line[x] += weight * read_place(wholes, numbers, octave, place)
        x += 1


@inlined
def read_place(wholes, numbers, octave, place):  # type: ignore[no-untyped-def]
    """One octave at a place in tiles, u, v and an evolution, which is looked at where corners turn only."""
    (u, v, evolution), table = place, wholes[octave, 0]
    wide, gives = wholes[octave, 5], wholes[octave, 6]
    i0, i1, fx = _corner(u, numbers[octave, 0], wholes[octave, 1], wholes[octave, 3])
    j0, j1, fy = _corner(v, numbers[octave, 1], wholes[octave, 2], wholes[octave, 4])
    gx, gy = fx - np.float32(1.0), fy - np.float32(1.0)
    a = _given(table, j0 * wide + i0, gives, evolution, fx, fy)
    b = _given(table, j0 * wide + i1, gives, evolution, gx, fy)
    c = _given(table, j1 * wide + i0, gives, evolution, fx, gy)
    d = _given(table, j1 * wide + i1, gives, evolution, gx, gy)
    wx, wy = faded(fx, numbers, octave, FADE), faded(fy, numbers, octave, FADE)
    top, bottom = a + wx * (b - a), c + wx * (d - c)
    return top + wy * (bottom - top)


@inlined
def _number(table, index):  # type: ignore[no-untyped-def]
    """A number of a table at an address."""
    return np.int32(bits_at(np.int64(table), np.int64(index))).view(np.float32)


@inlined
def _given(table, corner, gives, evolution, x, y):  # type: ignore[no-untyped-def]
    """What a corner gives at (x, y) from it."""
    if gives == VALUES:
        return _number(table, corner)
    first, second = _number(table, 2 * corner), _number(table, 2 * corner + 1)
    if gives == SLOPES:
        return first * x + second * y
    if gives == TURNING_VALUES:
        return swung(first, second, evolution)
    turn = first + second * evolution
    return cosine_of_turn(turn) * x + sine_of_turn(turn) * y


@inlined
def _corner(place, shift, count, table):  # type: ignore[no-untyped-def]
    """The two corners beside a place along one axis, and where it lies between them.

    The place is brought into the tile first, so that no whole number need be divided.
    """
    whole = np.int32(place)
    whole = whole - np.int32(1) if place < np.float32(whole) else whole
    at = (np.float64(place) - whole) * count + shift
    cell = np.int32(at)
    part = np.float32(at - cell)
    first = cell - np.int32(count) if cell >= count else cell
    first = max(min(first, np.int32(count - 1)), np.int32(0))  # both ends, for places that are no numbers
    second = first + np.int32(1) if first < count - 1 else np.int32(0)
    if count > table:
        return first % table, second % table, part
    return first, second, part
