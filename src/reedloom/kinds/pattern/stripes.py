"""Stripes: straight bars side by side."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.elements import Elements
from reedloom.kernels.jit import kernel
from reedloom.kernels.places import cell_in, in_tile
from reedloom.kinds.pattern.pattern_parts import FIXED, OUTPUTS, PLACE, SEED, bevelled, lay_pattern
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

    down = values["direction"] == "down"

    def find(places: np.ndarray, found: Elements) -> None:
        find_bars(places, count, 0 if down else 1, per_width, found)

    # What a bar leaves free counts as gap.
    gap = {"gap": values["gap"] + taken}
    return lay_pattern(context, inputs[0], find, {**values, **gap}, count)


@kernel
def find_bars(places, count, axis, per_width, found):  # type: ignore[no-untyped-def]
    """Find the bar at each place: so many along an axis, and in a width."""
    for k in range(places.shape[0]):
        x = in_tile(places[k, axis]) * np.float32(count)
        number = cell_in(x, count)
        part = x - np.float32(number)
        found.inward[k] = min(part, np.float32(1.0) - part) / per_width
        found.number[k] = number
        found.u[k], found.v[k] = part, in_tile(places[k, 1 - axis])
