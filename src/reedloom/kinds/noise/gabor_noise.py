"""Gabor noise: waves of a chosen direction, spread and frequency."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.gabor import add_wave_rows, make_waves
from reedloom.kernels.places import tile_places
from reedloom.kernels.reach import measure_footprint
from reedloom.kinds.noise.noise_parts import CONTRAST, EVOLUTION, PLACE, SEED, SIGNED, SPREAD
from reedloom.kit import GREY, Angle, Context, Float, Port, adds_to, driving, kind


@kind(
    id="gabor_noise",
    label="Gabor noise",
    family="noise",
    version=1,
    purpose="Ripples of one direction and width, as regular or loose as wanted: sand, cloth, leather.",
    inputs=(
        PLACE,
        driving(
            "direction_map",
            adds_to("direction"),
            "Added to the direction, point by point: 1 is a whole turn.",
        ),
    ),
    outputs=(Port("noise", GREY),),
    parameters=(
        Float("frequency", 24.0, (4, 128), (0.5, 2048), help="Ripples across the tile."),
        Angle("direction", help="The way across the ripples."),
        Angle(
            "spread",
            15.0,
            useful=(0, 90),
            help="How far the direction of single ripples departs to both sides.",
        ),
        Float(
            "bandwidth",
            0.25,
            (0.05, 1),
            (0.02, 1),
            help="How loose they are: narrow is regular, wide is blotchy.",
        ),
        CONTRAST,
        SEED,
        EVOLUTION,
        SIGNED,
    ),
    synonyms=("ripples", "waves", "directional", "anisotropic", "weave", "brushed"),
)
def gabor_noise(
    context: Context,
    place: np.ndarray | None,
    direction_map: np.ndarray | None,
    *,
    frequency: float,
    direction: float,
    spread: float,
    bandwidth: float,
    contrast: float,
    seed: int,
    evolution: float,
    signed: bool,
) -> np.ndarray:
    way, wide = math.radians(direction), math.radians(spread)
    waves = make_waves(seed, frequency, bandwidth, way, wide, evolution, context.stop.check)
    amount = contrast * (1.0 if signed else 0.5) / (SPREAD * waves.deviation)
    out = context.full(0.0 if signed else 0.5)
    if place is None:
        footprint = np.full((1, 1), 1 / min(context.width, context.height), np.float32)
    else:
        footprint = measure_footprint(place, context.bands)
    if frequency * footprint.min() >= 1:  # no sample carries anything of it
        return out
    own = np.zeros((1, 1), np.float32)

    def band(y0: int, y1: int) -> None:
        rows = tile_places(context.width, context.height, range(y0, y1)) if place is None else place[y0:y1]
        turn = own
        if direction_map is not None:
            turn = direction_map[y0:y1] * np.float32(2 * math.pi) + np.float32(way)
        reach = footprint if place is None else footprint[y0:y1]
        add_wave_rows(waves, rows, turn, wide, reach, amount, out[y0:y1])

    context.bands(band, band_rows=32)
    return out
