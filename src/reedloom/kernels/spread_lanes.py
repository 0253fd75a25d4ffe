"""Lattice noise read at several places within a sample, in LLVM's own vectors: sixteen readings at once.

A vector holds all readings of one sample, or of four samples beside one another that are read at up to four
places each: so they lie in a few cells beside one another, however fine the octave is.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from reedloom.kernels.jit import lowered
from reedloom.kernels.lattice_cells import KINDS
from reedloom.kernels.lattice_lanes import Into, Lattice, read_lattice
from reedloom.kernels.places import WAYS
from reedloom.kernels.vectors import LANES, Vectors

FEW = 4
"""Places up to which four samples are read together."""


def spread_table() -> np.ndarray:
    """Where in a sample each lane reads, for each of 16 codes: (16, 4, 16) float32.

    Across and down for readings of one sample, the outermost first; and the same where a sample has four.
    """
    table = np.zeros((16, 4, LANES), np.float32)
    for code in range(16):
        across, down = WAYS[code >> 2], WAYS[code & 3]
        places = [
            ((i + 0.5) / across - 0.5, (j + 0.5) / down - 0.5) for j in range(down) for i in range(across)
        ]
        places.sort(key=lambda place: -abs(place[0]) - abs(place[1]))
        for lane in range(LANES):
            table[code, :2, lane] = places[lane % len(places)]
            table[code, 2:, lane] = places[lane % FEW % len(places)]
    return table


@lowered
def add_spread(b, wholes, numbers, octave, places, part, codes, line, end):  # type: ignore[no-untyped-def]
    """Add an octave to the samples of a row that are read several times.

    Parameters
    ----------
    wholes, numbers, octave
        As `lattice_lanes.add_corners` takes them.
    places : (3 × 2 × W) float32
        Places u, v in tiles; how far they move from one sample to the next; and from one row to the next.
    part : (W) float32, or (2 × W)
        What each sample carries of the octave, times its amount; 0 for samples that are not meant. And then
        the evolution of each, where corners turn.
    codes : (W) uint8
        From `places.row_codes`.
    line : (W) float32
        Added to.
    end : int64
        W.

    Returns
    -------
    int32, `end`
    """
    v = Vectors(b)
    lattice = Lattice.of(v, wholes, numbers, octave, around=False)
    return _Row(v, lattice, places, part, codes, line).add(v.long(0), end)


@lowered
def add_spread_around(b, wholes, numbers, octave, places, part, codes, line, x):  # type: ignore[no-untyped-def]
    """`add_spread` from a sample on, of a lattice that has more cells than its table, which it repeats.

    Parameters
    ----------
    wholes, numbers, octave, places, part, codes, line
        As there.
    x : (2,) int64
        The first sample, and W.

    Returns
    -------
    int32, the end; or a sample before which all were read, and of which some readings lie in the last cell of
    a lattice that does not end with its table
    """
    v = Vectors(b)
    start, end = v.numbers(x, 2)
    lattice = Lattice.of(v, wholes, numbers, octave, around=True)
    return _Row(v, lattice, places, part, codes, line).add(start, end)


class _Row:
    """The samples of a row, and how they are gone through."""

    def __init__(self, v, lattice, places, part, codes, line) -> None:  # type: ignore[no-untyped-def]
        self.v, self.lattice, self.places = v, lattice, places
        self.part, self.codes, self.line = part, codes, line
        self.spread = v.table(spread_table().reshape(-1), "spread")
        self.end: Any = None
        self.leave: Any = None

    def add(self, start: Any, end: Any) -> Any:
        """Add all readings; the sample that was come to."""
        v, b = self.v, self.v.b
        before, self.end = b.block, end
        head, body, self.leave = (b.append_basic_block(name) for name in ("samples", "some", "read"))
        b.branch(head)
        b.position_at_end(head)
        x = b.phi(v.long)
        x.add_incoming(start, before)
        b.cbranch(b.icmp_signed("<", x, end), body, self.leave)
        b.position_at_end(body)
        code = b.zext(b.load(b.gep(self.codes, [x])), v.int)
        with b.if_else(self._are_few(x, code)) as (few, one):
            with few:
                self._add(x, code, FEW)
                few_end = b.block
            with one:
                self._add(x, code, 1)
                one_end = b.block
        count = b.phi(v.long)
        count.add_incoming(v.long(FEW), few_end)
        count.add_incoming(v.long(1), one_end)
        x.add_incoming(b.add(x, count), b.block)
        b.branch(head)
        b.position_at_end(self.leave)
        return b.trunc(x, v.int)

    def _are_few(self, x: Any, code: Any) -> Any:
        """Whether four samples from x on are read alike, in up to four places each."""
        v, b = self.v, self.v.b
        fits = b.icmp_signed("<=", b.add(x, v.long(FEW)), self.end)
        start = b.select(fits, x, v.long(0))
        four = b.load(b.bitcast(b.gep(self.codes, [start]), v.int.as_pointer()), align=1)
        alike = b.icmp_signed("==", four, b.mul(code, v.int(0x01010101)))
        few = sum(1 << code for code in range(16) if WAYS[code >> 2] * WAYS[code & 3] <= FEW)
        is_few = b.trunc(b.lshr(v.int(few), b.and_(code, v.int(15))), v.flag)
        return b.and_(fits, b.and_(alike, is_few))

    def _add(self, x: Any, code: Any, samples: int) -> None:
        """Add the readings of one sample, or of four."""
        v, b = self.v, self.v.b
        order = [lane * samples // LANES for lane in range(LANES)]

        def spread(array: Any, at: Any, every: int, first: int) -> Any:
            """A number of each sample, in the lanes of its readings."""
            if samples == 1:
                return v.splat(b.load(b.gep(array, [b.add(at, v.long(first))])))
            kind = v.ir.VectorType(v.single, every * samples)
            numbers = b.load(v.pointer(array, at, kind), align=4)
            return v.shuffle(numbers, numbers, [every * sample + first for sample in order])

        weight = spread(self.part, x, 1, 0)
        with b.if_then(v.any_shows(weight)):
            row = b.add(b.mul(b.zext(b.and_(code, v.int(15)), v.long), v.long(4)), v.long(2 * (samples > 1)))
            where = b.mul(row, v.long(LANES))
            across, down = (v.load(self.spread, b.add(where, v.long(n * LANES))) for n in (0, 1))
            starts = [b.mul(b.add(x, b.mul(self.end, v.long(line))), v.long(2)) for line in range(3)]
            place = []
            for axis in (0, 1):
                here, right, below = (spread(self.places, start, 2, axis) for start in starts)
                at = v.all_of("fmuladd", down, below, here)
                place.append(v.within(v.all_of("fmuladd", across, right, at)))
            ends = (0, 1, 2, 3) if samples == 1 else (0, 1, 2, 3, 12, 13, 14, 15)
            put = self._put(x, weight, samples)

            def evolution() -> Any:
                return spread(self.part, b.add(x, self.end), 1, 0)

            for gives in KINDS:
                with b.if_then(b.icmp_signed("==", self.lattice.gives, v.int(gives))):
                    there = place[0], place[1]
                    read_lattice(v, self.lattice, gives, there, evolution, Into(put, ends=ends), self.leave)

    def _put(self, x: Any, weight: Any, samples: int) -> Callable[[Any], None]:
        v, b = self.v, self.v.b

        def put(values: Any) -> None:
            total = b.fmul(values, weight)
            step = LANES // samples // 2
            while step:
                other = v.shuffle(total, total, [lane ^ step for lane in range(LANES)])
                total, step = b.fadd(total, other), step // 2
            mean = b.fmul(total, v.constant(samples / LANES))
            few = v.shuffle(mean, mean, [sample * LANES // samples for sample in range(samples)])
            into = v.pointer(self.line, x, few.type)
            b.store(b.fadd(b.load(into, align=4), few), into, align=4)

        return put
