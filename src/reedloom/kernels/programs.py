"""Runs what a formula over grey maps asks for, a short run of samples at a time, in one pass over memory."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel, lowered
from reedloom.kernels.vectors import Vectors

RUN = 512
"""Samples that are gone through together, so that all rows in use stay in the processor's nearest cache."""

ADD, SUBTRACT, MULTIPLY, DIVIDE, LOWER, HIGHER, IS_LESS, IS_LEAST, IS_EQUAL, DIFFERS = range(10)
"""Steps of two rows; IS_LEAST where the first is at most the second, DIVIDE gives 0 where the second is 0."""
CHOOSE, RISE = 10, 11
"""Steps of three: the second where the first is not 0, else the third; `smooth_steps` of the first."""
SIZE, FLOOR, ROOT = 12, 13, 14
"""Steps of one: without its sign; rounded down; the square root, 0 of what is below 0."""


@lowered
def copy_numbers(b, address, first, count, into, at):  # type: ignore[no-untyped-def]
    """Copy numbers that lie at an address.

    Parameters
    ----------
    address : int64
        Of float32 numbers in a row.
    first, count : int64
        Of those that are copied.
    into : float32
        Filled from number `at` on.
    at : int64

    Returns
    -------
    int32, 0
    """
    v = Vectors(b)
    source = b.gep(b.inttoptr(address, v.single.as_pointer()), [first])
    byte = v.ir.IntType(8).as_pointer()
    places = [b.bitcast(place, byte) for place in (b.gep(into, [at]), source)]
    v.call("llvm.memcpy.p0i8.p0i8.i64", v.ir.VoidType(), *places, b.mul(count, v.long(4)), v.flag(0))
    return v.int(0)


@kernel
def run_program(steps, maps, numbers, rows, most, out):  # type: ignore[no-untyped-def]
    """Go through the steps of a program.

    Parameters
    ----------
    steps : (s, 5) int64
        What is done, the row that takes what comes of it, and the rows that it is done to, of which steps
        of one or two look at the first one or two. Maps have the first rows, numbers those after them. The
        row that takes is none of the others. The last step's is the result; with no steps, the first map.
    maps : (k,) int64
        Where in memory each one's n samples begin, float32 in a row.
    numbers : (m,) float32
    rows : int
        How many there are.
    most : float32
        The result is held within ±this, and is 0 where it is none.
    out : (n,) float32
        Filled.
    """
    held, count, samples = np.empty(rows * RUN, np.float32), maps.shape[0], out.shape[0]
    zero, one = np.float32(0), np.float32(1)
    for j in range(numbers.shape[0]):
        number, r = numbers[j], np.uint64((count + j) * RUN)
        for q in range(np.uint64(RUN)):
            held[r + q] = number
    for start in range(0, samples, RUN):
        m = np.uint64(min(RUN, samples - start))
        for i in range(count):
            copy_numbers(maps[i], np.int64(start), np.int64(m), held, np.int64(i * RUN))
        r = np.uint64(0)
        for i in range(steps.shape[0]):
            step, r = steps[i, 0], np.uint64(steps[i, 1] * RUN)
            x, y = np.uint64(steps[i, 2] * RUN), np.uint64(steps[i, 3] * RUN)
            z = np.uint64(steps[i, 4] * RUN)
            if step == ADD:
                for q in range(m):
                    held[r + q] = held[x + q] + held[y + q]
            elif step == SUBTRACT:
                for q in range(m):
                    held[r + q] = held[x + q] - held[y + q]
            elif step == MULTIPLY:
                for q in range(m):
                    held[r + q] = held[x + q] * held[y + q]
            elif step == DIVIDE:
                for q in range(m):
                    b = held[y + q]
                    found = held[x + q] / (one if b == zero else b)
                    held[r + q] = zero if b == zero else found
            elif step == LOWER:  # what is no number stays none, as in NumPy
                for q in range(m):
                    a, b = held[x + q], held[y + q]
                    held[r + q] = a if (a < b) | np.isnan(a) else b
            elif step == HIGHER:
                for q in range(m):
                    a, b = held[x + q], held[y + q]
                    held[r + q] = a if (a > b) | np.isnan(a) else b
            elif step == IS_LESS:
                for q in range(m):
                    held[r + q] = one if held[x + q] < held[y + q] else zero
            elif step == IS_LEAST:
                for q in range(m):
                    held[r + q] = one if held[x + q] <= held[y + q] else zero
            elif step == IS_EQUAL:
                for q in range(m):
                    held[r + q] = one if held[x + q] == held[y + q] else zero
            elif step == DIFFERS:
                for q in range(m):
                    held[r + q] = one if held[x + q] != held[y + q] else zero
            elif step == CHOOSE:
                for q in range(m):
                    a, b = held[y + q], held[z + q]
                    held[r + q] = a if held[x + q] != zero else b
            elif step == RISE:
                for q in range(m):
                    t = min(max((held[x + q] - held[y + q]) / held[z + q], zero), one)
                    held[r + q] = t * t * (np.float32(3) - np.float32(2) * t)
            elif step == SIZE:
                for q in range(m):
                    held[r + q] = abs(held[x + q])
            elif step == FLOOR:
                for q in range(m):
                    held[r + q] = np.floor(held[x + q])
            else:
                for q in range(m):
                    a = held[x + q]
                    held[r + q] = np.sqrt(zero if a < zero else a)
        result = out[start:]
        for q in range(m):
            t = held[r + q]
            t = zero if np.isnan(t) else t
            t = t if t > -most else -most
            result[q] = t if t < most else most
