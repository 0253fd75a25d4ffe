"""Disc: a round form with mask, profile and signed distance."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.places import tile_places
from reedloom.kinds.context import Context
from reedloom.kinds.declare import GREY, VECTOR, Length, Port, kind
from reedloom.kinds.shape.shape_parts import (
    PROFILE,
    PROFILE_CURVE,
    WRAPPED,
    edge_mask,
    profile_height,
    sample_size,
)


@kind(
    id="disc",
    label="Disc",
    family="shape",
    version=1,
    purpose="A round form, drawn sharp at any size and wrapped over the tile's edge.",
    inputs=(Port("place", VECTOR, optional=True, help="Where to draw; the plain tile if nothing is tied."),),
    outputs=(
        Port("profile", GREY, help="The height within the disc."),
        Port("mask", GREY, help="1 inside, 0 outside."),
        Port("distance", GREY, help="Distance to the edge in tiles, negative inside."),
    ),
    parameters=(
        Length("radius", 0.3, (0, 0.5), (0, 8), help="From the middle to the edge."),
        Length("centre_u", 0.5, (0, 1), (-64, 64), help="The middle, from the left."),
        Length("centre_v", 0.5, (0, 1), (-64, 64), help="The middle, from the top."),
        Length("softness", 0.0, (0, 0.2), (0, 4), help="How wide the mask fades at its edge."),
        PROFILE,
        PROFILE_CURVE,
        WRAPPED,
    ),
    exempt={"away": "where it is not wrapped there is just one, on the first tile"},
    synonyms=("circle", "dot", "ball", "round"),
)
def disc(
    context: Context,
    place: np.ndarray | None,
    *,
    radius: float,
    centre_u: float,
    centre_v: float,
    softness: float,
    profile: str,
    profile_curve: tuple[tuple[float, ...], ...],
    wrapped: bool,
) -> dict[str, np.ndarray]:
    source = tile_places(context.width, context.height) if place is None else place
    sample = np.broadcast_to(sample_size(context, place), source.shape[:2])
    centre = np.array([centre_u, centre_v], np.float32)
    outputs = {name: context.empty() for name in ("profile", "mask", "distance")}

    def band(y0: int, y1: int) -> None:
        away = source[y0:y1] - centre
        if wrapped:
            away -= np.round(away)
        distance = np.hypot(away[..., 0], away[..., 1]) - np.float32(radius)
        width = sample[y0:y1]
        inward = (width / 2 - distance) / np.float32(max(radius, 1e-6))
        outputs["distance"][y0:y1] = distance
        outputs["mask"][y0:y1] = edge_mask(distance, width, softness)
        height = profile_height(inward, profile, profile_curve)
        outputs["profile"][y0:y1] = height * edge_mask(distance, width, 0.0)

    context.bands(band, band_rows=32)
    return outputs
