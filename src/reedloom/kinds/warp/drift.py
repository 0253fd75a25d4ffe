"""Drift: a map carried along the slope of a guide in small steps."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import slope_in_widths, soften
from reedloom.kinds.warp.warp_parts import READING, by_rows, move_map
from reedloom.kit import GREY, Choice, Context, Count, Length, Port, kind

KEEPS = ("highest", "lowest", "average", "last")


@kind(
    id="drift",
    label="Drift",
    family="warp",
    version=1,
    purpose="Carries a map along the slope of a guide, keeping what is highest or lowest on the way.",
    inputs=(
        Port("map", GREY),
        Port(
            "guide", GREY, optional=True, help="Whose slope is followed; the map itself if nothing is tied."
        ),
    ),
    outputs=(Port("map", GREY),),
    parameters=(
        Length(
            "distance",
            0.02,
            (-0.1, 0.1),
            (-1, 1),
            help="How far it is carried: above 0 away from heights, below 0 towards them.",
        ),
        Choice("keeps", "highest", KEEPS, help="What stays of all that passes over a point on the way."),
        Count("steps", 12, (2, 32), (1, 256), help="More steps are smoother; the look stays."),
        Length(
            "smoothing",
            0.005,
            (0, 0.03),
            (0, 0.5),
            help="How much the guide is softened before its slope is taken.",
        ),
        READING,
    ),
    synonyms=("smear", "swell", "shrink", "erode edges", "bubbles", "flow along"),
    sample={"distance": 0.05},
)
def drift(
    context: Context,
    map: np.ndarray,
    guide: np.ndarray | None,
    *,
    distance: float,
    keeps: str,
    steps: int,
    smoothing: float,
    reading: str,
) -> np.ndarray:
    follows_itself = guide is None
    way = downhill(context, map if guide is None else guide, smoothing, distance / steps)
    carried = kept = map
    for number in range(steps):
        context.stop.check()
        carried = move_map(context, carried, by_rows(lambda rows: rows, way), reading)
        if keeps == "highest":
            kept = context.map_bands(np.maximum, kept, carried)
        elif keeps == "lowest":
            kept = context.map_bands(np.minimum, kept, carried)
        elif keeps == "average":
            share = np.float32(1 / (number + 2))
            kept = context.map_bands(lambda a, b, s=share: a + s * (b - a), kept, carried)
        else:
            kept = carried
        if follows_itself and keeps in {"highest", "lowest"}:
            # What swells or shrinks pushes on by its own new form.
            carried = kept
    return kept


def downhill(context: Context, guide: np.ndarray, smoothing: float, step: float) -> np.ndarray:
    """The unit way down a guide at each point times `step`; shorter where it is nearly level."""
    soft = soften(context, guide, smoothing)
    slope = slope_in_widths(context, soft)

    def level(rows: np.ndarray) -> np.ndarray:
        steep = np.sqrt(rows[..., 0] ** 2 + rows[..., 1] ** 2 + np.float32(1.0))
        return context.in_tiles(rows * (np.float32(-step) / steep)[..., None])

    return context.map_bands(level, slope)
