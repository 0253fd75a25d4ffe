"""Islands: connected regions of a mask, joined across the seam."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.regions import find_regions
from reedloom.kit import GREY, ISLANDS, Context, Float, Port, Role, Switch, kind

WHOLE_SAMPLES = {
    "resolution": "islands are made of whole samples, and a thin bridge may part at another size"
}


@kind(
    id="islands",
    label="Islands",
    family="height",
    version=1,
    purpose="Finds the separate regions of a mask, across the tile's edge too.",
    inputs=(Port("mask", GREY, help="Islands are where it is above the level.", role=Role.MASK),),
    outputs=(Port("islands", ISLANDS, help="A number for each island.", exempt=WHOLE_SAMPLES),),
    parameters=(
        Float("level", 0.5, (0, 1), help="Where an island begins."),
        Switch("diagonal", False, help="Whether regions that touch only at a corner are one."),
        Float(
            "least_size",
            0.0,
            (0, 0.01),
            (0, 1),
            help="Leaves out islands smaller than this share of the tile.",
        ),
    ),
    synonyms=("connected", "flood", "label", "regions", "components"),
)
def islands(
    context: Context, mask: np.ndarray, *, level: float, diagonal: bool, least_size: float
) -> np.ndarray:
    return find_regions(mask > np.float32(level), diagonal, least_size, context.stop.check)
