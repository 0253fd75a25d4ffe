"""Ease: the smoothstep family, either way."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.curves import TABLE
from reedloom.kernels.tones import by_segments, look_up
from reedloom.kit import COLOUR, GREY, SAME_AS, Choice, Context, Float, Port, kind

POWERS = {
    "cubic": (0.0, 3.0, -2.0, 0.0, 0.0, 0.0, 0.0),
    "quintic": (0.0, 0.0, 10.0, -15.0, 6.0, 0.0, 0.0),
    "septic": (0.0, 0.0, 0.0, 35.0, -84.0, 70.0, -20.0),
}
"""Coefficients of the powers 1 to 7 (K. Perlin, 1985 and 2002, and the next of that family)."""


def smooth_step(family: str, t: np.ndarray) -> np.ndarray:
    """A member of the smoothstep family at tones of 0..1."""
    return np.polynomial.polynomial.polyval(t, (0.0, *POWERS[family]))


def ease_table(family: str, amount: float) -> np.ndarray:
    """The curve sampled evenly from 0 to 1; a negative amount is the inverse curve's share."""
    x = np.linspace(0, 1, TABLE)
    eased = smooth_step(family, x)
    if amount < 0:
        eased = np.interp(x, eased, x)
    return (x + (eased - x) * abs(amount)).astype(np.float32)


@kind(
    id="ease",
    label="Ease",
    family="tone",
    version=1,
    purpose="Sharpens or softens the middle tones and leaves 0 and 1 where they are.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Float(
            "amount",
            1.0,
            (-1, 1),
            (-1, 1),
            help="Above 0 the middle becomes steeper, below 0 flatter.",
            neutral=0.0,
        ),
        Choice("family", "cubic", tuple(POWERS), help="How level the curve is at both ends."),
    ),
    synonyms=("smoothstep", "s-curve"),
    shows_histogram=True,
)
def ease(context: Context, map: np.ndarray, *, amount: float, family: str) -> np.ndarray:
    if amount < 0:
        eased = look_up(context.bands, ease_table(family, amount), map)
    else:
        segment = np.zeros((1, 9), np.float32)
        segment[0, 1] = 1.0
        segment[0, 2:] = amount * np.array(POWERS[family])
        segment[0, 2] += 1 - amount
        eased = by_segments(context.bands, segment, 0.0, map)
    plain = np.float32(1 - abs(amount))
    if plain == 0:
        return eased
    return context.map_bands(lambda e, m: e + plain * (m - np.clip(m, 0, 1)), eased, map)
