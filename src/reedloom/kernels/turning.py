"""Lattice noise at given places where each sample has an evolution of its own, so that no slopes can be kept.

What a corner gives follows from its phase, how often it turns, and the sample's evolution. A row goes through
that a step a loop, each over few arrays, since only such loops become vectors: where its samples lie, then
corner after corner what is known of it and what it gives, and the mix of the four.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.lattice import faded, octave_weight
from reedloom.kernels.quick import cosine_of_turn, sine_of_turn

ABOVE_LEFT, ABOVE_RIGHT, BELOW_LEFT, BELOW_RIGHT = range(4)


class _Row(NamedTuple):
    """What is known of a row's samples.

    Attributes
    ----------
    u, v, across, along : (W,) float32
        Places in tiles, and where they lie in their cells.
    column, row : (W,) int32
        The cells.
    phase, turns : (W,) float32
        Of the corner that is looked at.
    """

    u: np.ndarray
    v: np.ndarray
    across: np.ndarray
    along: np.ndarray
    column: np.ndarray
    row: np.ndarray
    phase: np.ndarray
    turns: np.ndarray


@kernel
def add_turning_places(corners, is_value, finest, place, footprint, evolution, amount, out):  # type: ignore[no-untyped-def]
    """`add_lattice_places` where each sample has an evolution of its own.

    Parameters
    ----------
    corners : Corners
        With phases.
    is_value : bool
        Value noise rather than gradient noise.
    evolution : (n, W) float32
        In turns.
    finest, place, footprint, amount, out
        As in `add_lattice_places`.
    """
    phases, columns, rows, shift_u, shift_v, fade = corners
    n = out.shape[1]
    known, cells = np.empty((6, n), np.float32), np.empty((2, n), np.int32)
    given, weight = np.empty((4, n), np.float32), np.empty(n, np.float32)
    of_row = _Row(known[0], known[1], known[2], known[3], cells[0], cells[1], known[4], known[5])
    for y in range(out.shape[0]):
        most = _weigh(footprint[y], np.float32(finest), amount, weight)
        if most == 0.0:
            continue
        _split(place[y].reshape(-1), of_row.u, of_row.v)
        _locate(of_row.u, shift_u, columns, of_row.across, of_row.column)
        _locate(of_row.v, shift_v, rows, of_row.along, of_row.row)
        for corner in range(4):
            _look_up(phases, corner, columns, rows, of_row)
            beside, below = np.float32(corner & 1), np.float32(corner >> 1)
            if is_value:
                _give_values(of_row.phase, of_row.turns, evolution[y], given[corner])
            else:
                _give_slopes(of_row, beside, below, evolution[y], given[corner])
        _add_mixed(given, of_row.across, of_row.along, weight, fade, out[y])


@inlined
def _weigh(footprint, finest, amount, weight):  # type: ignore[no-untyped-def]
    """What each sample can carry of the octave, and the most of it in size."""
    most = np.float32(0.0)
    for x in range(weight.shape[0]):
        share = octave_weight(finest * footprint[x]) * amount
        weight[x] = share
        most = max(most, abs(share))
    return most


@inlined
def _split(pairs, u, v):  # type: ignore[no-untyped-def]
    for x in range(u.shape[0]):
        u[x], v[x] = pairs[2 * x], pairs[2 * x + 1]


@inlined
def _locate(places, shift, count, part, cell):  # type: ignore[no-untyped-def]
    """Find the cells of places along an axis, and where they lie in them.

    A place is brought into the tile first, so that no whole number need be divided.
    """
    last, whole = np.int32(count - 1), np.int32(count)
    for x in range(part.shape[0]):
        within = np.float64(places[x]) - np.float64(np.floor(places[x]))
        at = within * count + shift
        k = np.int32(at)
        part[x] = np.float32(at - k)
        k = np.int32(k - whole) if k > last else k
        cell[x] = max(min(k, last), np.int32(0))  # both ends, for places that are no numbers


@inlined
def _look_up(phases, corner, columns, rows, of_row):  # type: ignore[no-untyped-def]
    """What is known of one of the four corners about each sample."""
    high, wide = np.int32(phases.shape[0]), np.int32(phases.shape[1])
    beside, below = np.int32(corner & 1), np.int32(corner >> 1)
    flat = phases.reshape(-1)
    column, row, phase, turns = of_row.column, of_row.row, of_row.phase, of_row.turns
    across, down = np.int32(columns), np.int32(rows)
    for x in range(phase.shape[0]):
        i, j = column[x] + beside, row[x] + below
        i = np.int32(0) if i == across else i
        j = np.int32(0) if j == down else j
        if across > wide:
            i %= wide
        if down > high:
            j %= high
        at = np.uint64(2 * (np.int64(j) * wide + i))
        phase[x], turns[x] = flat[at], flat[at + np.uint64(1)]


@inlined
def _give_values(phase, turns, evolution, given):  # type: ignore[no-untyped-def]
    """What corners with values give."""
    half, one, two = np.float32(0.5), np.float32(1.0), np.float32(2.0)
    for x in range(given.shape[0]):
        t = phase[x] + two * turns[x] * evolution[x]
        given[x] = half - abs(t - two * np.floor(t * half) - one)


@inlined
def _give_slopes(of_row, beside, below, evolution, given):  # type: ignore[no-untyped-def]
    """What corners with slopes give to samples from which they lie so many cells to the right and down."""
    phase, turns, across, along = of_row.phase, of_row.turns, of_row.across, of_row.along
    for x in range(given.shape[0]):
        phase[x] += turns[x] * evolution[x]
    for x in range(given.shape[0]):
        given[x] = cosine_of_turn(phase[x]) * (across[x] - beside)
    for x in range(given.shape[0]):
        given[x] += sine_of_turn(phase[x]) * (along[x] - below)


@inlined
def _add_mixed(given, across, along, weight, fade, line):  # type: ignore[no-untyped-def]
    """Add the faded mix of what four corners gave."""
    above, below = given[ABOVE_LEFT], given[BELOW_LEFT]
    above_right, below_right = given[ABOVE_RIGHT], given[BELOW_RIGHT]
    for x in range(line.shape[0]):
        share = faded(across[x], fade)
        above[x] += share * (above_right[x] - above[x])
        below[x] += share * (below_right[x] - below[x])
    for x in range(line.shape[0]):
        line[x] += weight[x] * (above[x] + faded(along[x], fade) * (below[x] - above[x]))
