"""Median: the middle value nearby; specks go, edges stay."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.maps import empty_like
from reedloom.kernels.medians import median_rows, unit_of
from reedloom.kinds.filter.filter_parts import STRENGTH, STRENGTH_MAP, each_channel, taken
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Count, Length, Port, kind

AT_ONCE = 2**18
"""Samples of a band, which takes some 30 ms."""


@kind(
    id="median",
    label="Median",
    family="filter",
    version=1,
    purpose="Takes the middle value nearby: specks and scratches go, edges stay where they are.",
    inputs=(Port("map", GREY | COLOUR), STRENGTH_MAP),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "radius",
            0.01,
            (0.002, 0.05),
            (0, 0.25),
            help="Half the side of the square that is looked at.",
            neutral=0.0,
        ),
        Count("levels", 48, (8, 96), (4, 256), help="How finely tones are told apart."),
        STRENGTH,
    ),
    synonyms=("despeckle", "remove specks", "smooth", "clean"),
    sample={"radius": 0.03},
)
def median(
    context: Context,
    map: np.ndarray,
    strength_map: np.ndarray | None,
    *,
    radius: float,
    levels: int,
    strength: float,
) -> np.ndarray:
    reach = context.samples(radius)
    if max(reach) < 0.25:
        return map
    found = each_channel(map, lambda grey: median_of(context, grey, reach, levels))
    return taken(context, map, found, strength, strength_map)


def median_of(context: Context, grey: np.ndarray, reach: tuple[float, float], levels: int) -> np.ndarray:
    """Each sample's median over a box, between levels by straight lines."""
    low, high = float(grey.min()), float(grey.max())
    if high - low < 1e-9:
        return grey
    height, width = grey.shape
    radius = (min(reach[0], (width - 1) / 2), min(reach[1], (height - 1) / 2))
    unit = (np.int32(unit_of(*radius)), levels)
    tones = (np.float32(low), np.float32((high - low) / levels))
    out = empty_like(grey)
    # Each band begins with all rows of its box: high ones waste less, but must not hold up a stop.
    rows = max(16, min(round(4 * radius[1]), AT_ONCE // width))
    context.bands(lambda y0, y1: median_rows(grey, radius, *tones, unit, out, y0, y1), band_rows=rows)
    return np.clip(out, low, high)
