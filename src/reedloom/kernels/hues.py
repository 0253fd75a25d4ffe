"""Colours taken apart into hue and its companions, and put together again, in loops that run in vectors."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.quick import (
    cosine_of_turn,
    cube_root,
    power_of_two_point_four,
    sine_of_turn,
    turn_of,
)
from reedloom.kernels.shades import (
    AT_ONCE,
    fill_light,
    from_lab,
    put_together,
    room_for_channels,
    take_apart,
    to_lab,
)

RGB, HSV, OKLCH = range(3)
"""Light as it is; hue, saturation and value as a screen shows them (A. R. Smith, SIGGRAPH 1978); lightness,
chroma and hue as the eye sees them (B. Ottosson's OKLab, 2020)."""
MUCH = np.float32(3e38)


@inlined
def _encoded(linear):  # type: ignore[no-untyped-def]
    """`colours.srgb_from_linear`; the 2.4th root is the fifth power of a twelfth one."""
    held = min(max(linear, np.float32(0.0)), np.float32(1.0))
    root = cube_root(np.float32(math.sqrt(np.float32(math.sqrt(held)))))
    square = root * root
    bright = np.float32(1.055) * square * square * root - np.float32(0.055)
    return held * np.float32(12.92) if held <= np.float32(0.0031308) else bright


@inlined
def _decoded(encoded):  # type: ignore[no-untyped-def]
    """`colours.linear_from_srgb`."""
    base = (max(encoded, np.float32(0.04045)) + np.float32(0.055)) * np.float32(1 / 1.055)
    bright = power_of_two_point_four(base)
    return encoded * np.float32(1 / 12.92) if encoded <= np.float32(0.04045) else bright


@kernel
def to_hsv(n, channels):  # type: ignore[no-untyped-def]
    """Turn n colours, three (m,) float32 channels of linear light, into hue (turns), saturation and value."""
    red, green, blue = channels
    zero, one = np.float32(0.0), np.float32(1.0)
    for k in range(n):
        r, g, b = _encoded(red[k]), _encoded(green[k]), _encoded(blue[k])
        high, low = max(r, g, b), min(r, g, b)
        span = high - low
        per_span = one / (span if span > zero else one)
        from_blue = np.float32(4.0) + (r - g) * per_span
        from_green = np.float32(2.0) + (b - r) * per_span
        sixth = (g - b) * per_span if high == r else from_green if high == g else from_blue
        hue = sixth * np.float32(1 / 6)
        red[k] = hue + one if hue < zero else hue
        green[k] = span / (high if high > zero else one)
        blue[k] = high


@kernel
def from_hsv(n, channels):  # type: ignore[no-untyped-def]
    """The contrary of `to_hsv`."""
    hue, saturation, value = channels
    for k in range(n):
        turn, rich, bright = hue[k], saturation[k], value[k]
        hue[k] = bright * _left(turn, np.float32(0.0), rich)
        saturation[k] = bright * _left(turn, np.float32(2 / 3), rich)
        value[k] = bright * _left(turn, np.float32(1 / 3), rich)
    for channel in channels:  # by themselves, since longer loops become no vectors
        for k in range(n):
            channel[k] = _decoded(channel[k])


@inlined
def _left(hue, beyond, saturation):  # type: ignore[no-untyped-def]
    """What of one of its primaries a hue leaves, which has its middle so many turns before the end."""
    turn = hue + beyond
    wave = abs((turn - np.floor(turn)) * np.float32(6.0) - np.float32(3.0)) - np.float32(1.0)
    held = min(max(wave, np.float32(0.0)), np.float32(1.0))
    return np.float32(1.0) + saturation * (held - np.float32(1.0))


@kernel
def to_lch(n, channels):  # type: ignore[no-untyped-def]
    """Turn n colours, three (m,) float32 channels of linear light, into lightness, chroma and hue (turns)."""
    to_lab(n, channels)
    _, first, second = channels
    for k in range(n):
        a, b = first[k], second[k]
        first[k], second[k] = np.float32(math.sqrt(a * a + b * b)), turn_of(a, b)


@kernel
def from_lch(n, channels):  # type: ignore[no-untyped-def]
    """The contrary of `to_lch`."""
    _, chroma, hue = channels
    for k in range(n):
        rich, turn = chroma[k], hue[k]
        chroma[k], hue[k] = rich * cosine_of_turn(turn), rich * sine_of_turn(turn)
    from_lab(n, channels)


@kernel
def split_colours(colour, space, first, second, third):  # type: ignore[no-untyped-def]
    """The three numbers of colours, each by itself.

    Parameters
    ----------
    colour : (m, 3) float32
        Linear light.
    space : int
        RGB, HSV or OKLCH.
    first, second, third : (m,) float32
        Filled.
    """
    channels = room_for_channels()
    for start in range(0, colour.shape[0], AT_ONCE):
        n = min(AT_ONCE, colour.shape[0] - start)
        take_apart(colour, start, n, channels)
        if space == HSV:
            to_hsv(n, channels)
        elif space == OKLCH:
            to_lch(n, channels)
        _copy(channels[0], n, first[start:])
        _copy(channels[1], n, second[start:])
        _copy(channels[2], n, third[start:])


@inlined
def _copy(source, n, out):  # type: ignore[no-untyped-def]
    for k in range(n):
        out[k] = source[k]


@kernel
def join_colours(first, second, third, space, out):  # type: ignore[no-untyped-def]
    """Colours of three numbers each, none below 0 and none that is no number.

    Parameters
    ----------
    first, second, third : (m,) float32
    space : int
        RGB, HSV or OKLCH.
    out : (m, 3) float32
        Filled with linear light.
    """
    channels = room_for_channels()
    for start in range(0, out.shape[0], AT_ONCE):
        n = min(AT_ONCE, out.shape[0] - start)
        _copy(first[start:], n, channels[0])
        _copy(second[start:], n, channels[1])
        _copy(third[start:], n, channels[2])
        if space == HSV:
            from_hsv(n, channels)
        elif space == OKLCH:
            from_lch(n, channels)
        for channel in channels:
            for k in range(n):
                value = channel[k]
                channel[k] = min(value, MUCH) if value > np.float32(0.0) else np.float32(0.0)
        put_together(channels, start, n, out)


GREYS = "luminance", "lightness", "average", "greatest", "least", "red", "green", "blue", "saturation"
"""The ways in which `grey_colours` makes one number of three."""
LIGHTNESS, AVERAGE, GREATEST, LEAST, SATURATION = (
    GREYS.index(way) for way in ("lightness", "average", "greatest", "least", "saturation")
)


@kernel
def grey_colours(colour, way, out):  # type: ignore[no-untyped-def]
    """One number of each colour.

    Parameters
    ----------
    colour : (m, 3) float32
        Linear light.
    way : int
        Which one of GREYS, but for those of one channel.
    out : (m,) float32
        Filled.
    """
    channels = room_for_channels()
    red, green, blue = channels
    for start in range(0, colour.shape[0], AT_ONCE):
        n = min(AT_ONCE, colour.shape[0] - start)
        take_apart(colour, start, n, channels)
        line = out[start : start + n]
        if way == LIGHTNESS:
            to_lab(n, channels)
            _copy(red, n, line)
        elif way == AVERAGE:
            for k in range(n):
                line[k] = (red[k] + green[k] + blue[k]) * np.float32(1 / 3)
        elif way == GREATEST:
            for k in range(n):
                line[k] = max(red[k], green[k], blue[k])
        elif way == LEAST:
            for k in range(n):
                line[k] = min(red[k], green[k], blue[k])
        elif way == SATURATION:
            for k in range(n):
                high, low = max(red[k], green[k], blue[k]), min(red[k], green[k], blue[k])
                line[k] = (high - low) / max(high, np.float32(1e-4))
        else:
            fill_light(channels, n, line)
