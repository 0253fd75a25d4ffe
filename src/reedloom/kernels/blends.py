"""Two maps laid over one another in ways that take several steps, in loops that run in vectors.

Light is W3C's *Compositing and blending*, as are its ways for hue, saturation, colour and luminosity.
"""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.shades import (
    AT_ONCE,
    fill_light,
    light_of,
    put_together,
    room_for_channels,
    take_apart,
)

TINY = np.float32(1e-6)
HUE, SATURATION, COLOUR, LUMINOSITY = range(4)
"""What of the upper colour is laid over the lower one."""


@kernel
def lay_share(below, above, share, strength, out):  # type: ignore[no-untyped-def]
    """A share of the way from one map to another.

    Parameters
    ----------
    below, above : (m,) or, of colours, (3 m,) float32
    share : (m,) float32, or (1,) for the same everywhere
    strength : float32
        What shares are multiplied by.
    out : float32 of the maps' shape
        Filled; may be the map below.
    """
    amounts, lower = np.empty(3 * AT_ONCE, np.float32), np.empty(3 * AT_ONCE, np.float32)
    is_of_pixels = out.shape[0] == 3 * share.shape[0] > 3
    amounts[:] = share[0] * strength
    for start in range(0, out.shape[0], 3 * AT_ONCE):
        n = min(3 * AT_ONCE, out.shape[0] - start)
        if is_of_pixels:
            for m in range(n // 3):
                amount = share[start // 3 + m] * strength
                amounts[3 * m], amounts[3 * m + 1], amounts[3 * m + 2] = amount, amount, amount
        elif share.shape[0] > 1:
            for k in range(n):
                amounts[k] = share[start + k] * strength
        old, upper, laid = below[start : start + n], above[start : start + n], out[start : start + n]
        for k in range(n):  # set aside, since what is filled may be what lies below
            lower[k] = old[k]
        for k in range(n):
            laid[k] = lower[k] + amounts[k] * (upper[k] - lower[k])


@kernel
def lay_hard_light(below, above, out):  # type: ignore[no-untyped-def]
    """The product where the upper map is dark, its contrary where it is light: (m,) float32 each."""
    half, one = np.float32(0.5), np.float32(1.0)
    for k in range(out.shape[0]):
        low, high = below[k], above[k]
        light = one - (one - low) * (one - high) * np.float32(2.0)
        out[k] = low * high * np.float32(2.0) if high <= half else light


@kernel
def lay_soft_light(below, above, out):  # type: ignore[no-untyped-def]
    """A gentle hard light: (m,) float32 each."""
    one, zero = np.float32(1.0), np.float32(0.0)
    for k in range(out.shape[0]):
        low, away = below[k], above[k] + above[k] - one
        held = min(max(low, zero), one)
        dark = ((np.float32(16.0) * held - np.float32(12.0)) * held + np.float32(4.0)) * held
        root = dark if held <= np.float32(0.25) else np.float32(math.sqrt(held))
        out[k] = low + away * ((root - held) if away > zero else held * (one - held))


@kernel
def lay_smooth_lowest(below, above, sign, out):  # type: ignore[no-untyped-def]
    """The lower of two, or with a sign of -1 the higher, their crease rounded over a difference of 0.1.

    Parameters
    ----------
    below, above : (m,) float32
    sign : float32
    out : (m,) float32
        Filled.
    """
    zero, one = np.float32(0.0), np.float32(1.0)
    for k in range(out.shape[0]):
        low, high = below[k] * sign, above[k] * sign
        near = max(zero, one - abs(low - high) * np.float32(10.0))
        out[k] = (min(low, high) - near * near * np.float32(0.025)) * sign


@kernel
def lay_colours(below, above, way, out):  # type: ignore[no-untyped-def]
    """Lay one quality of a colour over another colour.

    Parameters
    ----------
    below, above : (m, 3) float32
        Linear light.
    way : int
        HUE, SATURATION, COLOUR or LUMINOSITY.
    out : (m, 3) float32
        Filled.
    """
    lower, upper = room_for_channels(), room_for_channels()
    light, rich = np.empty(AT_ONCE, np.float32), np.empty(AT_ONCE, np.float32)
    for start in range(0, out.shape[0], AT_ONCE):
        n = min(AT_ONCE, out.shape[0] - start)
        take_apart(below, start, n, lower)
        take_apart(above, start, n, upper)
        fill_light(upper if way == LUMINOSITY else lower, n, light)
        changed = upper if way in (HUE, COLOUR) else lower
        if way == HUE:
            _fill_saturation(lower, n, rich)
            _set_saturation(changed, n, rich)
        elif way == SATURATION:
            _fill_saturation(upper, n, rich)
            _set_saturation(changed, n, rich)
        _set_light(changed, n, light)
        put_together(changed, start, n, out)


@inlined
def _fill_saturation(channels, n, out):  # type: ignore[no-untyped-def]
    red, green, blue = channels
    for k in range(n):
        out[k] = max(red[k], green[k], blue[k]) - min(red[k], green[k], blue[k])


@inlined
def _set_saturation(channels, n, wanted):  # type: ignore[no-untyped-def]
    """Stretch channels so that the least is 0 and the greatest as wanted."""
    red, green, blue = channels
    for k in range(n):
        r, g, b = red[k], green[k], blue[k]
        low = min(r, g, b)
        scale = wanted[k] / max(max(r, g, b) - low, TINY)
        red[k], green[k], blue[k] = (r - low) * scale, (g - low) * scale, (b - low) * scale


@inlined
def _set_light(channels, n, wanted):  # type: ignore[no-untyped-def]
    """Shift colours to a luminosity, and shrink them towards it until they lie between 0 and 1."""
    red, green, blue = channels
    zero, one = np.float32(0.0), np.float32(1.0)
    for k in range(n):
        light = wanted[k]
        more = light - light_of(red[k], green[k], blue[k])
        r, g, b = red[k] + more, green[k] + more, blue[k] + more
        low, high = min(r, g, b), max(r, g, b)
        lifted = light / max(light - low, TINY) if low < zero else one
        lowered = (one - light) / max(high - light, TINY) if high > one else one
        left = lifted * lowered
        red[k], green[k], blue[k] = (
            light + (r - light) * left,
            light + (g - light) * left,
            light + (b - light) * left,
        )
