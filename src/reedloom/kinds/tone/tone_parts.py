"""What several tone kinds share: how much of a tone range one sample covers."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kinds.filter.filter_parts import slope_in_samples
from reedloom.kit import Context

Average = Callable[[np.ndarray, np.ndarray], np.ndarray]


def map_with_width(
    context: Context, map: np.ndarray, function: Average, channels: int | None = None
) -> np.ndarray:
    """Apply ``function(tones, width)`` band by band to a grey map.

    width is how far the tone changes across each sample, in the direction of the steepest rise;
    averaging over it makes hard steps as sharp as a sample allows, and no sharper. `channels` is that of
    the result, if not grey.
    """
    slope = slope_in_samples(context, map)

    def rows(tones: np.ndarray, slopes: np.ndarray) -> np.ndarray:
        return function(tones, np.hypot(slopes[..., 0], slopes[..., 1]))

    return context.map_bands(rows, map, slope, channels=channels)
