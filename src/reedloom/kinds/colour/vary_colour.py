"""Vary colour: each element's own hue, saturation and lightness from its random value."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.colour.colour_parts import change_colours
from reedloom.kit import COLOUR, GREY, Angle, Context, Float, Port, Role, Seed, kind

WINDINGS = (1.31, 2.17, 1.73)
"""How often each shift runs up and down while the random value goes from 0 to 1: unlike one another, few,
and continuous, so that the blended samples between two elements stay between their colours."""


def drawn(value: np.ndarray, winding: float, seed: int) -> np.ndarray:
    """Another value, -1 to 1, for each random value."""
    phase = value * winding + (seed * 0.61803399 + winding) % 1
    return 4 * np.abs(phase - np.floor(phase) - 0.5) - 1


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
    def vary(lch: np.ndarray, value: np.ndarray) -> np.ndarray:
        turn, rich, light = (drawn(value, winding, seed) for winding in WINDINGS)
        lch[..., 0] = np.maximum(lch[..., 0] + light * lightness, 0)
        lch[..., 1] *= np.maximum(1 + rich * saturation, 0)
        lch[..., 2] += turn * (hue / 360)
        return lch

    return change_colours(context, vary, colour, random)
