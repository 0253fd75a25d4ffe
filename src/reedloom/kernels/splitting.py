"""Bands of noise, read several times in just those samples for which it is fine."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

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


@dataclass(frozen=True, slots=True)
class Band:
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
        spread = np.empty((along, len(y), across, 2), np.float32)
        spread_places(self.around, y + self.y0, x, spread)
        place = spread.reshape(1, -1, 2)

        def repeated(values: np.ndarray) -> np.ndarray:
            return np.broadcast_to(values[y, x][:, None], (along, len(y), across)).reshape(1, -1)

        footprint = repeated(self.footprint) * np.float32(0.5**splits)
        evolution = None if self.evolution is None else repeated(self.evolution)
        reach = float(footprint.min()), float(footprint.max())
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
    needed = np.empty(out.shape, np.uint8)
    count_reads(band.around, band.y0, band.footprint, tuple(fineness), needed)
    codes = needed.reshape(-1)
    order = np.argsort(codes, kind="stable")
    ends = np.cumsum(np.bincount(codes, minlength=CODES))
    if ends[0]:
        before = out.reshape(-1)[order[ends[0] :]]
        add(amount, out, band)
        out.reshape(-1)[order[ends[0] :]] = before
    for code in np.flatnonzero(np.diff(ends)) + 1:
        chosen = order[ends[code - 1] : ends[code]]
        splits, across, along = code >> 4, WAYS[code >> 2 & 3], WAYS[code & 3]
        for start in range(0, len(chosen), AT_ONCE):
            y, x = np.divmod(chosen[start : start + AT_ONCE], out.shape[1])
            few = band.some(y, x, int(splits), across, along)
            read = np.zeros(few.footprint.shape, np.float32)
            add(amount, read, few)
            out[y, x] += read.reshape(along, len(y), across).mean(axis=(0, 2), dtype=np.float32)


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
