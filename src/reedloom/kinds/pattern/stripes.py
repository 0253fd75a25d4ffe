"""Stripes: straight bars side by side."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kinds.pattern.pattern_parts import FIXED, OUTPUTS, PLACE, SEED, Elements, bevelled, lay_pattern
from reedloom.kit import Choice, Context, Count, Float, kind


@kind(
    id="stripes",
    label="Stripes",
    family="pattern",
    version=1,
    purpose="Straight bars side by side, as wide as wanted: slats, ribs, corduroy.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("count", 12, (1, 40), (1, 4096), help="Bars across the tile."),
        Choice("direction", "down", ("down", "across"), help="Which way the bars run."),
        Float("width", 0.6, (0.05, 1), (0.001, 1), help="The share of the distance that a bar takes."),
        *bevelled(0.02, 0.0),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("bars", "slats", "ribs", "lines", "corduroy"),
)
def stripes(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    count = values["count"]
    per_width = count if values["direction"] == "down" else count / context.aspect
    taken = (1 - values["width"]) / per_width

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        across, along = (u, v) if values["direction"] == "down" else (v, u)
        x = across * np.float32(count)
        number = np.minimum(x.astype(np.int64), count - 1)
        part = x - number
        inward = np.minimum(part, 1 - part) / np.float32(per_width)
        return Elements(inward, number, part, along)

    # What a bar leaves free counts as gap.
    gap = {"gap": values["gap"] + taken}
    return lay_pattern(context, inputs[0], find, {**values, **gap}, count)
