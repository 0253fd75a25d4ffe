"""What kinds that read a label map share: a value of each label, and the way from each label's middle."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.regions import RegionTable, fill_ways
from reedloom.kit import Context


def of_each(context: Context, labels: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Every sample's value of its label: (H, W) float32, or (H, W, channels).

    labels : (H, W) whole numbers from 0; values : (n,) or (n, channels), one for each label.
    """
    out = context.empty(1 if values.ndim == 1 else values.shape[1])
    table = values.astype(np.float32)

    def band(y0: int, y1: int) -> None:
        out[y0:y1] = table[labels[y0:y1]]

    context.bands(band)
    return out


def places_within(
    context: Context, labels: np.ndarray, table: RegionTable, keep_proportions: bool
) -> np.ndarray:
    """The place within each label's area, 0 to 1 over its longer side, or over both."""
    extent = np.maximum(table.high - table.low, 1e-9)
    start = table.low
    if keep_proportions:
        side = extent.max(axis=1, keepdims=True)
        start = start - (side - extent) / 2
        extent = np.broadcast_to(side, extent.shape)

    ways = np.zeros((len(start), 2, 3))
    ways[:, 0, 0], ways[:, 1, 1] = 1 / extent[:, 0], context.aspect / extent[:, 1]
    ways[:, :, 2] = -start / extent
    return ways_from_middles(context, labels, table.u, table.v, ways)


def ways_from_middles(
    context: Context,
    labels: np.ndarray,
    u: np.ndarray,
    v: np.ndarray,
    ways: np.ndarray,
    bows: np.ndarray | None = None,
) -> np.ndarray:
    """What each label makes of the way from its middle, the shortest around the tile; 0 where it is 0.

    u, v : (n,) the middles on the tile; ways, bows : see `fill_ways`. Returns (H, W), or (H, W, channels).
    """
    channels = ways.shape[1]
    out = context.empty(channels)
    middles = np.stack([u, v], axis=1).astype(np.float64)
    bows = np.empty(0) if bows is None else np.asarray(bows, np.float64)
    ways = np.ascontiguousarray(ways, np.float64)

    def band(y0: int, y1: int) -> None:
        fill_ways(labels, middles, ways, bows, out.reshape(*labels.shape, channels), y0, y1)

    context.bands(band)
    return out
