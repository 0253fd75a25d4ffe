"""Polar place: radius and angle about a centre."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.polar import seen_around
from reedloom.kinds.place.place_parts import CENTRE, places_of
from reedloom.kit import GREY, VECTOR, Angle, Context, Count, Float, FormHandles, Port, Role, kind

TURNS = {
    "tiles": "angles turn about one centre, and jump back along a line from it across the seam",
    "resolution": "the angle turns infinitely fast at the centre and jumps back after each turn",
}


@kind(
    id="polar_place",
    label="Polar place",
    family="place",
    version=1,
    purpose="Radius and angle about a centre: what is drawn there runs around it.",
    inputs=(Port("place", VECTOR, optional=True, role=Role.PLACE),),
    outputs=(
        Port("radius", GREY, help="Distance to the centre, in tiles, by the shortest way."),
        Port("angle", GREY, help="The turn about the centre, 0 to 1.", exempt=TURNS),
        Port("place", VECTOR, help="Angle as u and radius as v.", exempt=TURNS, role=Role.PLACE),
    ),
    parameters=(
        *CENTRE,
        Count("around", 1, (1, 24), (1, 1024), help="How many tiles the place runs through in one turn."),
        Float(
            "outward",
            2.0,
            (0.5, 8),
            (0.001, 1024),
            help="How many tiles the place runs through in one tile of radius.",
        ),
        Angle("turn", help="Turns the beginning of the angle clockwise."),
    ),
    exempt={"shift": "the centre stays where it is"},
    synonyms=("radial", "around", "angle", "radius"),
    sample={"around": 6},
    handles=FormHandles(("centre_u", "centre_v"), turn="turn"),
)
def polar_place(
    context: Context,
    place: np.ndarray | None,
    *,
    centre_u: float,
    centre_v: float,
    around: int,
    outward: float,
    turn: float,
) -> dict[str, np.ndarray]:
    outputs = {n: context.empty(2 if n == "place" else 1) for n in sorted(context.wanted)}
    source = places_of(context, place)

    def band(y0: int, y1: int) -> None:
        radius, angle = seen_around(source[y0:y1], (centre_u, centre_v), context.aspect)
        angle -= np.float32(turn / 360)
        angle -= np.floor(angle)
        if "radius" in outputs:
            outputs["radius"][y0:y1] = radius
        if "angle" in outputs:
            outputs["angle"][y0:y1] = angle
        if "place" in outputs:
            np.multiply(angle, np.float32(around), out=outputs["place"][y0:y1, :, 0])
            np.multiply(radius, np.float32(outward), out=outputs["place"][y0:y1, :, 1])

    context.bands(band)
    return outputs
