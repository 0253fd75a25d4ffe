"""What kinds that read a label map share: a value of each label, and the way from each label's middle."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.regions import RegionTable
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

    def within(du: np.ndarray, dv: np.ndarray, k: np.ndarray) -> np.ndarray:
        down = (dv * context.aspect - start[k, 1]) / extent[k, 1]
        return np.stack([(du - start[k, 0]) / extent[k, 0], down], axis=-1)

    return ways_from_middles(context, labels, table.u, table.v, within, 2)


def ways_from_middles(
    context: Context,
    labels: np.ndarray,
    u: np.ndarray,
    v: np.ndarray,
    make: Callable[[np.ndarray, np.ndarray, np.ndarray], np.ndarray],
    channels: int,
) -> np.ndarray:
    """A map made of the way from each label's middle, the shortest around the tile; 0 where the label is 0.

    u, v : (n,) the middles on the tile; make : gets the way along u and v in tiles, and the label.
    """
    out = context.empty(channels)
    across = (np.arange(context.width) + 0.5) / context.width

    def band(y0: int, y1: int) -> None:
        k = labels[y0:y1]
        down = (np.arange(y0, y1)[:, None] + 0.5) / context.height
        du, dv = across - u[k], down - v[k]
        made = make(du - np.round(du), dv - np.round(dv), k)
        out[y0:y1] = np.where(k > 0 if channels == 1 else (k > 0)[..., None], made, 0)

    context.bands(band, band_rows=16)
    return out
