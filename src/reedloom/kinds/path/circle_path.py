"""Circle path: rings, ovals, or arcs of them."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kinds.path.path_parts import FIXED, PATHS_OUT, SIZES, make_even_paths, sized
from reedloom.kit import Angle, Context, Count, Float, FormHandles, Length, kind

CORNERS = 256


@kind(
    id="circle_path",
    label="Circle path",
    family="path",
    version=1,
    purpose="Rings or arcs around a centre, round or oval.",
    outputs=(PATHS_OUT,),
    parameters=(
        Length("radius", 0.3, (0.02, 0.5), (0, 4), help="The innermost ring's radius."),
        Float("flatness", 0.0, (0, 0.9), (0, 1), help="How much lower than wide: 0 is round."),
        Count("rings", 1, (1, 12), (1, 256), help="Rings, one around the other."),
        Length("ring_spacing", 0.05, (0.01, 0.2), (0, 2), help="From ring to ring."),
        Angle("arc_from", 0.0, help="Where the arc begins.", useful=(0, 360)),
        Angle("arc_to", 360.0, help="Where the arc ends.", useful=(0, 360)),
        Angle("turn", help="Turns the rings about the centre."),
        *SIZES,
        Length("centre_u", 0.5, (0, 1), (-64, 64), help="The centre from the left."),
        Length("centre_v", 0.5, (0, 1), (-64, 64), help="The centre from the top."),
    ),
    sample={"rings": 4, "radius": 0.1, "flatness": 0.3},
    exempt=FIXED,
    synonyms=("ring", "ellipse", "oval", "arc"),
    handles=FormHandles(("centre_u", "centre_v"), size="radius", turn="turn"),
)
def circle_path(context: Context, **values: Any) -> np.ndarray:
    angle = np.radians(np.linspace(values["arc_from"], values["arc_to"], CORNERS + 1))
    c, s = np.cos(np.radians(values["turn"])), np.sin(np.radians(values["turn"]))
    rings = np.arange(values["rings"])
    radius = (values["radius"] + rings * values["ring_spacing"])[:, None]
    x, y = radius * np.cos(angle), radius * (1 - values["flatness"]) * np.sin(angle)
    u, v = values["centre_u"] + c * x - s * y, values["centre_v"] + (s * x + c * y) / context.aspect
    return sized(make_even_paths(u, v, rings), values)
