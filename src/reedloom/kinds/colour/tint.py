"""Tint: hue, saturation and lightness shifted."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.colour.colour_parts import change_colours
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
    def shift(lch: np.ndarray, *amount: np.ndarray) -> np.ndarray:
        share = amount[0] if amount else 1.0
        lch[..., 0] = np.maximum(lch[..., 0] + share * lightness, 0)
        lch[..., 1] *= np.maximum(1 + share * saturation, 0)
        lch[..., 2] += share * (hue / 360)
        return lch

    return change_colours(context, shift, colour, *([] if amount_map is None else [amount_map]))
