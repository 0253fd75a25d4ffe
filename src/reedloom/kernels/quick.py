"""Elementary functions as polynomials in single precision, which compilers turn into vectors."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined


@inlined
def sine_of_turn(turn):  # type: ignore[no-untyped-def]
    """The sine of so many turns, to 4e-6 of any: its series, folded to a quarter."""
    return cosine_of_turn(turn - np.float32(0.25))


@inlined
def cosine_of_turn(turn):  # type: ignore[no-untyped-def]
    """The cosine of so many turns; see `sine_of_turn`."""
    part = turn - np.floor(turn)
    y = abs(part - np.float32(0.5)) * np.float32(2.0) - np.float32(0.5)
    z = y * y
    return y * (
        np.float32(3.14159265)
        + z
        * (
            np.float32(-5.16771278)
            + z * (np.float32(2.55016404) + z * (np.float32(-0.59926453) + z * np.float32(0.08214589)))
        )
    )


@inlined
def cube_root(x):  # type: ignore[no-untyped-def]
    """The cube root of a number from 0 up: its exponent divided, then two steps of E. Halley's."""
    x = max(x, np.float32(1e-30))  # the cube of whose root is a number still
    bits = np.float32(x).view(np.int32)
    y = np.int32(bits // np.int32(3) + np.int32(709921077)).view(np.float32)
    for _ in range(2):
        cube = y * y * y
        y = y * ((cube + x + x) / (cube + cube + x))
    return y


@inlined
def power_of_two(x):  # type: ignore[no-untyped-def]
    """2 to the x, from -126 to 126, to 3e-7 of it: the whole part as exponent, the rest as a series."""
    x = min(max(x, np.float32(-126.0)), np.float32(126.0))
    whole = np.floor(x + np.float32(0.5))
    t = (x - whole) * np.float32(0.69314718)
    part = np.float32(1.0) + t * (
        np.float32(1.0)
        + t
        * (
            np.float32(0.5)
            + t
            * (
                np.float32(1 / 6)
                + t * (np.float32(1 / 24) + t * (np.float32(1 / 120) + t * np.float32(1 / 720)))
            )
        )
    )
    scale = np.int32((np.int32(whole) + np.int32(127)) << np.int32(23)).view(np.float32)
    return part * scale
