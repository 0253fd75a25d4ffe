"""Colours taken apart into channels and put together again, sixteen at a time, in LLVM's own vectors.

Three channels beside one another in memory are neither read nor written in vectors by any loop over them.
"""

from __future__ import annotations

from reedloom.kernels.jit import lowered
from reedloom.kernels.vectors import LANES, Vectors

CHANNELS = 3


@lowered
def part_lanes(b, colours, red, green, blue, start, n):  # type: ignore[no-untyped-def]
    """Copy colours from one on into channels that lie by themselves, as long as there are sixteen more.

    Parameters
    ----------
    colours : (m × 3) float32
    red, green, blue : (n or more) float32
        Filled from 0 on.
    start, n : int64
        The first of the colours, and how many they are.

    Returns
    -------
    int32, how many were copied
    """
    v = Vectors(b)
    with v.each(v.long(0), n) as (at, _):
        first = b.mul(b.add(at, start), v.long(CHANNELS))
        laid = [v.load(colours, b.add(first, v.long(k * LANES))) for k in range(CHANNELS)]
        two = v.shuffle(laid[0], laid[1], range(2 * LANES))
        third = v.shuffle(laid[2], laid[2], [*range(LANES)] * 2)
        for number, channel in enumerate((red, green, blue)):
            found = v.shuffle(two, third, range(number, CHANNELS * LANES, CHANNELS))
            b.store(found, v.pointer(channel, at), align=4)
    return b.trunc(at, v.int)


@lowered
def join_lanes(b, red, green, blue, colours, start, n):  # type: ignore[no-untyped-def]
    """The contrary of `part_lanes`.

    Parameters
    ----------
    red, green, blue : (n or more) float32
    colours : (m × 3) float32
        Filled from one on.
    start, n : int64

    Returns
    -------
    int32, how many were copied
    """
    v = Vectors(b)
    with v.each(v.long(0), n) as (at, _):
        first = b.mul(b.add(at, start), v.long(CHANNELS))
        two = v.shuffle(v.load(red, at), v.load(green, at), range(2 * LANES))
        third = v.load(blue, at)
        third = v.shuffle(third, third, [*range(LANES)] * 2)
        for part in range(CHANNELS):
            places = range(part * LANES, part * LANES + LANES)
            laid = v.shuffle(two, third, [k % CHANNELS * LANES + k // CHANNELS for k in places])
            b.store(laid, v.pointer(colours, b.add(first, v.long(part * LANES))), align=4)
    return b.trunc(at, v.int)
