"""What kinds that read a label map share: a value of each label, and the way from each label's middle."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

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
