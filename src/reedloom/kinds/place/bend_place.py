"""Bend place: adds a displacement to a place, so that what is drawn there bends without resampling."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.maps import empty_like
from reedloom.kernels.tones import flat_or_one, mean_of
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
    mean = mean_of(by).astype(np.float32).reshape(-1) if centred else np.zeros(2, np.float32)
    channels, out, drive = by.size // source[..., 0].size, empty_like(source), np.float32(strength)

    def band(y0: int, y1: int) -> None:
        share = flat_or_one(None if strength_map is None else strength_map[y0:y1])
        pairs = (source[y0:y1].reshape(-1, 2), by[y0:y1].reshape(-1, channels))
        bend_rows(*pairs, share, mean, way, drive, out[y0:y1].reshape(-1, 2))

    context.bands(band)
    return out


@kernel
def bend_rows(places, by, share, mean, way, strength, out):  # type: ignore[no-untyped-def]
    """Move places by vectors, or along one way by a grey map.

    Parameters
    ----------
    places : (n, 2) float32
        In tiles.
    by : (n, 2) or (n, 1) float32
    share : (n,) or (1,) float32
        Multiplies the strength.
    mean : (channels of `by`,) float32
        Taken away from it.
    way : (2,) float32
        In which a grey map moves places, in tiles.
    strength : float32
    out : (n, 2) float32
        Filled.
    """
    is_grey, step = by.shape[1] == 1, np.uint64(share.shape[0] > 1)
    for k in range(out.shape[0]):
        drive = strength * share[np.uint64(k) * step]
        across = (by[k, 0] - mean[0]) * drive
        if is_grey:
            out[k, 0], out[k, 1] = places[k, 0] + across * way[0], places[k, 1] + across * way[1]
        else:
            out[k, 0], out[k, 1] = places[k, 0] + across, places[k, 1] + (by[k, 1] - mean[1]) * drive
