"""Match tone: a map's average and spread become those of another."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.maps import empty_like
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
    (mean, deviation), (wanted_mean, wanted_deviation) = (moments(context, m) for m in (map, like))
    ratio = np.where(deviation > 1e-7, wanted_deviation / np.maximum(deviation, 1e-7), 1.0)
    scale = (1 + spread * (ratio - 1)).astype(np.float32)
    target = (mean + average * (wanted_mean - mean)).astype(np.float32)
    offset = target - mean.astype(np.float32) * scale
    channels = len(scale)
    out = empty_like(map)

    def band(y0: int, y1: int) -> None:
        rows = map[y0:y1].reshape(-1, channels)
        scale_rows(rows, scale, offset, out[y0:y1].reshape(-1, channels))

    context.bands(band)
    return out


@kernel
def scale_rows(source, scale, offset, out):  # type: ignore[no-untyped-def]
    """source × scale + offset in each channel: (n, channels)."""
    for c in range(out.shape[1]):
        for k in range(out.shape[0]):
            out[k, c] = source[k, c] * scale[c] + offset[c]


def moments(context: Context, map: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Mean and standard deviation of each channel."""
    flat = map.reshape(len(map), map.shape[1], -1)
    rows = np.empty((len(map), 2, flat.shape[2]))
    context.bands(lambda y0, y1: add_up(flat, rows, y0, y1), rows=len(map))
    total, squares = rows.sum(axis=0) / (len(map) * map.shape[1])
    return total, np.sqrt(np.maximum(squares - total**2, 0))


@kernel
def add_up(map, out, y0, y1):  # type: ignore[no-untyped-def]
    """The sums of a map's values and of their squares, of each row and channel: (H, W, c) to (H, 2, c).

    In eight lines of sums, since one alone waits for each addition.
    """
    width = map.shape[1]
    sums, squares = np.zeros(8), np.zeros(8)
    for y in range(y0, y1):
        for c in range(map.shape[2]):
            sums[:], squares[:] = 0.0, 0.0
            for x in range(width):
                value = np.float64(map[y, x, c])
                sums[x % 8] += value
                squares[x % 8] += value * value
            out[y, 0, c], out[y, 1, c] = sums.sum(), squares.sum()
