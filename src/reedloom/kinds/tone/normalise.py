"""Normalise: the full range, measured anew every time."""

from __future__ import annotations

import threading

import numpy as np

from reedloom.kernels.tones import mean_of
from reedloom.kit import COLOUR, GREY, SAME_AS, Choice, Context, Float, Port, Switch, kind

BINS = 8192


def measure_extremes(context: Context, map: np.ndarray) -> tuple[float, float]:
    """The least and the greatest value of a map."""
    lows, highs = [], []

    def band(y0: int, y1: int) -> None:
        lows.append(float(map[y0:y1].min()))
        highs.append(float(map[y0:y1].max()))

    context.bands(band)
    return min(lows), max(highs)


def measure_percentiles(context: Context, map: np.ndarray, share: float) -> tuple[float, float]:
    """The values below and above which `share` of the map lies, to 1/8192 of its range."""
    low, high = measure_extremes(context, map)
    if high <= low:
        return low, high
    counts = np.zeros(BINS, np.int64)
    lock = threading.Lock()
    scale = np.float32((BINS - 1) / (high - low))

    def band(y0: int, y1: int) -> None:
        found = np.bincount(
            ((map[y0:y1] - np.float32(low)) * scale).astype(np.int64).ravel(), minlength=BINS
        )[:BINS]
        with lock:
            counts[...] += found

    context.bands(band)
    filled = np.cumsum(counts) / counts.sum()
    first = int(np.searchsorted(filled, share, side="right"))
    last = int(np.searchsorted(filled, 1 - share, side="left"))
    return low + first / float(scale), low + (last + 1) / float(scale)


@kind(
    id="normalise",
    label="Normalise",
    family="tone",
    version=1,
    purpose="Brings a map to the full range, measured each time, whatever changes before it.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Choice(
            "measure",
            "extremes",
            ("extremes", "percentiles", "centred"),
            help="Lowest to highest value, leaving out a share at both ends, or with the mean in the middle.",
        ),
        Float(
            "left_out",
            0.01,
            (0, 0.1),
            (0, 0.49),
            help="The share left out at each end, for percentiles.",
            shown_if={"measure": "percentiles"},
        ),
        Float("low", 0.0, (0, 1), help="What the low end becomes."),
        Float("high", 1.0, (0, 1), help="What the high end becomes."),
        Switch("keep_within", False, help="Holds what lies beyond the measured ends at the ends."),
    ),
    synonyms=("full range", "fit", "stretch"),
    shows_histogram=True,
    exempt={
        "resolution": "single extreme samples set its range, and averaging takes the sharpest of them away"
    },
)
def normalise(
    context: Context,
    map: np.ndarray,
    *,
    measure: str,
    left_out: float,
    low: float,
    high: float,
    keep_within: bool,
) -> np.ndarray:
    if measure == "percentiles":
        a, b = measure_percentiles(context, map, left_out)
    else:
        a, b = measure_extremes(context, map)
    if measure == "centred":
        mean = float(mean_of(map))
        reach = max(b - mean, mean - a)
        a, b = mean - reach, mean + reach
    if b - a < 1e-9:
        # A level map has no range to stretch; it becomes the middle.
        return np.full_like(map, (low + high) / 2)
    scale = np.float32((high - low) / (b - a))
    ends = sorted((low, high))

    def stretch(rows: np.ndarray) -> np.ndarray:
        t = (rows - np.float32(a)) * scale + np.float32(low)
        return np.clip(t, ends[0], ends[1]) if keep_within else t

    return context.map_bands(stretch, map)
