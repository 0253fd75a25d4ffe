"""Runs: stains that run down the tile from their sources."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import hash_seed
from reedloom.kernels.stains import run_down
from reedloom.kinds.height.height_parts import HEIGHT_IN, crumbs, smooth_step, true_slope
from reedloom.kit import GREY, Context, Count, Float, Length, Port, Role, Seed, kind


@kind(
    id="runs",
    label="Runs",
    family="height",
    version=1,
    physical=True,
    purpose="Stains that run down the tile, follow the relief, fade, and come in again at the top.",
    inputs=(HEIGHT_IN, Port("source", GREY, help="From where they run: 1 is most.", role=Role.SOURCE)),
    outputs=(Port("runs", GREY, help="The stains, strongest at their sources."),),
    parameters=(
        Length(
            "length", 0.3, (0.02, 1), (0.001, 8), help="How far a stain runs until a third of it is left."
        ),
        Float("following", 0.5, (0, 2), (0, 20), help="How far the relief turns a stain aside."),
        Length("spreading", 0.004, (0, 0.02), (0, 0.2), help="How much a stain widens over its length."),
        Float("streaks", 0.6, (0, 1), (0, 1), help="How much a broad stain parts into streaks."),
        Count("streak_count", 60, (8, 200), (1, 4096), help="How fine the streaks are, across the tile."),
        Float("wander", 0.0, (0, 1), (0, 10), help="How far stains stray from side to side on their way."),
        Count(
            "wander_count", 12, (2, 40), (1, 1024), help="How often they stray from the top to the bottom."
        ),
        Seed(),
    ),
    exempt={
        "metric": "streaks lie by chance, which differs from place to place",
        "resolution": "a stain turns aside at every small bump, and a smaller map has fewer of them",
        "shift": "the noise by which stains part into streaks stays where it is",
    },
    synonyms=("drip", "leak", "stain", "streaks", "rust", "water"),
)
def runs(
    context: Context,
    height: np.ndarray,
    source: np.ndarray,
    *,
    length: float,
    following: float,
    spreading: float,
    streaks: float,
    streak_count: int,
    wander: float,
    wander_count: int,
    seed: int,
) -> np.ndarray:
    rise = true_slope(context, height)
    columns = np.float32(context.physical[1] / context.height / (context.physical[0] / context.width))

    def sideways(rise: np.ndarray, *stray: np.ndarray) -> np.ndarray:
        """In columns a row: downhill, no further than it can turn."""
        aside = rise[..., 0] * np.float32(-following)
        for map in stray:
            aside += (map - np.float32(0.5)) * np.float32(4 * wander)
        return np.clip(aside, -1, 1) * columns

    strays = [crumbs(context, wander_count, hash_seed(seed, 7), 3.0)] if wander > 0 else []
    aside = context.map_bands(sideways, rise, *strays, channels=1)
    parted = source
    if streaks > 0:
        parted = context.map_bands(
            lambda rows, noise: rows * (np.float32(1) - np.float32(streaks) * smooth_step(0.35, 0.65, noise)),
            source,
            crumbs(context, streak_count, seed, 2.0),
        )
    keep = float(np.exp(-1 / (context.samples(max(length, 1e-4))[1])))
    widen = (spreading * context.width) ** 2 / max(context.samples(length)[1], 1)
    return run_down(
        np.ascontiguousarray(parted), np.ascontiguousarray(aside), keep, widen, length, context.stop.check
    )
