"""What several colour kinds share: the spaces colours are taken apart in."""

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

Change = Callable[[np.ndarray], np.ndarray]
SPACES: dict[str, tuple[Change, Change]] = {
    "RGB": (lambda c: c, lambda c: c),
    "HSV": (lambda c: hsv_from_rgb(srgb_from_linear(c)), lambda c: linear_from_srgb(rgb_from_hsv(c))),
    "OKLCH": (lambda c: oklch_from_linear(np.maximum(c, 0)), linear_from_oklch),
}
"""From linear light to three numbers, and back: light as it is; hue, saturation and value as a screen
shows them; lightness, chroma and hue as the eye sees them."""
