"""Tint: hue, saturation and lightness shifted."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
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
from reedloom.kit import COLOUR, Angle, Context, Float, Port, driving, kind, multiplies


@kind(
    id="tint",
    label="Tint",
    family="colour",
    version=1,
    purpose="Shifts the hue, saturation and lightness of a colour, everywhere or where a map says.",
    inputs=(
        Port("colour", COLOUR),
        driving("amount_map", multiplies(), "Multiplies all three shifts, point by point."),
    ),
    outputs=(Port("colour", COLOUR),),
    parameters=(
        Angle("hue", help="Turns the hue around the colour circle."),
        Float("saturation", 0.0, (-1, 1), (-1, 16), help="-1 takes all colour away, 1 doubles it."),
        Float("lightness", 0.0, (-0.5, 0.5), (-4, 4), help="Added to the lightness as the eye sees it."),
    ),
    synonyms=("hsl", "hue shift", "saturate", "recolour"),
    sample={"hue": 120.0},
)
def tint(
    context: Context,
    colour: np.ndarray,
    amount_map: np.ndarray | None,
    *,
    hue: float,
    saturation: float,
    lightness: float,
) -> np.ndarray:
    out = empty_like(colour)
    amounts = np.ones((1, 1), np.float32) if amount_map is None else amount_map
    by = (np.float32(lightness), np.float32(saturation), np.float32(hue / 360))

    def band(y0: int, y1: int) -> None:
        amount = amounts if len(amounts) == 1 else amounts[y0:y1]
        tint_rows(colour[y0:y1].reshape(-1, 3), amount.reshape(-1), *by, out[y0:y1].reshape(-1, 3))

    context.bands(band)
    return out


@kernel
def tint_rows(colour, amount, lightness, saturation, turn, out):  # type: ignore[no-untyped-def]
    """Shift colours (n, 3) by the same for all, times an amount (n,), or (1,) for all."""
    each = amount.shape[0] > 1
    channels = room_for_channels()
    light, a, b = channels
    share = np.full(AT_ONCE, amount[0], np.float32)
    for start in range(0, out.shape[0], AT_ONCE):
        n = min(AT_ONCE, out.shape[0] - start)
        take_apart(colour, start, n, channels)
        to_lab(n, channels)
        if each:
            share[:n] = amount[start : start + n]
        for k in range(n):
            by = (share[k] * lightness, share[k] * saturation, share[k] * turn)
            light[k], a[k], b[k] = shifted(light[k], a[k], b[k], by[0], by[1], by[2])
        from_lab(n, channels)
        put_together(channels, start, n, out)
