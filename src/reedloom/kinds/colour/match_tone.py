"""Match tone: a map's average and spread become those of another."""

from __future__ import annotations

import numpy as np

from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Port, kind


@kind(
    id="match_tone",
    label="Match tone",
    family="colour",
    version=1,
    purpose="Gives a map the average and the spread of another, so that two pictures sit together.",
    inputs=(
        Port("map", GREY | COLOUR),
        Port("like", GREY | COLOUR, help="The map whose average and spread are taken."),
    ),
    outputs=(Port("map", SAME_AS("map", "like")),),
    parameters=(
        Float("average", 1.0, (0, 1), (0, 1), help="How much of the other map's average is taken."),
        Float("spread", 1.0, (0, 1), (0, 1), help="How much of the other map's spread is taken."),
    ),
    synonyms=("colour transfer", "statistics", "equalise", "grade like"),
)
def match_tone(
    context: Context, map: np.ndarray, like: np.ndarray, *, average: float, spread: float
) -> np.ndarray:
    (mean, deviation), (wanted_mean, wanted_deviation) = (moments(m) for m in (map, like))
    ratio = np.where(deviation > 1e-7, wanted_deviation / np.maximum(deviation, 1e-7), 1.0)
    scale = (1 + spread * (ratio - 1)).astype(np.float32)
    target = (mean + average * (wanted_mean - mean)).astype(np.float32)
    start = mean.astype(np.float32)
    return context.map_bands(lambda rows: (rows - start) * scale + target, map)


def moments(map: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Mean and standard deviation of each channel."""
    flat = map.reshape(len(map) * map.shape[1], -1)
    return flat.mean(axis=0, dtype=np.float64), flat.std(axis=0, dtype=np.float64)
