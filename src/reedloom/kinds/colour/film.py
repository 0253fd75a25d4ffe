"""Film: colours of a thin clear layer on metal or glass."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.curves import averaging, sum_table
from reedloom.kernels.observer import film_colours
from reedloom.kinds.tone.tone_parts import map_with_width
from reedloom.kit import COLOUR, GREY, Angle, Context, Float, Port, kind

STEPS = 2048
GREYS = np.array([0.2126, 0.7152, 0.0722], np.float32)


@kind(
    id="film",
    label="Film",
    family="colour",
    version=1,
    purpose="Colours of a thin film by its thickness: tempered steel, oxide, oil, shell, soap.",
    inputs=(Port("thickness_map", GREY, help="The film's thickness, from none (0) to the greatest (1)."),),
    outputs=(Port("colour", COLOUR),),
    parameters=(
        Float(
            "thickest",
            600.0,
            (50, 1500),
            (1, 10000),
            unit="nm",
            help="The film's thickness where the map is 1.",
        ),
        Float(
            "film_index",
            1.46,
            (1.2, 2.8),
            (1.0, 5.0),
            former=("index",),
            help="Refractive index: 1.33 water, 1.46 silica, 2.4 iron oxide.",
        ),
        Float(
            "base_index",
            4.0,
            (1.0, 5.0),
            (1.0, 8.0),
            help="Refractive index below the film: 1.5 glass, 2.9 iron, 4 silicon.",
        ),
        Float(
            "base_absorption",
            0.0,
            (0, 5),
            (0, 12),
            help="How strongly the base absorbs, as metals do: 3 for iron.",
        ),
        Angle(
            "angle_of_sight",
            0.0,
            useful=(0, 85),
            former=("sight",),
            help="From where the surface is seen: 0 is straight on.",
        ),
        Float("saturation", 1.0, (0, 2), (0, 8), help="Strengthens or weakens the colours; 1 is true."),
    ),
    synonyms=("thin film", "iridescence", "interference", "temper colours", "oil slick", "nacre"),
)
def film(
    context: Context,
    thickness_map: np.ndarray,
    *,
    thickest: float,
    film_index: float,
    base_index: float,
    base_absorption: float,
    angle_of_sight: float,
    saturation: float,
) -> np.ndarray:
    cosine = max(abs(math.cos(math.radians(angle_of_sight))), 0.02)
    table = film_colours(thickest, STEPS, film_index, complex(base_index, base_absorption), cosine)
    grey = (table @ GREYS)[:, None]
    summed = sum_table(np.maximum(grey + (table - grey) * np.float32(saturation), 0))
    return map_with_width(context, thickness_map, averaging(summed), channels=3)
