"""What makes pictures of maps: bytes through a table, a material in light, and the spread of tones."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.colours import LUMINANCE
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.shades import AT_ONCE, room_for_channels, take_apart

LIGHT = np.array([-0.45, -0.55, 0.70], np.float32)
"""Where the light is: right, down, and out of the surface."""
AMBIENT, DIRECT = np.float32(0.3), np.float32(0.85)
"""Shares of the open sky and of the light."""
TINY = np.float32(1e-4)
"""How far beyond 0 to 1 a value counts as beyond."""


@kernel
def encode_values(values, table, out):  # type: ignore[no-untyped-def]
    """Numbers of 0 to 1 as the nearest of a table's even steps; what is beyond, or no number, is held there.

    values : (n,) float32; table : (steps,) uint8; out : (n,) uint8
    """
    last = np.float32(len(table) - 1)
    half = np.float32(0.5)
    steps = np.empty(AT_ONCE, np.int32)
    for start in range(0, len(values), AT_ONCE):
        n = min(AT_ONCE, len(values) - start)
        some, laid = values[start:], out[start:]
        for i in range(n):
            value = some[i]
            value = value if value > np.float32(0) else np.float32(0)  # no number is 0
            value = value if value < np.float32(1) else np.float32(1)
            steps[i] = np.int32(value * last + half)
        for i in range(n):
            laid[i] = table[np.uint32(steps[i])]


@inlined
def lambert(x, y):  # type: ignore[no-untyped-def]
    """Shade of an unnormalised normal (x right, y down, z = 1), 1 for a level surface."""
    facing = (x * LIGHT[0] + y * LIGHT[1] + LIGHT[2]) / np.sqrt(x * x + y * y + np.float32(1))
    return (facing if facing > np.float32(0) else np.float32(0)) * (np.float32(1) / LIGHT[2])


@kernel
def light_slopes(slope, depth, out):  # type: ignore[no-untyped-def]
    """The shade of a surface by its slope (n, 2), times its depth: (n,), 1 where it is level."""
    for i in range(len(out)):
        out[i] = lambert(slope[i, 0] * -depth, slope[i, 1] * -depth)


@kernel
def light_colours(colour, normal, sky, out):  # type: ignore[no-untyped-def]
    """Colours under a light from the upper left.

    Parameters
    ----------
    colour : (n, 3) float32
        Linear.
    normal : (n, 3) float32
        Encoded as 0 to 1; or (0, 3) for a level surface.
    sky : (n,) float32
        The share of open sky, 0 to 1; or (0,) where all is open.
    out : (n, 3) float32
        Filled, linear.
    """
    one, two, least = np.float32(1), np.float32(2), np.float32(1e-3)
    across, down, outward = channels = room_for_channels()
    light, open_sky = np.empty(AT_ONCE, np.float32), np.ones(AT_ONCE, np.float32)
    lights, numbers, into = np.empty(3 * AT_ONCE, np.float32), colour.reshape(-1), out.reshape(-1)
    for start in range(0, len(out), AT_ONCE):
        n = min(AT_ONCE, len(out) - start)
        if len(sky):
            some = sky[start:]
            for k in range(n):
                open_sky[k] = some[k]
        if len(normal):
            take_apart(normal, start, n, channels)
            for k in range(n):
                z = outward[k] * two - one
                z = one / (z if z > least else least)
                shade = lambert((across[k] * two - one) * z, (one - down[k] * two) * z)
                light[k] = shade * DIRECT + AMBIENT * open_sky[k]
        else:
            for k in range(n):
                light[k] = DIRECT + AMBIENT * open_sky[k]
        for k in range(n):
            lights[3 * k], lights[3 * k + 1], lights[3 * k + 2] = light[k], light[k], light[k]
        given, laid = numbers[3 * start :], into[3 * start :]
        for k in range(3 * n):
            laid[k] = given[k] * lights[k]


@kernel
def count_tones(values, counts, ends):  # type: ignore[no-untyped-def]
    """Count numbers by even steps from 0 to 1, and find their ends.

    values : (n, 1 or 3) float32, of which three are a linear colour and stand for its luminance;
    counts : (steps,) int64, 0 before; ends : (4,) float64, gets the least, the greatest, how many are
    below 0 and how many above 1. What is no number is in none of them.
    """
    low, high, below, above = np.float32(np.inf), np.float32(-np.inf), 0, 0
    steps = np.float32(len(counts) - 1e-3)
    for i in range(len(values)):
        value = values[i, 0]
        if values.shape[1] == 3:
            value = value * LUMINANCE[0] + values[i, 1] * LUMINANCE[1] + values[i, 2] * LUMINANCE[2]
        low = value if value < low else low
        high = value if value > high else high
        below += value < -TINY
        above += value > np.float32(1) + TINY
        if np.float32(0) <= value <= np.float32(1):
            counts[np.int32(value * steps)] += 1
    ends[0], ends[1], ends[2], ends[3] = low, high, below, above
