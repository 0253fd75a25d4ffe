"""What several filters share: channel by channel work, and lengths in samples."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.gauss import gaussian_blur
from reedloom.kernels.places import slope_rows
from reedloom.kit import Context


def each_channel(map: np.ndarray, work: Callable[[np.ndarray], np.ndarray]) -> np.ndarray:
    """Work on a grey map, or on each channel of a colour map."""
    if map.ndim == 2:
        return work(map)
    parts = [work(np.ascontiguousarray(map[..., c])) for c in range(map.shape[2])]
    return np.stack(parts, axis=-1)


def soften(context: Context, map: np.ndarray, radius: float) -> np.ndarray:
    """The periodic Gaussian blur of a map; `radius` is its deviation in widths of the tile."""
    if radius <= 0:
        return map
    return each_channel(map, lambda grey: gaussian_blur(grey, context.shares(radius), context.bands))


def slope_of(context: Context, map: np.ndarray, dx: float, dy: float) -> np.ndarray:
    """The slope of a grey map whose samples are `dx` and `dy` apart: its rise per that unit, (H, W, 2)."""
    slope = context.empty(2)
    context.bands(lambda y0, y1: slope_rows(map, dx, dy, slope, y0, y1))
    return slope


def slope_in_widths(context: Context, map: np.ndarray) -> np.ndarray:
    """The slope of a grey map, its rise per width of the tile along u and v: (H, W, 2)."""
    return slope_of(context, map, 1 / context.width, context.aspect / context.height)


def samples_of(context: Context, length: float) -> float:
    """A length in samples, the way where it is fewer."""
    return min(context.samples(length))
