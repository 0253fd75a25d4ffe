"""Maps read at given places by plain formulas, for checks of the loops that do so."""

from __future__ import annotations

from functools import partial

import numpy as np
from scipy import ndimage


def linear_reference(source: np.ndarray, place: np.ndarray) -> np.ndarray:
    """Wrapped linear interpolation of each channel."""
    height, width, channels = source.shape
    where = np.stack([place[..., 1] * float(height) - 0.5, place[..., 0] * float(width) - 0.5])
    read = partial(ndimage.map_coordinates, coordinates=where, order=1, mode="grid-wrap")
    return np.stack([read(source[..., c].astype(np.float64)) for c in range(channels)], axis=-1)


def spline_reference(source: np.ndarray, place: np.ndarray) -> np.ndarray:
    """The Catmull-Rom spline through 4 × 4 samples, from its matrix, held within the middle four."""
    height, width, _ = source.shape
    matrix = 0.5 * np.array([[0, 2, 0, 0], [-1, 0, 1, 0], [2, -5, 4, -1], [-1, 3, -3, 1]])
    at = place.astype(np.float64) * (width, height) - 0.5
    cell = np.floor(at).astype(int)
    weights = (at - cell)[..., None] ** np.arange(4) @ matrix
    near = cell[..., None] + np.arange(-1, 3)
    rows, columns = near[..., 1, :, None] % height, near[..., 0, None, :] % width
    sixteen = source[rows, columns]
    middle = sixteen[:, :, 1:3, 1:3]
    free = np.einsum("yxj,yxi,yxjic->yxc", weights[..., 1, :], weights[..., 0, :], sixteen)
    return np.clip(free, middle.min(axis=(2, 3)), middle.max(axis=(2, 3)))
