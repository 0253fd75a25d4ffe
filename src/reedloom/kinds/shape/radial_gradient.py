"""Radial gradient: a value that falls from a middle outward."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kinds.place.place_parts import places_of
from reedloom.kinds.shape.shape_parts import (
    CENTRE,
    ONE_TILE,
    PROFILE,
    PROFILE_CURVE,
    SHAPE_INPUTS,
    WRAPPED,
    profile_height,
)
from reedloom.kit import GREY, Context, FormHandles, Length, Port, kind
from reedloom.kit.ways import number_of, numbers_of, ways_of


@kind(
    id="radial_gradient",
    label="Radial gradient",
    family="shape",
    version=1,
    purpose="A value that falls from a middle outward: lamps, hollows, vignettes.",
    inputs=SHAPE_INPUTS,
    outputs=(Port("gradient", GREY),),
    parameters=(
        Length("radius", 0.5, (0.01, 0.7), (0.001, 64), help="Where it has fallen to 0."),
        *CENTRE,
        PROFILE,
        PROFILE_CURVE,
        WRAPPED,
    ),
    exempt=ONE_TILE,
    synonyms=("circle", "glow", "vignette", "sphere"),
    sample={"profile": "cone"},
    handles=FormHandles(("centre_u", "centre_v"), size="radius"),
)
def radial_gradient(
    context: Context,
    place: np.ndarray | None,
    *,
    radius: float,
    centre_u: float,
    centre_v: float,
    profile: str,
    profile_curve: Any,
    wrapped: bool,
) -> np.ndarray:
    source = places_of(context, place)
    centre = number_of(centre_u, centre_v)

    def draw(rows: np.ndarray) -> np.ndarray:
        away = ways_of(numbers_of(rows) - centre)
        if wrapped:
            away -= np.round(away)
        inward = 1 - np.abs(numbers_of(context.in_widths(away))) / np.float32(radius)
        edge = np.clip(inward * np.float32(radius / context.sample) + np.float32(0.5), 0, 1)
        return profile_height(inward, profile, profile_curve) * edge

    return context.map_bands(draw, source, channels=1)
