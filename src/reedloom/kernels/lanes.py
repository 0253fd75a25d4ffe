"""The innermost steps of resampling in LLVM's own vectors: sixteen places read at once.

A loop over scattered places compiles to a single load for each neighbour of each sample, or to gathers, which
many processors carry out more slowly still. Here a load takes neighbours that lie side by side; and where
samples lie in the source as in their row, but for a step each way, it takes those of sixteen samples. Memory
is asked for ahead of its use, since no processor foresees a bent row's way through the source: that alone was
measured to save a third of the time. Nothing is special to one processor: LLVM cuts the vectors to those
it has.

What keeps this module: a map of 2048² read at bent places between four samples takes about half of what
OpenCV's remap takes (the row "resampling at bent places" of the benchmarks: 1.9 times as fast on two cores).
Should a plain loop reach 1.5 times, or a library take as little, it goes away; and `lattice_lanes.py` with
it, unless noise at bent places would then take more than twice what it takes on the grid.

Both steps take the same arguments and leave samples that lie across the seam to their caller. source: (h × w
× channels) values in a row, of 1 or 3 channels and at least 4 × 4 samples; pairs: (2 × W) places u, v; line:
(W × channels) results; x: the first of the samples to read, int64; width, height, channels: of the source,
int32; opening: whether no row was read just before, boolean; ahead: how many samples on what comes soon lies,
int64. They answer with one bit a sample: 1 where its place lies across the seam, or is no number.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.vectors import LANES, TO_FIRST, TO_SECOND, Vectors

ROWS_AHEAD = 8
"""How many rows of the source are fetched before they are read."""

SAMPLES_AHEAD = 256
"""How many samples' places and results are fetched before they are reached, where whole rows are read."""

_EVERY = 2
"""One sample in this many fetches its part of the source: neighbours mostly share a line of the cache."""


@lowered
def read_linear(  # type: ignore[no-untyped-def]  # noqa: PLR0917
    b, source, pairs, line, x, width, height, channels, opening, ahead
):
    """Read samples x to x + 15 of a row between the four samples about their places.

    Parameters
    ----------
    source, pairs, line, x, width, height, channels, opening, ahead
        As the module says.

    Returns
    -------
    int32, one bit a sample
    """
    v = Vectors(b)
    run = _Run(v, (source, pairs, line), x, (width, height, channels), (opening, ahead), beside=0)
    with b.if_else(run.is_grey) as (grey, colour):
        with grey, run.in_order(1, _straight_linear) as scattered, scattered:
            top = v.mix(run.across, *v.neighbours(run.row(0), run.at))
            bottom = v.mix(run.across, *v.neighbours(run.row(1), run.at))
            b.store(v.mix(run.along, top, bottom), v.pointer(line, x), align=4)
        with colour, run.in_order(3, _straight_linear) as scattered, scattered:
            for lane in range(LANES):
                across, along = v.lane(run.across, lane), v.lane(run.along, lane)
                top, bottom = (v.mix(across, *v.pixels(run.row(row), run.at[lane])) for row in range(2))
                run.put(lane, v.mix(along, top, bottom))
    return run.across_seam


@lowered
def read_spline(  # type: ignore[no-untyped-def]  # noqa: PLR0917
    b, source, pairs, line, x, width, height, channels, opening, ahead
):
    """Read samples x to x + 15 of a row through Catmull-Rom splines over 4 × 4, held within the middle 2 × 2.

    Parameters
    ----------
    source, pairs, line, x, width, height, channels, opening, ahead
        As the module says.

    Returns
    -------
    int32, one bit a sample
    """
    v = Vectors(b)
    run = _Run(v, (source, pairs, line), x, (width, height, channels), (opening, ahead), beside=1)
    across, along = v.spline_weights(run.across), v.spline_weights(run.along)
    with b.if_else(run.is_grey) as (grey, colour):
        with grey, run.in_order(1, _straight_spline) as scattered, scattered:
            # Down before across: what comes of four rows is turned into columns once, not each row.
            downs = []
            for group in range(4):
                each = run.at[group::4]
                rows = [v.four_beside([v.four(run.row(row), at, 0) for at in each]) for row in range(4)]
                downs.append(_spline_down(v, [v.each_of(share, group) for share in along], rows))
            columns = zip(*(v.columns(list(part)) for part in zip(*downs, strict=True)), strict=True)
            b.store(_spline_across(v, across, list(columns)), v.pointer(line, x), align=4)
        with colour, run.in_order(3, _straight_spline) as scattered, scattered:
            for lane in range(LANES):
                shares = [v.lane(share, lane) for share in along]
                rows = [
                    [v.four(run.row(row), run.at[lane], 4 * third) for row in range(4)] for third in range(3)
                ]
                pixels = v.cut([v.weigh(shares, third) for third in rows])
                least = v.cut([v.lower(third[1], third[2]) for third in rows])
                most = v.cut([v.higher(third[1], third[2]) for third in rows])
                total = v.weigh([v.lane(share, lane) for share in across], pixels)
                run.put(lane, v.hold(total, least[1:3], most[1:3]))
    return run.across_seam


def _straight_linear(straight: _Straight) -> Any:
    v = straight.v
    rows = [[straight.load(row, column) for column in range(3)] for row in range(3)]
    mixed = [v.mix(straight.across, *straight.columns(row)) for row in rows]
    return v.mix(straight.along, *straight.rows(mixed))


def _straight_spline(straight: _Straight) -> Any:
    v = straight.v
    across, along = v.spline_weights(straight.across), v.spline_weights(straight.along)
    columns = [
        _spline_down(v, along, straight.rows([straight.load(row, column) for row in range(5)]))
        for column in range(5)
    ]
    parts = (straight.columns([column[part] for column in columns]) for part in range(3))
    return _spline_across(v, across, list(zip(*parts, strict=True)))


def _spline_down(v: Vectors, along: list[Any], rows: list[Any]) -> tuple[Any, Any, Any]:
    """A column's four samples weighed, and the lower and the higher of the middle two."""
    return v.weigh(along, rows), v.lower(rows[1], rows[2]), v.higher(rows[1], rows[2])


def _spline_across(v: Vectors, across: list[Any], columns: list[tuple[Any, Any, Any]]) -> Any:
    """Four columns weighed, and held within the middle four samples."""
    totals, least, most = (list(part) for part in zip(*columns, strict=True))
    return v.hold(v.weigh(across, totals), least[1:3], most[1:3])


class _Run:
    """Sixteen samples of a row: where in the source they lie, and what that asks of memory."""

    def __init__(self, v, arrays, x, shape, order, beside) -> None:  # type: ignore[no-untyped-def]
        b = v.b
        self.opening, ahead = order
        source, pairs, line = arrays
        self.width, self.height, channels = shape
        self.v, self.source, self.line, self.x, self.beside = v, source, line, x, beside
        u, v_place = v.load_pairs(pairs, x)
        self.column, self.across, in_width = v.cell_of(u, self.width, beside)
        self.down, self.along, in_height = v.cell_of(v_place, self.height, beside)
        self.inside = b.and_(in_width, in_height)
        self.across_seam = v.told(b.not_(self.inside))
        self.step = b.sext(b.mul(self.width, channels), v.long)
        self.channels = b.sext(channels, v.long)
        self.is_grey = b.icmp_signed("==", channels, v.int(1))
        self.at: list[Any] = []
        soon = b.add(x, ahead)
        v.fetch(pairs, [b.mul(soon, v.long(2)), b.add(b.mul(soon, v.long(2)), v.long(LANES))], TO_FIRST)
        v.fetch(line, [b.mul(soon, self.channels)], TO_FIRST)

    def row(self, number: int) -> Any:
        """The source from some rows further down."""
        b = self.v.b
        return b.gep(self.source, [b.mul(self.step, self.v.long(number))]) if number else self.source

    def put(self, lane: int, pixel: Any) -> None:
        """Write the first three values of a vector as a sample's colour."""
        b, v = self.v.b, self.v
        where = b.mul(b.add(self.x, v.long(lane)), v.long(3))
        colour = v.shuffle(pixel, pixel, range(3))
        b.store(colour, v.pointer(self.line, where, colour.type), align=4)

    @contextmanager
    def in_order(self, channels: int, read: Callable[[_Straight], Any]) -> Iterator[Any]:
        """Read samples in order by `read`; yields where to write how others are, of which `at` tells."""
        v, b = self.v, self.v.b
        start, right, lower, are_in_order = self._straight()
        with b.if_else(are_in_order) as (straight, scattered):
            with straight:
                first = b.mul(b.sext(start, v.long), v.long(channels))
                self._fetch([first, b.add(first, v.long(LANES * channels))])
                for part in range(channels):
                    values = read(_Straight(self, first, right, lower, part, channels))
                    where = b.add(b.mul(self.x, v.long(channels)), v.long(part * LANES))
                    b.store(values, v.pointer(self.line, where), align=4)
            yield self._scattered(scattered)

    @contextmanager
    def _scattered(self, place: Any) -> Iterator[None]:
        v, b = self.v, self.v.b
        with place:
            corner = b.add(b.mul(self.down, v.splat(self.width)), self.column)
            if self.beside:
                corner = b.sub(corner, v.splat(b.add(self.width, v.int(1))))
            corner = b.select(self.inside, corner, v.splat(v.int(0)))
            corner = b.mul(corner, v.splat(b.trunc(self.channels, v.int)))
            self.at = v.longs(corner)
            self._fetch(self.at[::_EVERY])
            yield

    def _straight(self) -> tuple[Any, Any, Any, Any]:
        """Whether samples lie in the source as in their row, but for one step each way; and where.

        Returns
        -------
        the first that is read of the source; which samples lie a step to the right; and which one down;
        and whether it is so
        """
        v, b = self.v, self.v.b
        columns = b.sub(self.column, v.ir.Constant(v.ints, list(range(LANES))))
        ends, apart = [], []
        for numbers in (columns, self.down):
            ends.append(v.lower_end(numbers))
            apart.append(b.sub(numbers, v.splat(ends[-1])))
        # Without their sign, those before the first are very large; samples across the seam are not meant.
        beyond = b.or_(*(b.icmp_unsigned(">", step, v.splat(v.int(1))) for step in apart))
        beyond = v.told(b.or_(beyond, b.not_(self.inside)))
        least, more = v.int(self.beside), v.int(2 + self.beside)
        (first, top) = ends
        fits = b.and_(b.icmp_signed(">=", first, least), b.icmp_signed(">=", top, least))
        last, bottom = b.add(first, b.add(more, v.int(LANES - 1))), b.add(top, more)
        fits = b.and_(fits, b.icmp_signed("<", last, self.width))
        fits = b.and_(fits, b.icmp_signed("<", bottom, self.height))
        fits = b.and_(fits, b.icmp_signed("==", beyond, v.int(0)))
        start = b.add(b.mul(b.sub(top, least), self.width), b.sub(first, least))
        right, lower = (b.icmp_signed("==", step, v.splat(v.int(1))) for step in apart)
        return start, right, lower, fits

    def _fetch(self, at: list[Any]) -> None:
        b, v = self.v.b, self.v
        with b.if_then(self.opening, likely=False):
            for rows in range(1, ROWS_AHEAD):
                v.fetch(self.row(rows), at, TO_SECOND)
        v.fetch(self.row(ROWS_AHEAD), at, TO_SECOND)


class _Straight:
    """Samples that lie in the source as in their row: sixteen numbers of them, one in so many channels."""

    def __init__(self, run: _Run, first: Any, right: Any, lower: Any, part: int, channels: int) -> None:
        v, b = run.v, run.v.b
        order = [(part * LANES + lane) // channels for lane in range(LANES)]
        self.v, self.run, self.channels = v, run, channels
        self.first = b.add(first, v.long(part * LANES))
        self.across, self.along, self.right, self.lower = (
            v.shuffle(values, values, order) for values in (run.across, run.along, right, lower)
        )

    def load(self, row: int, column: int) -> Any:
        """What lies some rows further down and columns further on."""
        v = self.v
        return v.load(self.run.row(row), v.b.add(self.first, v.long(column * self.channels)))

    def rows(self, values: list[Any]) -> list[Any]:
        """One less, for each sample from its own row on."""
        return [self.v.b.select(self.lower, *both) for both in zip(values[1:], values[:-1], strict=True)]

    def columns(self, values: list[Any]) -> list[Any]:
        """One less, for each sample from its own column on."""
        return [self.v.b.select(self.right, *both) for both in zip(values[1:], values[:-1], strict=True)]
