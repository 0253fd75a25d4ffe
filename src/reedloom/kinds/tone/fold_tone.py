"""Fold tone: tones run up and down again, several times."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.tone.tone_parts import map_with_width
from reedloom.kit import GREY, Choice, Context, Count, Float, Port, kind


def run_up(x: np.ndarray) -> np.ndarray:
    """The integral of the zigzag that is 0 at even and 1 at odd whole numbers."""
    whole = np.floor(x / 2)
    part = x - 2 * whole
    return whole + np.where(part < 1, part * part / 2, 1 - (2 - part) ** 2 / 2)


@kind(
    id="fold_tone",
    label="Fold tone",
    family="tone",
    version=1,
    purpose="Runs tones up and down again and again: rings, agate, ridges out of slopes.",
    inputs=(Port("map", GREY),),
    outputs=(Port("map", GREY),),
    parameters=(
        Count("folds", 3, (1, 16), (1, 1024), help="How many runs there are from 0 to 1."),
        Choice(
            "start",
            "low",
            ("low", "high", "middle"),
            help="Where the first run begins: at 0, at 1, or half way up.",
        ),
        Float("offset", 0.0, (0, 1), help="Moves the folds along the tones, in pairs of runs."),
    ),
    synonyms=("ping-pong", "triangle", "zigzag", "mirror", "rings"),
    sample={"folds": 4},
    shows_histogram=True,
)
def fold_tone(context: Context, map: np.ndarray, *, folds: int, start: str, offset: float) -> np.ndarray:
    begin = {"low": 0.0, "high": 1.0, "middle": 0.5}[start] + 2 * offset

    def fold(tones: np.ndarray, covered: np.ndarray) -> np.ndarray:
        half = np.maximum(covered * np.float64(folds) / 2, 1e-3)
        x = tones * np.float64(folds) + begin
        return ((run_up(x + half) - run_up(x - half)) / (2 * half)).astype(np.float32)

    return map_with_width(context, map, fold)
