"""By height: of two surfaces the higher one shows."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.context import Context
from reedloom.kinds.declare import GREY, Float, Port, kind


@kind(
    id="by_height",
    label="By height",
    family="combine",
    version=1,
    purpose="Of two surfaces the higher one shows, as stones stand out of sand.",
    inputs=(
        Port("below", GREY, help="The first surface."),
        Port("above", GREY, help="The second surface."),
        Port("below_mask", GREY, optional=True, help="Where the first one is at all."),
        Port("above_mask", GREY, optional=True, help="Where the second one is at all."),
    ),
    outputs=(
        Port("height", GREY, help="The surface that shows."),
        Port("mask", GREY, help="1 where the second one shows."),
    ),
    parameters=(
        Float("offset", 0.0, (-0.5, 0.5), help="Raises the second surface before they are compared."),
        Float(
            "softness", 0.05, (0, 0.5), (0, 10), help="Over how much of height one gives way to the other."
        ),
    ),
    synonyms=("height blend", "splat", "higher", "compare"),
)
def by_height(
    context: Context,
    below: np.ndarray,
    above: np.ndarray,
    below_mask: np.ndarray | None,
    above_mask: np.ndarray | None,
    *,
    offset: float,
    softness: float,
) -> dict[str, np.ndarray]:
    height, mask = context.empty(), context.empty()

    def band(y0: int, y1: int) -> None:
        first, second = below[y0:y1], above[y0:y1] + np.float32(offset)
        lead = second - first
        for side, map in ((-1, below_mask), (1, above_mask)):
            if map is not None:  # what is not there lies below everything
                away = np.float32(1) - np.clip(map[y0:y1], 0, 1)
                lead = lead - np.float32(side) * away * (np.abs(lead) + np.float32(2 * softness + 1e-3))
        share = overlap_share(lead, softness)
        mask[y0:y1] = share
        height[y0:y1] = joined_height(first, second, share)

    context.bands(band)
    return {"height": height, "mask": mask}


def overlap_share(lead: np.ndarray, softness: float) -> np.ndarray:
    """How much of what leads by so much shows, 0 to 1, smoothly over the softness."""
    t = np.clip(lead / np.float32(max(softness, 1e-5)) * np.float32(0.5) + np.float32(0.5), 0, 1)
    share: np.ndarray = t * t * (np.float32(3) - np.float32(2) * t)
    return share


def joined_height(first: np.ndarray, second: np.ndarray, share: np.ndarray) -> np.ndarray:
    """The two surfaces mixed: at their border they meet, so that no step and no ditch comes between."""
    height: np.ndarray = first + (second - first) * share
    return height
