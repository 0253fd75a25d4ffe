"""Periodic box means by running sums: any radius, fractions of a sample too, at one cost."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.maps import empty_like


def box_mean(map: np.ndarray, radius_u: float, radius_v: float, bands: Callable[..., None]) -> np.ndarray:
    """The mean over a box of 2 radius + 1 samples around each, by rows and then by columns: (H, W).

    Parameters
    ----------
    map : (H, W) float32
    radius_u, radius_v : float
        Samples to each side, from 0; a part of one counts by its share.
    bands : callable
        Runs a band function over rows or columns to the end, as `Context.bands` does.

    Returns
    -------
    (H, W) float32
    """
    height, width = map.shape
    across, out = empty_like(map), empty_like(map)
    reach = np.float64(min(radius_u, (width - 1) / 2))
    bands(lambda y0, y1: box_rows(map, reach, across, y0, y1))
    limit = np.float64(min(radius_v, (height - 1) / 2))
    bands(lambda x0, x1: box_columns(across, limit, out, x0, x1), rows=width, band_rows=256)
    return out


@kernel
def box_rows(source, radius, out, y0, y1):  # type: ignore[no-untyped-def]
    """Running means along rows; the outermost samples count by their share.

    Parameters
    ----------
    source : (H, W) float32
    radius : float
        Samples to each side; a part of one counts by its share.
    out : (H, W) float32
        Rows y0 to y1 are filled.
    """
    n = source.shape[1]
    whole = int(radius)
    part = radius - whole
    scale = 1.0 / (2 * radius + 1)
    margin = whole + 1
    row = np.empty(n + 2 * margin, np.float32)
    for y in range(y0, y1):
        row[margin : margin + n] = source[y]
        for k in range(margin):
            row[k] = source[y, (k - margin) % n]
            row[margin + n + k] = source[y, k % n]
        line = out[y]
        total = 0.0
        for k in range(2 * whole + 1):
            total += row[k + 1]
        for x in range(n):
            before = row[x]
            after = row[x + 2 * margin]
            line[x] = np.float32((total + part * (before + after)) * scale)
            total += after - row[x + 1]


@kernel
def box_columns(source, radius, out, x0, x1):  # type: ignore[no-untyped-def]
    """Running means down columns x0..x1, all of them side by side in vectors.

    Parameters
    ----------
    source : (H, W) float32
    radius : float
        Samples to each side; a part of one counts by its share.
    out : (H, W) float32
        Columns x0 to x1 are filled.
    """
    height = source.shape[0]
    whole = int(radius)
    part = np.float64(radius - whole)
    scale = 1.0 / (2 * radius + 1)
    total = np.zeros(x1 - x0, np.float64)
    for k in range(-whole, whole + 1):
        _add(total, source[k % height, x0:x1])
    for y in range(height):
        before = source[(y - whole - 1) % height, x0:x1]
        after = source[(y + whole + 1) % height, x0:x1]
        leaving = source[(y - whole) % height, x0:x1]
        _step(total, before, after, leaving, part, scale, out[y, x0:x1])


@kernel
def _add(total, row):  # type: ignore[no-untyped-def]
    for x in range(total.shape[0]):
        total[x] += row[x]


@kernel
def _step(total, before, after, leaving, part, scale, out):  # type: ignore[no-untyped-def]
    for x in range(total.shape[0]):
        out[x] = np.float32((total[x] + part * (before[x] + after[x])) * scale)
        total[x] += after[x] - leaving[x]
