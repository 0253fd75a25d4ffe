"""Vary colour: each element's own hue, saturation and lightness from its random value."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.maps import empty_like
from reedloom.kernels.shades import (
    AT_ONCE,
    from_lab,
    put_together,
    room_for_channels,
    shifted,
    take_apart,
    to_lab,
)
from reedloom.kit import COLOUR, GREY, Angle, Context, Float, Port, Role, Seed, kind

WINDINGS = (1.31, 2.17, 1.73)
"""How often each shift runs up and down while the random value goes from 0 to 1: unlike one another, few,
and continuous, so that the blended samples between two elements stay between their colours."""


@kind(
    id="vary_colour",
    label="Vary colour",
    family="colour",
    version=1,
    purpose="Gives every cell, stone or stamp its own shade of a colour, from its random value.",
    inputs=(
        Port("colour", COLOUR),
        Port(
            "random",
            GREY,
            help="One value for each element, such as a cell's random value.",
            role=Role.CHANCE,
        ),
    ),
    outputs=(Port("colour", COLOUR),),
    parameters=(
        Angle("hue", 8.0, useful=(0, 90), help="How far hues stray to both sides."),
        Float("saturation", 0.2, (0, 1), (0, 8), help="How far saturations stray, as a share."),
        Float("lightness", 0.1, (0, 0.5), (0, 4), help="How far lightnesses stray, as the eye sees them."),
        Seed(),
    ),
    synonyms=("random colour", "per element", "variation", "hue shift"),
    sample={"hue": 40.0, "lightness": 0.2},
)
def vary_colour(
    context: Context,
    colour: np.ndarray,
    random: np.ndarray,
    *,
    hue: float,
    saturation: float,
    lightness: float,
    seed: int,
) -> np.ndarray:
    out = empty_like(colour)
    by = (np.float32(lightness), np.float32(saturation), np.float32(hue / 360))
    starts = np.array([(seed * 0.61803399 + winding) % 1 for winding in WINDINGS], np.float32)

    def band(y0: int, y1: int) -> None:
        vary_rows(
            colour[y0:y1].reshape(-1, 3), random[y0:y1].reshape(-1), starts, *by, out[y0:y1].reshape(-1, 3)
        )

    context.bands(band)
    return out


@kernel
def vary_rows(colour, random, starts, lightness, saturation, turn, out):  # type: ignore[no-untyped-def]
    """Shift colours (n, 3), each by what its random value (n,) draws."""
    channels = room_for_channels()
    light, a, b = channels
    for start in range(0, out.shape[0], AT_ONCE):
        n = min(AT_ONCE, out.shape[0] - start)
        take_apart(colour, start, n, channels)
        to_lab(n, channels)
        chance = random[start : start + n]
        for k in range(n):
            hue, rich, bright = (
                _drawn(chance[k], 0, starts),
                _drawn(chance[k], 1, starts),
                _drawn(chance[k], 2, starts),
            )
            by = (bright * lightness, rich * saturation, hue * turn)
            light[k], a[k], b[k] = shifted(light[k], a[k], b[k], by[0], by[1], by[2])
        from_lab(n, channels)
        put_together(channels, start, n, out)


@inlined
def _drawn(value, number, starts):  # type: ignore[no-untyped-def]
    """Another value, -1 to 1, for each random value."""
    phase = value * np.float32(WINDINGS[number]) + starts[number]
    return np.float32(4.0) * abs(phase - np.floor(phase) - np.float32(0.5)) - np.float32(1.0)
