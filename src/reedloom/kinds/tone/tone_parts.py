"""What several tone kinds share: how much of a tone range one sample covers."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.places import steepness_rows
from reedloom.kit import Context

Fill = Callable[[np.ndarray, np.ndarray, np.ndarray], None]
"""``fill(tones, width, out)``: (n,), (n,), and (n,) or (n, channels) to be filled."""


def map_with_width(context: Context, map: np.ndarray, fill: Fill, channels: int = 1) -> np.ndarray:
    """What ``fill(tones, width, out)`` makes of a grey map, band by band.

    width is how far the tone changes across each sample, in the direction of the steepest rise;
    averaging over it makes hard steps as sharp as a sample allows, and no sharper. `channels` is that of
    the result.
    """
    out = context.empty(channels)

    def band(y0: int, y1: int) -> None:
        width = np.empty((y1 - y0, map.shape[1]), np.float32)
        steepness_rows(map, width, y0, y1)
        made = out[y0:y1]
        fill(map[y0:y1].reshape(-1), width.reshape(-1), made.reshape(-1, *made.shape[2:]))

    context.bands(band)
    return out
