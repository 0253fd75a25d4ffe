"""Conic gradient: a value that rises around a middle."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.polar import seen_around
from reedloom.kernels.reach import measure_footprint
from reedloom.kinds.place.place_parts import places_of
from reedloom.kinds.shape.shape_parts import CENTRE, SHAPE_INPUTS
from reedloom.kit import GREY, Angle, Choice, Context, Count, FormHandles, Port, kind

TURNS = {
    "tiles": "it turns about one centre, and jumps back along a line from it across the seam",
    "resolution": "it turns infinitely fast at its centre",
}


@kind(
    id="conic_gradient",
    label="Conic gradient",
    family="shape",
    version=1,
    purpose="A value that rises around a middle, once or several times: rays, fans, dials.",
    inputs=SHAPE_INPUTS,
    outputs=(Port("gradient", GREY, exempt=TURNS),),
    parameters=(
        Count("repeats", 1, (1, 24), (1, 1024), help="How often it rises in one turn."),
        Choice("profile", "rise", ("rise", "tent"), help="Rises and falls back at once, or rises and sinks."),
        *CENTRE,
        Angle("turn", help="Turns it clockwise about its middle."),
    ),
    exempt={"shift": "the centre stays where it is"},
    synonyms=("angular", "radial rays", "fan", "sweep"),
    sample={"repeats": 6},
    handles=FormHandles(("centre_u", "centre_v"), turn="turn"),
)
def conic_gradient(
    context: Context,
    place: np.ndarray | None,
    *,
    repeats: int,
    profile: str,
    centre_u: float,
    centre_v: float,
    turn: float,
) -> np.ndarray:
    source = places_of(context, place)
    sample = np.full(source.shape[:2], context.sample, np.float32)
    if place is not None:
        sample = measure_footprint(place, context.bands, context.aspect)

    def draw(rows: np.ndarray, reach: np.ndarray) -> np.ndarray:
        radius, t = seen_around(rows, (centre_u, centre_v), context.aspect)
        t = (t - np.float32(turn / 360)) * np.float32(repeats)
        t -= np.floor(t)
        if profile == "tent":
            return 1 - np.abs(2 * t - 1)
        around = radius * np.float32(2 * math.pi / repeats)
        width = np.clip(reach / np.maximum(around, np.float32(1e-9)), 0, 1)
        # The step back is as wide as a sample.
        back = np.clip((t - (1 - width)) / np.maximum(width, np.float32(1e-9)), 0, 1)
        return t * (1 - back)

    return context.map_bands(draw, source, sample, channels=1)
