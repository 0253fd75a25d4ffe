"""Colours shifted as the eye sees them, sample by sample, in loops that run in vectors."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.channel_lanes import join_lanes, part_lanes
from reedloom.kernels.colours import LAB, LMS, LUMINANCE
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.quick import cosine_of_turn, cube_root, sine_of_turn

_TO_LMS, _TO_LAB = LMS.astype(np.float32), LAB.astype(np.float32)
_FROM_LMS, _FROM_LAB = (np.linalg.inv(m).astype(np.float32) for m in (LMS, LAB))


AT_ONCE = 512
"""Samples whose channels are taken apart together: loops over one channel beside another give no vectors."""


@inlined
def room_for_channels():  # type: ignore[no-untyped-def]
    """Room for three channels of `AT_ONCE` samples, each by itself."""
    return np.empty(AT_ONCE, np.float32), np.empty(AT_ONCE, np.float32), np.empty(AT_ONCE, np.float32)


@inlined
def take_apart(colour, start, n, channels):  # type: ignore[no-untyped-def]
    """Copy n colours (m, 3) from a sample on, channel by channel."""
    red, green, blue = channels
    done = np.int64(part_lanes(colour.reshape(-1), red, green, blue, np.int64(start), np.int64(n)))
    while done < n:
        at = start + done
        red[done], green[done], blue[done] = colour[at, 0], colour[at, 1], colour[at, 2]
        done += 1


@inlined
def put_together(channels, start, n, out):  # type: ignore[no-untyped-def]
    """The contrary of `take_apart`."""
    red, green, blue = channels
    done = np.int64(join_lanes(red, green, blue, out.reshape(-1), np.int64(start), np.int64(n)))
    while done < n:
        at = start + done
        out[at, 0], out[at, 1], out[at, 2] = red[done], green[done], blue[done]
        done += 1


@inlined
def light_of(r, g, b):  # type: ignore[no-untyped-def]
    """`colours.luminance` of one colour."""
    return r * LUMINANCE[0] + g * LUMINANCE[1] + b * LUMINANCE[2]


@inlined
def fill_light(channels, n, out):  # type: ignore[no-untyped-def]
    """The luminance of n colours."""
    red, green, blue = channels
    for k in range(n):
        out[k] = light_of(red[k], green[k], blue[k])


@inlined
def _through(matrix, a, b, c):  # type: ignore[no-untyped-def]
    return (
        matrix[0, 0] * a + matrix[0, 1] * b + matrix[0, 2] * c,
        matrix[1, 0] * a + matrix[1, 1] * b + matrix[1, 2] * c,
        matrix[2, 0] * a + matrix[2, 1] * b + matrix[2, 2] * c,
    )


@kernel
def to_lab(n, channels):  # type: ignore[no-untyped-def]
    """Turn n linear colours, held from 0 up, into OKLab (B. Ottosson, 2020).

    Parameters
    ----------
    n : int
    channels : three (m,) float32
        Red, green and blue; then lightness, a and b.
    """
    red, green, blue = channels
    zero = np.float32(0.0)
    for k in range(n):
        long, middle, short = _through(_TO_LMS, max(red[k], zero), max(green[k], zero), max(blue[k], zero))
        red[k], green[k], blue[k] = _through(_TO_LAB, cube_root(long), cube_root(middle), cube_root(short))


@kernel
def from_lab(n, channels):  # type: ignore[no-untyped-def]
    """The contrary of `to_lab`; what lies beyond the colours of sRGB is held at 0.

    Parameters
    ----------
    n : int
    channels : three (m,) float32
        Lightness, a and b; then red, green and blue.
    """
    light, a, b = channels
    zero = np.float32(0.0)
    for k in range(n):
        x, y, z = _through(_FROM_LAB, light[k], a[k], b[k])
        red, green, blue = _through(_FROM_LMS, x * x * x, y * y * y, z * z * z)
        light[k], a[k], b[k] = max(red, zero), max(green, zero), max(blue, zero)


@inlined
def shifted(lightness, a, b, light, rich, turn):  # type: ignore[no-untyped-def]
    """A colour in OKLab made lighter, richer and of another hue.

    light : added to the lightness; rich : what the chroma is multiplied by, less 1; turn : of the hue.
    """
    zero = np.float32(0.0)
    chroma = max(np.float32(1.0) + rich, zero)
    c, s = cosine_of_turn(turn) * chroma, sine_of_turn(turn) * chroma
    return max(lightness + light, zero), a * c - b * s, a * s + b * c
