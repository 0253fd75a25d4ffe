"""What several filters share: channel by channel work, and lengths in samples."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.gauss import gaussian_blur
from reedloom.kernels.places import slope_rows
from reedloom.kit import Context, Float, driving, multiplies

STRENGTH = Float("strength", 1.0, (0, 1), (0, 1), help="How much of the change is taken.")
STRENGTH_MAP = driving("strength_map", multiplies("strength"), "Multiplies the strength, point by point.")


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
    return slope_of(context, map, *context.spacing)


def samples_of(context: Context, length: float) -> float:
    """A length in samples, the way where it is fewer."""
    return min(context.samples(length))


def taken(
    context: Context, before: np.ndarray, after: np.ndarray, strength: float, share: np.ndarray | None
) -> np.ndarray:
    """As much of a change as a strength says, times a map of it at each point if one is tied."""
    if strength == 1 and share is None:
        return after
    amount = np.float32(strength)

    def part(a: np.ndarray, b: np.ndarray, *drive: np.ndarray) -> np.ndarray:
        return a + (b - a) * (of_channels(drive[0] * amount, a) if drive else amount)

    return context.map_bands(part, before, after, *([] if share is None else [share]))


def of_channels(amount: np.ndarray, like: np.ndarray) -> np.ndarray:
    """Rows of a grey map, to be multiplied with rows of a grey or of a colour map, for each channel.

    Were they to meet a colour's three channels as one, the library would take each sample by itself.
    """
    if like.ndim == 2:
        return amount
    found = np.empty(like.shape, amount.dtype)
    for channel in range(like.shape[2]):
        found[..., channel] = amount
    return found
