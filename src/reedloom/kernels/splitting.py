"""Bands of noise, read several times in just those samples for which it is fine."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from reedloom.kernels.jit import kernel
from reedloom.kernels.places import CODES, FINE, WAYS, count_reads, spread_places, tile_places

AddBand = Callable[[float, np.ndarray, "Band"], None]
MOST_SPLITS = 2
"""How often a sample is cut into four."""
AT_ONCE = 4096
"""Samples that are read several times each, together."""
FAINT = 0.03
"""Octaves weaker than this are read once: what that changes cannot be seen."""


class Fineness(NamedTuple):
    """How fine a noise is.

    Attributes
    ----------
    columns, rows : float
        The finest that it holds, across and down the tile.
    finest : float
        The more of both, in a width.
    limit : float
        Samples that reach as far as this, in widths, are far above it.
    """

    columns: float
    rows: float
    finest: float
    limit: float


class Band(Struct, frozen=True):
    """The rows y0..y1 of a map of some size, with their own places, footprint and evolution.

    `around` holds the places of the whole map, for the steps to neighbouring samples; `least` and `most` are
    what its samples reach, in widths.
    """

    width: int
    height: int
    y0: int
    y1: int
    place: np.ndarray | None
    footprint: np.ndarray
    evolution: np.ndarray | None
    around: np.ndarray | None
    least: float
    most: float

    def places(self) -> np.ndarray:
        """The place of each sample of these rows: (n, W, 2)."""
        if self.place is not None:
            return self.place
        return tile_places(self.width, self.height, range(self.y0, self.y1))

    def split(self) -> Band:
        """The same rows of the tile's own grid with each sample cut into four."""
        rows = (2 * self.y0, 2 * self.y1)
        reach = self.least / 2, self.most / 2
        return Band(2 * self.width, 2 * self.height, *rows, None, self.footprint / 2, None, None, *reach)

    def some(self, y: np.ndarray, x: np.ndarray, splits: int, across: int, along: int) -> Band:
        """Some samples of these rows in one row, each read so many times across and down.

        Parameters
        ----------
        y, x : (k,) whole
            The samples, counted from the band's first row.
        splits : int
            How often each is cut in two, for what a reading reaches.
        across, along : int
            In how many places each is read, across and down.

        Returns
        -------
        Band of one row: (1, along × k × across)
        """
        assert self.around is not None
        shape = along, len(y), across
        spread = np.empty((*shape, 2), np.float32)
        spread_places(self.around, y + self.y0, x, spread)

        def repeated(values: np.ndarray, share: float = 1.0) -> np.ndarray:
            out = np.empty(shape, np.float32)
            repeat_some(values, y, x, np.float32(share), out)
            return out.reshape(1, -1)

        footprint = repeated(self.footprint, 0.5**splits)
        evolution = None if self.evolution is None else repeated(self.evolution)
        place, reach = spread.reshape(1, -1, 2), (float(footprint.min()), float(footprint.max()))
        return Band(self.width, self.height, self.y0, self.y1, place, footprint, evolution, None, *reach)


def add_where_fine(add: AddBand, amount: float, out: np.ndarray, band: Band, fineness: Fineness) -> None:
    """Add an octave, read several times where it is fine, and once elsewhere.

    Parameters
    ----------
    add : callable
        ``add(amount, out, band)`` adds it, read once in each sample of a band.
    amount : float
        What it is multiplied by.
    out : (n, W) float32
        The rows of the band.
    band : Band
    fineness : Fineness
        Of what is read.
    """
    if band.place is None:
        _add_split(add, amount, out, band, fineness.finest, 0)
    else:
        _add_placed(add, amount, out, band, fineness)


def _add_split(add: AddBand, amount: float, out: np.ndarray, band: Band, finest: float, splits: int) -> None:
    """Add an octave on the grid, read at four, or sixteen, places in each sample where it is fine."""
    per_sample = finest * band.most
    if per_sample <= FINE or splits == MOST_SPLITS or abs(amount) < FAINT:
        add(amount, out, band)
        return
    fine = np.zeros((2 * out.shape[0], 2 * out.shape[1]), np.float32)
    _add_split(add, amount, fine, band.split(), finest, splits + 1)
    add_fours(fine, 1, out)


def _add_placed(add: AddBand, amount: float, out: np.ndarray, band: Band, fineness: Fineness) -> None:
    """Add an octave at given places, read several times in just those samples for which it is fine.

    Places jump at the borders of elements, so that a band may hold a few samples for which an octave is
    fine, and others that it is far below: those are read once, which gives its mean.
    """
    assert band.around is not None
    if abs(amount) < FAINT or fineness.finest * band.most <= FINE:
        add(amount, out, band)
        return
    codes = np.empty(out.shape, np.uint8)
    count_reads(band.around, band.y0, band.footprint, tuple(fineness), codes)
    order, ends = in_order(codes, CODES)
    starts = np.concatenate([[0], ends[:-1]])
    if 2 * ends[0] > out.size:  # most are read once, and quicker by rows
        ys, xs = order[:, ends[0] :]
        before = out[ys, xs]
        add(amount, out, band)
        out[ys, xs] = before
        starts[0] = ends[0]
    for code in np.flatnonzero(starts < ends):
        splits, across, along = int(code) >> 4, WAYS[code >> 2 & 3], WAYS[code & 3]
        for start in range(starts[code], ends[code], AT_ONCE):
            ys, xs = order[:, start : min(start + AT_ONCE, ends[code])]
            few = band.some(ys, xs, splits, across, along)
            read = np.zeros((1, ys.size * across * along), np.float32)
            add(amount, read, few)
            put_means(read.reshape(along, -1, across), ys, xs, True, out)


def in_order(codes: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Samples in the order of their codes, those of one code as they lie.

    Parameters
    ----------
    codes : (n, W) uint8
        Below `count`.

    Returns
    -------
    order : (2, n W) int64
        The row and the column of each.
    ends : (count,) int64
        Where samples of each code end.
    """
    order, ends = np.empty((2, codes.size), np.int64), np.empty(count, np.int64)
    sort_codes(codes, order, ends)
    return order, ends


@kernel
def sort_codes(codes, order, ends):  # type: ignore[no-untyped-def]
    """Fill in what `in_order` gives.

    Parameters
    ----------
    codes : (n, W) uint8
    order : (2, n W) int64
    ends : (count,) int64
    """
    ends[:] = 0
    for y in range(codes.shape[0]):
        for x in range(codes.shape[1]):
            ends[codes[y, x]] += 1
    place = 0
    for code in range(ends.shape[0]):  # first where each begins, which then moves on to where it ends
        count = ends[code]
        ends[code] = place
        place += count
    for y in range(codes.shape[0]):
        for x in range(codes.shape[1]):
            at = ends[codes[y, x]]
            order[0, at], order[1, at] = y, x
            ends[codes[y, x]] = at + 1


@kernel
def repeat_some(values, ys, xs, share, out):  # type: ignore[no-untyped-def]
    """A share of the values of some samples, as often as each is read.

    Parameters
    ----------
    values : (n, W) float32
    ys, xs : (k,) int64
        The samples.
    share : float32
    out : (along, k, across) float32
        Filled.
    """
    for j in range(out.shape[0]):
        for k in range(out.shape[1]):
            value = values[ys[k], xs[k]] * share
            for i in range(out.shape[2]):
                out[j, k, i] = value


@kernel
def put_means(fine, ys, xs, added, out):  # type: ignore[no-untyped-def]
    """Put the means of what was read in some samples in their place, or add them to what is there.

    Parameters
    ----------
    fine : (along, k, across) float32
    ys, xs : (k,) int64
        The samples.
    added : bool
    out : (n, W) float32
    """
    along, across = fine.shape[0], fine.shape[2]
    share = np.float32(1.0 / (along * across))
    for k in range(fine.shape[1]):
        total = np.float32(0.0)
        for j in range(along):
            few = fine[j, k]
            if across == 4:  # most often; together, so that one sum need not wait for the one before it
                total += (few[0] + few[1]) + (few[2] + few[3])
            else:
                for i in range(across):
                    total += few[i]
        before = out[ys[k], xs[k]] if added else np.float32(0.0)
        out[ys[k], xs[k]] = before + total * share


def average_fours(fine: np.ndarray) -> np.ndarray:
    """Each 2×2 block's mean: (2n, 2W, ...) to (n, W, ...)."""
    out = np.zeros((fine.shape[0] // 2, fine.shape[1] // 2, *fine.shape[2:]), np.float32)
    lines = np.ascontiguousarray(fine, np.float32).reshape(len(fine), -1)
    add_fours(lines, math.prod(fine.shape[2:]), out.reshape(len(out), -1))
    return out


@kernel
def add_fours(fine, values, out):  # type: ignore[no-untyped-def]
    """Add each 2×2 block's mean to rows of a map: (2n, 2W values) to (n, W values), both contiguous."""
    for y in range(out.shape[0]):
        upper, lower, line = fine[2 * y], fine[2 * y + 1], out[y]
        if values == 1:  # its own loop, which becomes vectors
            for x in range(out.shape[1]):
                total = (upper[2 * x] + upper[2 * x + 1]) + (lower[2 * x] + lower[2 * x + 1])
                line[x] += total * np.float32(0.25)
            continue
        for x in range(out.shape[1]):
            left = x // values * 2 * values + x % values
            total = (upper[left] + upper[left + values]) + (lower[left] + lower[left + values])
            line[x] += total * np.float32(0.25)
