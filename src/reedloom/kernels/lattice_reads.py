"""Sums of lattice noise at given places, each sample read as often as an octave is fine there.

What samples reach, where they lie, what each carries and how often it is read is found for a short run of
them, and all octaves are added before the next run, so that all of it stays in the processor's nearest cache.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.lattice_places import (
    FAR,
    add_run,
    are_coarse,
    is_whole,
    lay_weights,
    octave_weight,
    read_place,
    set_factors,
)
from reedloom.kernels.place_lanes import LEAST_REACH, lay_beside
from reedloom.kernels.places import FINE, READ_ONCE, in_tile, lay_ways, row_codes, ways_of
from reedloom.kernels.reach import AHEAD, begin_runs, ends_of, lay_run, measure_run
from reedloom.kernels.spread_lanes import add_spread, add_spread_around
from reedloom.kernels.vectors import LANES, lined

RUN = 2048
"""Samples that are gone through together."""
DONE = -1
NOT_GIVEN = np.zeros((0, 0), np.float32)
"""The reaches of samples that are to be measured, or the evolutions of samples that all have the same."""


class Octaves(NamedTuple):
    """Octaves of a sum, k of them.

    Attributes
    ----------
    wholes : (k, WHOLES) int64
    numbers : (k, NUMBERS) float32
        As `lattice_lanes.add_corners` takes both; with an address of 0 while a table is not made.
    finenesses : (k, 4) float64
        As `places.row_codes` takes them; with a limit of 0 where samples are read once however fine it is.
    amounts : (k,) float32
        What each is multiplied by.
    """

    wholes: np.ndarray
    numbers: np.ndarray
    finenesses: np.ndarray
    amounts: np.ndarray


class Places(NamedTuple):
    """Where octaves are read.

    Attributes
    ----------
    place : (H, W, 2) float32
        In tiles.
    y0 : int
        The band's first row.
    aspect : float32
        The tile's height in widths.
    reach : (n, W) float32
        What each sample of the band covers, in widths; NOT_GIVEN to have it measured.
    evolution : (n, W) float32
        Of each sample, where corners turn; else NOT_GIVEN.
    beside : (2,) float32
        Samples with a reach given are read so much of it away, along u and v.
    """

    place: np.ndarray
    y0: int
    aspect: np.float32
    reach: np.ndarray
    evolution: np.ndarray
    beside: np.ndarray


@kernel
def lay_octaves(octaves, places, begin, start, out):  # type: ignore[no-untyped-def]
    """Lay octaves in rows of a map, until one is come to whose table is not made.

    Parameters
    ----------
    octaves : Octaves
    places : Places
    begin : float32
        What they are added to; no number for what is there.
    start : (2,) int64
        The first column and row to be done, which afterwards is where to go on; runs of all rows are done
        below one another.
    out : (1, n, W) or (k, n, W) float32
        The rows of one band: the sum, or each octave in its own.

    Returns
    -------
    int, the octave whose table is missing, or DONE
    """
    wholes, numbers, finenesses, amounts = octaves
    place, y0, aspect, reaches, evolution, shares = places
    all_places, rows, width, apart = place.reshape(-1), out.shape[1], out.shape[2], out.shape[0] > 1
    shape = place.shape[0], width
    measures, f = reaches.shape[0] == 0, np.float32
    while start[0] < width:
        x, n = start[0], min(RUN, width - start[0])
        # What is known of a run has arrays of its own, and none are put together in a record: to take one
        # out, or a part of one, waits for all that is being written, as long as some hundred samples take.
        known, part, down, reach, weights = lined(6 * n), lined(2 * n), lined(2 * n), lined(n), lined(n)
        sides, ends = np.array([0.0, 0.0, aspect], f), np.empty(2 * LANES, np.int32)
        factors, ways, code = np.empty(3, f), np.empty(6 * n, f), np.empty(n, np.uint8)
        bits = reach.view(np.int32)
        if measures:
            where = y0 + start[1], shape, x, start[1] & 1
            begin_runs(all_places, where, known, 3 * n, sides, down, reach, ends)
        for y in range(start[1], rows):
            start[1] = y
            row, here = y0 + y, 3 * n * (y & 1)
            if evolution.shape[0]:
                for k in range(np.uint64(n)):
                    known[np.uint64(here + 2 * n) + k] = evolution[y, np.uint64(x) + k]
                    part[np.uint64(n) + k] = evolution[y, np.uint64(x) + k]
            if measures:
                where = row, shape, x, y & 1
                least, most = measure_run(all_places, where, known, 3 * n, sides, down, reach, ends)
            else:
                for k in range(np.uint64(n)):
                    reach[k] = reaches[y, np.uint64(x) + k]
                _lay_run_beside(all_places, row * width + x, AHEAD * width, reach, shares, known, here)
                least, most = ends_of(bits)
            for k in range(amounts.shape[0]):
                if finenesses[k, 2] * least < FAR and wholes[k, 0] == 0:
                    return k
            has_ways = False
            for k in range(amounts.shape[0]):
                line = out[k if apart else 0, y, x : x + n]
                start_with = begin if k == 0 or apart else f(np.nan)
                finest, limit, several = finenesses[k, 2], finenesses[k, 3], 0
                reads, is_coarse = finest * least < FAR, are_coarse(f(finest), most)
                is_fine = not finest * most <= FINE and limit > 0  # told so that no number counts as fine
                if reads and is_fine:
                    if not has_ways:
                        lay_ways(place, row, x, ways)
                        _move_beside(reach, shares, ways)
                        has_ways = True
                    fineness = (finenesses[k, 0], finenesses[k, 1], finest, limit)
                    several = _part_run(ways, reach, fineness, amounts[k], weights, part, code)
                elif reads and not is_coarse:
                    lay_weights(f(finest), amounts[k], reach, most, weights)
                if reads and several < n:
                    carried = reach if is_coarse else weights
                    set_factors(f(finest), amounts[k], is_coarse, factors)
                    add_run(wholes, numbers, k, known, here, carried, factors, start_with, line)
                elif not np.isnan(start_with):
                    for i in range(n):
                        line[i] = start_with
                if several:
                    _add_several(wholes, numbers, k, ways, part, code, line)
        start[0], start[1] = x + n, 0
    return DONE


@inlined
def _lay_run_beside(places, first, ahead, reach, shares, known, into):  # type: ignore[no-untyped-def]
    """`reach.lay_run` of places by shares of what each sample covers beside those given."""
    across, down, n = shares[0], shares[1], reach.shape[0]
    if across == 0 and down == 0:
        lay_run(places, first, ahead, known, into, n)
        return
    starts = np.int64(first), np.int64(ahead)
    x = np.int64(lay_beside(places, *starts, reach, known, np.int64(into), np.int64(n), shares))
    while x < n:
        step = max(reach[x], np.float32(LEAST_REACH))
        known[into + x] = in_tile(places[2 * (first + x)] + step * across)
        known[into + n + x] = in_tile(places[2 * (first + x) + 1] + step * down)
        x += 1


@inlined
def _move_beside(reach, shares, ways):  # type: ignore[no-untyped-def]
    """Move the places of `lay_ways` in the same way."""
    for c in range(2):
        if shares[c] != 0:
            for x in range(reach.shape[0]):
                ways[2 * x + c] += max(reach[x], np.float32(LEAST_REACH)) * shares[c]


@inlined
def _part_run(ways, reach, fineness, amount, weights, part, code):  # type: ignore[no-untyped-def]
    """Tell what samples carry that are read once, and what others do; how many these are."""
    row_codes(ways, reach, fineness, code)
    n = code.shape[0]
    finest = fineness[2]
    for x in range(n):
        told = np.int32(code[x])
        share = np.float32(0.5) if told >= np.int32(16) else np.float32(1)
        share = np.float32(0.25) if told >= np.int32(32) else share
        part[x] = amount * octave_weight(np.float32(finest) * (reach[x] * share))
    several = 0
    for x in range(n):
        told = np.int32(code[x])
        is_one = (told == np.int32(0)) | (told & np.int32(15) == np.int32(READ_ONCE))
        weights[x] = part[x] if is_one else np.float32(0)
        part[x] = np.float32(0) if is_one else part[x]
    for x in range(n):
        told = code[x]
        several += not (told == 0 or told & 15 == READ_ONCE)
    return several


@inlined
def _add_several(wholes, numbers, octave, ways, part, code, line):  # type: ignore[no-untyped-def]
    """Add the readings of those samples of a run that are read several times."""
    n = np.int64(line.shape[0])
    if is_whole(wholes, octave):
        add_spread(wholes, numbers, octave, ways, part, code, line, n)
        return
    span = np.array([0, n], np.int64)
    while span[0] < n:
        x = add_spread_around(wholes, numbers, octave, ways, part, code, line, span)
        if x < n:
            _add_one(wholes, numbers, octave, ways, part, code, x, line)
        span[0] = x + 1


@inlined
def _add_one(wholes, numbers, octave, ways, part, code, x, line):  # type: ignore[no-untyped-def]
    """Add the readings of one sample, one after the other."""
    if part[x] == 0:
        return
    n = line.shape[0]
    across, along = ways_of(code[x])
    evolution, share = part[n + x], part[x] / np.float32(across * along)
    right, down = 2 * (n + x), 2 * (2 * n + x)
    for j in range(along):
        t = np.float32((j + 0.5) / along - 0.5)
        for i in range(across):
            s = np.float32((i + 0.5) / across - 0.5)
            u = ways[2 * x] + ways[right] * s + ways[down] * t
            v = ways[2 * x + 1] + ways[right + 1] * s + ways[down + 1] * t
            line[x] += share * read_place(wholes, numbers, octave, (u, v, evolution))
