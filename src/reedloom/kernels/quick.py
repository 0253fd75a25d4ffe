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
    """The cube root of a number from 0 up, to 5e-7 of it: by its inverse, which needs no division."""
    x = max(x, np.float32(1e-30))  # the cube of whose root is a number still
    third = x * np.float32(1 / 3)
    z = _divided_exponent(x, np.float32(-1 / 3), np.float32(1419902976))
    for _ in range(3):  # I. Newton's steps for z⁻³ = x
        z = z * (np.float32(4 / 3) - third * z * z * z)
    return x * z * z


@inlined
def power_of_two_point_four(x):  # type: ignore[no-untyped-def]
    """A number from 1e-6 up to the power of 2.4, to 1e-6 of it: the cube of it over its fifth root."""
    part = x * np.float32(1 / 5)
    z = _divided_exponent(x, np.float32(-1 / 5), np.float32(1277919232))
    for _ in range(3):  # I. Newton's steps for z⁻⁵ = x
        square = z * z
        z = z * (np.float32(6 / 5) - part * square * square * z)
    quotient = x * z
    return quotient * quotient * quotient


@inlined
def _divided_exponent(x, share, at_one):  # type: ignore[no-untyped-def]
    """A number of such a share of x's exponent; `at_one` is the bits of that for 1, balanced for the rest."""
    bits = np.float32(np.float32(x).view(np.int32))
    return np.int32(at_one + bits * share).view(np.float32)


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


@inlined
def logarithm_of_two(x):  # type: ignore[no-untyped-def]
    """The logarithm to base 2 of a number above 0, to 2e-7: its exponent, and a series for the rest."""
    bits = np.float32(max(x, np.float32(1e-37))).view(np.int32)
    # So that the rest lies about 1, from the root of a half to that of 2.
    whole = np.int32(np.int32(bits - np.int32(0x3F3504F3)) >> np.int32(23))
    rest = np.int32(bits - np.int32(whole << np.int32(23))).view(np.float32)
    s = (rest - np.float32(1.0)) / (rest + np.float32(1.0))
    z = s * s
    series = np.float32(1.0) + z * (
        np.float32(1 / 3) + z * (np.float32(1 / 5) + z * (np.float32(1 / 7) + z * np.float32(1 / 9)))
    )
    return np.float32(whole) + np.float32(2.88539008) * s * series


@inlined
def turn_of(x, y):  # type: ignore[no-untyped-def]
    """The way from the middle to a place, in turns from 0 to 1, to 1e-7; 0 where it is the middle itself.

    The arc tangent's polynomial is that of S. L. Moshier's *Methods and programs for mathematical functions*
    (1989), for an eighth of a turn on both sides of a fourth of one.
    """
    across, down = abs(x), abs(y)
    long, short = max(across, down), min(across, down)
    part = short / max(long, np.float32(1e-37))
    steep = part > np.float32(0.41421356)
    t = (part - np.float32(1.0)) / (part + np.float32(1.0)) if steep else part
    z = t * t
    arc = t + t * z * (
        np.float32(-0.333329491539)
        + z
        * (np.float32(0.199777106478) + z * (np.float32(-0.138776856032) + z * np.float32(0.0805374449538)))
    )
    turn = arc * np.float32(0.15915494) + (np.float32(0.125) if steep else np.float32(0.0))
    turn = np.float32(0.25) - turn if down > across else turn
    turn = np.float32(0.5) - turn if x < 0 else turn
    turn = np.float32(1.0) - turn if y < 0 else turn
    return turn if turn < np.float32(1.0) else np.float32(0.0)
