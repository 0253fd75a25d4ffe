"""Bend place: adds a displacement to a place, so that what is drawn there bends without resampling."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.tones import mean_of
from reedloom.kinds.place.place_parts import places_of
from reedloom.kit import GREY, VECTOR, Angle, Context, Length, Port, Role, Switch, driving, kind, multiplies


@kind(
    id="bend_place",
    label="Bend place",
    family="place",
    version=1,
    purpose="Bends whatever is drawn at the place; nothing is resampled, so it stays crisp.",
    inputs=(
        Port("place", VECTOR, optional=True, role=Role.PLACE),
        Port(
            "by", VECTOR | GREY, help="Vectors move by themselves, a grey map along the angle.", role=Role.WAY
        ),
        driving("strength_map", multiplies("strength"), "Multiplies the strength, point by point."),
    ),
    outputs=(Port("place", VECTOR, role=Role.PLACE),),
    parameters=(
        Length("strength", 0.05, (0, 0.25), (-8, 8), help="How far the largest displacement reaches."),
        Angle("angle", help="The way in which a grey map pushes."),
        Switch(
            "centred",
            True,
            help="Takes the mean away, so that more strength does not also shift the picture.",
        ),
    ),
    exempt={"shift": "the place itself is what is shifted"},
    synonyms=("domain warp", "distort", "displace"),
    sample={"strength": 0.12},
)
def bend_place(
    context: Context,
    place: np.ndarray | None,
    by: np.ndarray,
    strength_map: np.ndarray | None,
    *,
    strength: float,
    angle: float,
    centred: bool,
) -> np.ndarray:
    source = places_of(context, place)
    way = context.in_tiles(
        np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))], np.float32)
    )
    mean = mean_of(by).astype(np.float32) if centred else np.float32(0)
    drive = np.float32(strength)

    def bend(rows: np.ndarray, by_rows: np.ndarray, *more: np.ndarray) -> np.ndarray:
        moved = (by_rows - mean) * drive
        if moved.ndim == 2:
            moved = moved[..., None] * way
        return rows + (moved * more[0][..., None] if more else moved)

    return context.map_bands(bend, source, by, *([] if strength_map is None else [strength_map]))
