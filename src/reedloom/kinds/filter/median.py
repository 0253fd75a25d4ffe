"""Median: the middle value nearby; specks go, edges stay."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.boxes import box_mean, settle_rows
from reedloom.kernels.tones import affine
from reedloom.kinds.filter.filter_parts import each_channel
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Count, Length, Port, kind


@kind(
    id="median",
    label="Median",
    family="filter",
    version=1,
    purpose="Takes the middle value nearby: specks and scratches go, edges stay where they are.",
    inputs=(Port("map", GREY | COLOUR),),
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
    ),
    synonyms=("despeckle", "remove specks", "smooth", "clean"),
    sample={"radius": 0.03},
)
def median(context: Context, map: np.ndarray, *, radius: float, levels: int) -> np.ndarray:
    reach = context.samples(radius)
    return (
        map if max(reach) < 0.25 else each_channel(map, lambda grey: median_of(context, grey, reach, levels))
    )


def median_of(context: Context, grey: np.ndarray, reach: tuple[float, float], levels: int) -> np.ndarray:
    """Each sample's median over a box, between levels by straight lines.

    For each level the share of the box that lies below it is a box mean, whose cost does not depend
    on the radius; the median is where that share passes one half.
    """
    low, high = float(grey.min()), float(grey.max())
    if high - low < 1e-9:
        return grey
    step = (high - low) / levels
    out = np.full_like(grey, high)
    before = np.zeros_like(grey)
    for number in range(1, levels + 1):
        context.stop.check()
        at = low + number * step
        # Values within a step of the level count by how far below it they are.
        below = affine(context.bands, grey, -1 / step, at / step, 0.0, 1.0)
        share = box_mean(below, *reach, context.bands)
        limits = (np.float32(at - 1.5 * step), np.float32(step))

        def settle(y0: int, y1: int, now: np.ndarray = share, was: np.ndarray = before) -> None:
            settle_rows(now, was, *limits, out, y0, y1)  # noqa: B023 - run before the next level

        context.bands(settle)
        before = share
    return np.clip(out, low, high)
