"""Ring points: points around a centre, on one ring or several."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.points import make_points
from reedloom.kinds.points.points_parts import FACINGS, FIXED, POINTS_OUT, grid_ids
from reedloom.kit import Angle, Choice, Context, Count, FormHandles, Length, Switch, kind


@kind(
    id="ring_points",
    label="Ring points",
    family="points",
    version=1,
    purpose="Points on rings around a centre, each facing where you say.",
    outputs=(POINTS_OUT,),
    parameters=(
        Count("count", 12, (1, 96), (1, 4096), help="Points on the innermost ring."),
        Count("rings", 1, (1, 12), (1, 256), help="Rings, one around the other."),
        Length("radius", 0.25, (0, 0.5), (0, 2), help="The innermost ring's radius."),
        Length("ring_spacing", 0.08, (0.01, 0.25), (0, 2), help="From ring to ring."),
        Switch("evenly", True, help="Puts more points on outer rings, so that all keep their distance."),
        Angle("turn", help="Turns the first ring about the centre."),
        Angle("ring_turn", help="Turns each further ring by so much more."),
        Choice("face", "outward", FACINGS, help="Which way the points face."),
        Length("centre_u", 0.5, (0, 1), (-64, 64), help="The centre from the left."),
        Length("centre_v", 0.5, (0, 1), (-64, 64), help="The centre from the top."),
    ),
    exempt=FIXED,
    sample={"rings": 3, "radius": 0.12, "ring_spacing": 0.13},
    synonyms=("circle", "radial", "flower", "around", "polar array"),
    handles=FormHandles(("centre_u", "centre_v"), size="radius", turn="turn"),
)
def ring_points(context: Context, **values: Any) -> np.ndarray:
    counts, radii = [], []
    for ring in range(values["rings"]):
        radius = values["radius"] + ring * values["ring_spacing"]
        grown = radius / values["radius"] if values["evenly"] and values["radius"] > 0 else 1.0
        counts.append(max(1, min(4096, round(values["count"] * grown))))
        radii.append(radius)
    of_ring = np.repeat(np.arange(values["rings"]), counts)
    number = np.concatenate([np.arange(n) for n in counts])
    degrees = number / np.repeat(counts, counts) * 360 + values["turn"] + of_ring * values["ring_turn"]
    angle, radius_ = np.radians(degrees), np.repeat(radii, counts)
    points = make_points(
        values["centre_u"] + radius_ * np.cos(angle),
        values["centre_v"] + radius_ * np.sin(angle) / context.aspect,
        grid_ids(of_ring, number),
    )
    points["row"], points["column"] = of_ring, number
    if values["face"] != "right":
        points["turn"] = degrees + {"outward": 0.0, "inward": 180.0, "around": 90.0}[values["face"]]
    return points
