"""What several colour kinds share: the spaces colours are taken apart in, and work in OKLCH."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.colours import (
    hsv_from_rgb,
    linear_from_oklch,
    linear_from_srgb,
    oklch_from_linear,
    rgb_from_hsv,
    srgb_from_linear,
)
from reedloom.kit import Context

Change = Callable[[np.ndarray], np.ndarray]
SPACES: dict[str, tuple[Change, Change]] = {
    "RGB": (lambda c: c, lambda c: c),
    "HSV": (lambda c: hsv_from_rgb(srgb_from_linear(c)), lambda c: linear_from_srgb(rgb_from_hsv(c))),
    "OKLCH": (lambda c: oklch_from_linear(np.maximum(c, 0)), linear_from_oklch),
}
"""From linear light to three numbers, and back: light as it is; hue, saturation and value as a screen
shows them; lightness, chroma and hue as the eye sees them."""


def change_colours(context: Context, function: Callable[..., np.ndarray], *maps: np.ndarray) -> np.ndarray:
    """Apply ``function(lch, *rows)`` to a colour map in OKLCH, band by band."""

    def change(rows: np.ndarray, *more: np.ndarray) -> np.ndarray:
        lch = oklch_from_linear(np.maximum(rows, 0).astype(np.float64))
        return np.maximum(linear_from_oklch(function(lch, *more)), 0).astype(np.float32)

    return context.map_bands(change, *maps, channels=3)
