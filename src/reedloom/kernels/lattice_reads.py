"""Lattice noise at given places, read several times in those samples for which an octave is fine."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.lattice import LIMIT, add_row, read_place, row_form
from reedloom.kernels.lattice_lanes import AMOUNT, NUMBERS, TURNING_VALUES
from reedloom.kernels.places import READ_ONCE, row_codes, row_ways, ways_of
from reedloom.kernels.spread_lanes import add_spread, add_spread_around, spread_table

SPREAD = spread_table().reshape(-1)


class Row(NamedTuple):
    """What is known of a row's samples.

    Attributes
    ----------
    places : (3, 2 W) float32
        Places; and how far they move to the next sample, and to the next row, from `places.row_ways`.
    code : (W,) uint8
        From `places.row_codes`.
    once : (2 W,) float32
        How far the only reading of a sample reaches, in widths; beyond the limit if there are several. And
        then the evolution of each, where corners turn.
    part : (2 W,) float32
        The same for several readings; beyond the limit if there is but one.
    """

    places: np.ndarray
    code: np.ndarray
    once: np.ndarray
    part: np.ndarray


@kernel
def add_lattice_spread(corners, fineness, place, y0, footprint, amount, out):  # type: ignore[no-untyped-def]
    """`add_lattice_places`, read several times in those samples for which the octave is fine.

    Parameters
    ----------
    corners : Corners
        From `corners_at_places`.
    fineness : (columns, rows, finest, limit) floats
        As `count_reads` takes them.
    place : (H, W, 2) float32
        Of the whole map, in tiles.
    y0 : int
        The band's first row.
    footprint : (n, W) float32
        In widths.
    amount : float32
        What the octave is multiplied by.
    out : (n, W) float32
        The rows of one band.
    """
    width = out.shape[1]
    row = Row(
        np.empty((3, 2 * width), np.float32), np.empty(width, np.uint8),
        np.empty(2 * width, np.float32), np.empty(2 * width, np.float32),
    )  # fmt: skip
    form = row_form(corners, fineness[2], amount)
    numbers = np.empty(NUMBERS + SPREAD.shape[0], np.float32)
    numbers[:NUMBERS] = form.numbers
    numbers[NUMBERS:] = SPREAD
    for y in range(out.shape[0]):
        here = place[y0 + y].reshape(-1)
        for k in range(here.shape[0]):
            row.places[0, k] = here[k]
        row_ways(place, y0 + y, row.places[1], row.places[2])
        row_codes(row.places[1], row.places[2], footprint[y], fineness, row.code)
        if corners.gives >= TURNING_VALUES:
            for x in range(width):
                row.once[width + x] = row.part[width + x] = corners.evolution[y, x]
        several = _part_row(row, footprint[y], fineness)
        if several < width:
            add_row(corners, form, here, row.once, out[y])
        if several:
            _add_several(corners, form, numbers, row, out[y])


@inlined
def _part_row(row, reach, fineness):  # type: ignore[no-untyped-def]
    """Tell samples that are read once from others; how many these are."""
    _, _, finest, limit = fineness
    far = np.float32(limit)
    codes, onces, parts = row.code, row.once, row.part
    widest = np.float32(LIMIT / finest)  # beyond it nothing is left to read
    for x in range(codes.shape[0]):
        code = np.int32(codes[x])
        share = np.float32(0.5) if code >= np.int32(16) else np.float32(1)
        share = np.float32(0.25) if code >= np.int32(32) else share
        part = reach[x] * share
        is_one = (code == np.int32(0)) | (code & np.int32(15) == np.int32(READ_ONCE))
        onces[x] = part if is_one else far
        parts[x] = far if is_one | (part >= widest) else part
    several = 0
    for x in range(codes.shape[0]):
        code = codes[x]
        several += not (code == 0 or code & 15 == READ_ONCE)
    return several


@inlined
def _add_several(corners, form, numbers, row, line):  # type: ignore[no-untyped-def]
    """Add the readings of those samples of a row that are read several times."""
    counts, table, places = form.counts, corners.table.reshape(-1), row.places.reshape(-1)
    width = np.int64(line.shape[0])
    if counts[0] <= counts[2] and counts[1] <= counts[3]:
        add_spread(table, places, row.part, row.code, line, width, counts, numbers)
        return
    span = np.array([0, width], np.int64)
    while span[0] < width:
        x = add_spread_around(table, places, row.part, row.code, line, span, counts, numbers)
        if x < width:
            _add_one(corners, form, row, x, line)
        span[0] = x + 1


@inlined
def _add_one(corners, form, row, x, line):  # type: ignore[no-untyped-def]
    """Add the readings of one sample, one after the other."""
    across, along = ways_of(row.code[x])
    here, right, down = row.places[0], row.places[1], row.places[2]
    evolution = row.part[line.shape[0] + x]
    share = form.numbers[AMOUNT] / np.float32(across * along)
    for j in range(along):
        t = np.float32((j + 0.5) / along - 0.5)
        for i in range(across):
            s = np.float32((i + 0.5) / across - 0.5)
            u = here[2 * x] + right[2 * x] * s + down[2 * x] * t
            v = here[2 * x + 1] + right[2 * x + 1] * s + down[2 * x + 1] * t
            line[x] += share * read_place(corners, form, row.part[x], u, v, evolution)
