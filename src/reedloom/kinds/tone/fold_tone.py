"""Fold tone: tones run up and down again, several times."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kinds.tone.tone_parts import map_with_width
from reedloom.kit import GREY, Choice, Context, Count, Float, Port, kind


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

    return map_with_width(
        context, map, lambda tones, covered, out: fold_rows(tones, covered, float(folds), begin, out)
    )


@inlined
def _run_up(x):  # type: ignore[no-untyped-def]
    """The integral of the zigzag that is 0 at even and 1 at odd whole numbers."""
    whole = np.floor(x * 0.5)
    part = x - 2 * whole
    rest = 2 - part
    return whole + (part * part * 0.5 if part < 1 else 1 - rest * rest * 0.5)


@kernel
def fold_rows(tones, covered, folds, begin, out):  # type: ignore[no-untyped-def]
    """The mean of the zigzag over what each sample covers."""
    for k in range(out.shape[0]):
        half = max(np.float64(covered[k]) * folds * 0.5, 1e-3)
        x = np.float64(tones[k]) * folds + begin
        out[k] = (_run_up(x + half) - _run_up(x - half)) / (2 * half)
