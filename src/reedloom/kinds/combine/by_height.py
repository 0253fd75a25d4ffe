"""By height: of two surfaces the higher one shows."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kinds.height.height_parts import smooth_step
from reedloom.kit import GREY, Context, Float, Port, kind


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
    synonyms=("blend by height", "higher", "compare"),
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
    masked = below_mask is not None or above_mask is not None
    wants_mask = masked or "mask" in context.wanted
    height, mask = context.empty(), context.empty()
    raised, soft = np.float32(offset), np.float32(max(softness, 1e-5))

    def band(y0: int, y1: int) -> None:
        first, second = below[y0:y1], above[y0:y1]
        if below_mask is not None:  # what is not there lies below everything
            first = sunk(first, second + raised, below_mask[y0:y1], soft)
        if above_mask is not None:
            second = sunk(second + raised, first, above_mask[y0:y1], soft) - raised
        higher_rows(first, second, raised, soft, wants_mask, height[y0:y1], mask[y0:y1])
        if masked:
            first = below[y0:y1]
            height[y0:y1] = first + (above[y0:y1] + raised - first) * mask[y0:y1]

    context.bands(band)
    return {"height": height, "mask": mask}


def sunk(height: np.ndarray, other: np.ndarray, mask: np.ndarray, softness: np.float32) -> np.ndarray:
    """A surface let down below the other where its mask is 0."""
    away = np.float32(1) - np.clip(mask, 0, 1)
    return height - away * (np.abs(height - other) + np.float32(2) * softness)


@kernel
def higher_rows(below, above, offset, softness, wants_mask, height, mask):  # type: ignore[no-untyped-def]
    """Mix two surfaces (n, W) by which is higher, and say where the second shows."""
    one, two, three, half = np.float32(1), np.float32(2), np.float32(3), np.float32(0.5)
    scale = half / softness
    for y in range(below.shape[0]):
        first, second = below[y], above[y]
        for x in range(first.shape[0]):
            a = first[x]
            b = second[x] + offset
            t = (b - a) * scale + half
            t = one if t > one else t
            t = np.float32(0) if t < np.float32(0) else t
            share = t * t * (three - two * t)
            if wants_mask:
                mask[y, x] = share
            height[y, x] = a + (b - a) * share


def overlap_share(lead: np.ndarray, softness: float) -> np.ndarray:
    """How much of what leads by so much shows, 0 to 1, smoothly over the softness."""
    soft = max(softness, 1e-5)
    return smooth_step(-soft, soft, lead)
