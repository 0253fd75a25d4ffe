"""Lattice noise at given places, read several times in those samples for which an octave is fine.

Many samples of a row are read alike, so the row is read as a whole once for each place within a sample,
sixteen samples at a time. The readings of those that few are read like wait in a queue and are made together.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.lattice import LIMIT, add_row, row_form
from reedloom.kernels.lattice_lanes import AMOUNT
from reedloom.kernels.places import CODES, READ_ONCE, row_codes, row_ways, ways_of

AT_ONCE = 2048
"""Readings of samples that few are read like that are made together."""
RARE = 4
"""If more than one in so many samples of a row is read by a code, the row is gone through for that code: a
reading that waits costs as much as a row's look at so many samples."""


class Reads(NamedTuple):
    """Readings that wait to be made together, several of them for each of some samples.

    Attributes
    ----------
    pairs : (2 n,) float32
        Their places.
    reach : (n,) float32
        How far each reaches, in widths.
    sample : (n,) int32
        Where in its row the sample is that each belongs to.
    share : (n,) float32
        How much of that sample it is.
    value : (n,) float32
        For what is read.
    """

    pairs: np.ndarray
    reach: np.ndarray
    sample: np.ndarray
    share: np.ndarray
    value: np.ndarray


class Row(NamedTuple):
    """What is known of a row's samples.

    Attributes
    ----------
    right, down : (2 W,) float32
        From `places.row_ways`.
    code : (W,) uint8
        From `places.row_codes`.
    once : (W,) float32
        How far the only reading of a sample reaches, in widths; beyond the limit if there are several.
    part : (W,) float32
        How far each of several readings reaches; beyond the limit if there is but one.
    common : (W,) float32
        The same of those samples that are read by one code.
    pairs : (2 W,) float32
        Room for places.
    """

    right: np.ndarray
    down: np.ndarray
    code: np.ndarray
    once: np.ndarray
    part: np.ndarray
    common: np.ndarray
    pairs: np.ndarray


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
    finest = fineness[2]
    width = out.shape[1]
    reads = Reads(
        np.empty(2 * AT_ONCE, np.float32), np.empty(AT_ONCE, np.float32), np.empty(AT_ONCE, np.int32),
        np.empty(AT_ONCE, np.float32), np.empty(AT_ONCE, np.float32),
    )  # fmt: skip
    row = Row(
        np.empty(2 * width, np.float32), np.empty(2 * width, np.float32), np.empty(width, np.uint8),
        np.empty(width, np.float32), np.empty(width, np.float32), np.empty(width, np.float32),
        np.empty(2 * width, np.float32),
    )  # fmt: skip
    counts = np.empty(CODES, np.int64)
    form = row_form(corners, finest, amount)
    for y in range(out.shape[0]):
        here = place[y0 + y].reshape(-1)
        row_ways(place, y0 + y, row.right, row.down)
        row_codes(row.right, row.down, footprint[y], fineness, row.code)
        several = _part_row(row, footprint[y], fineness, counts)
        if several < width:
            form.numbers[AMOUNT] = amount
            add_row(corners, form, here, row.once, out[y])
        for code in range(CODES):
            if _are_many(counts, code, width):
                _add_common(corners, form, fineness[3], row, here, code, amount, out[y])
                several -= counts[code]
        if several:
            form.numbers[AMOUNT] = amount
            _add_others(corners, form, finest, reads, row, here, counts, out[y])


@inlined
def _are_many(counts, code, width):  # type: ignore[no-untyped-def]
    """Whether the row is gone through for a code."""
    return counts[code] * RARE >= width


@inlined
def _part_row(row, reach, fineness, counts):  # type: ignore[no-untyped-def]
    """Tell samples that are read once from others, and count these by their codes; how many they are."""
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
    counts[:] = 0
    several = 0
    for x in range(codes.shape[0]):
        code = codes[x]
        several += not (code == 0 or code & 15 == READ_ONCE)
        counts[code] += parts[x] != far
    return several


@inlined
def _add_common(corners, form, limit, row, here, code, amount, line):  # type: ignore[no-untyped-def]
    """Add the readings of those samples of a row that are read by one code."""
    right, down, codes, _, part, reach, pairs = row
    across, along = ways_of(code)
    far = np.float32(limit)
    for x in range(codes.shape[0]):
        reach[x] = part[x] if codes[x] == code else far
    form.numbers[AMOUNT] = amount / np.float32(across * along)
    for j in range(along):
        t = np.float32((j + 0.5) / along - 0.5)
        for i in range(across):
            s = np.float32((i + 0.5) / across - 0.5)
            for k in range(pairs.shape[0]):
                pairs[k] = here[k] + down[k] * t + right[k] * s
            add_row(corners, form, pairs, reach, line)


@inlined
def _add_others(corners, form, finest, reads, row, here, counts, line):  # type: ignore[no-untyped-def]
    """Add the readings of those samples that few in their row are read like."""
    filled, width = 0, row.code.shape[0]
    for x in range(row.code.shape[0]):
        code = row.code[x]
        if _are_many(counts, code, width) or finest * row.part[x] >= LIMIT:
            continue
        across, along = ways_of(code)
        if filled + across * along > AT_ONCE:
            _add_reads(corners, form, reads, filled, line)
            filled = 0
        share = np.float32(1 / (across * along))
        for j in range(along):
            t = np.float32((j + 0.5) / along - 0.5)
            u = here[2 * x] + row.down[2 * x] * t
            v = here[2 * x + 1] + row.down[2 * x + 1] * t
            for i in range(across):
                s = np.float32((i + 0.5) / across - 0.5)
                reads.pairs[2 * filled] = u + row.right[2 * x] * s
                reads.pairs[2 * filled + 1] = v + row.right[2 * x + 1] * s
                reads.reach[filled] = row.part[x]
                reads.sample[filled] = x
                reads.share[filled] = share
                filled += 1
    _add_reads(corners, form, reads, filled, line)


@kernel
def _add_reads(corners, form, reads, filled, line):  # type: ignore[no-untyped-def]
    """Make the readings that wait, and add each one's share to its sample."""
    reads.value[:filled] = 0.0
    add_row(corners, form, reads.pairs[: 2 * filled], reads.reach[:filled], reads.value[:filled])
    for k in range(filled):
        line[reads.sample[k]] += reads.share[k] * reads.value[k]
