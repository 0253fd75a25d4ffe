"""Drawn tone curves and colour gradients, turned into tables once and read by interpolation."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np

from reedloom.kernels.colours import linear_from_oklab, oklab_from_linear

TABLE = 4096
Knots = Sequence[Sequence[float]]


def evaluate_curve(knots: Knots, x: np.ndarray) -> np.ndarray:
    """The height of a tone curve at `x`; level beyond its ends.

    Parameters
    ----------
    knots : sequence of (x, y, sharp)
        Between sharp knots the curve is a monotone cubic (Fritsch and Carlson 1980), so that it
        never swings beyond its knots; at a sharp knot it has a corner.
    """
    # Its import takes half a second, which the start of the window need not wait for.
    from scipy.interpolate import PchipInterpolator

    points = np.asarray(knots, np.float64)
    corners = [0, *(i for i in range(1, len(points) - 1) if points[i, 2] > 0), len(points) - 1]
    x = np.clip(np.asarray(x, np.float64), points[0, 0], points[-1, 0])
    out = np.empty_like(x)
    for a, b in itertools.pairwise(corners):
        piece = points[a : b + 1]
        inside = (x >= piece[0, 0]) & (x <= piece[-1, 0])
        if len(piece) == 2:
            out[inside] = np.interp(x[inside], piece[:, 0], piece[:, 1])
        else:
            out[inside] = PchipInterpolator(piece[:, 0], piece[:, 1])(x[inside])
    return out


def curve_table(knots: Knots) -> np.ndarray:
    """A tone curve sampled evenly from 0 to 1: (TABLE,) float32."""
    return evaluate_curve(knots, np.linspace(0, 1, TABLE)).astype(np.float32)


def read_table(table: np.ndarray, value: np.ndarray) -> np.ndarray:
    """Look values of 0..1 up in an evenly sampled table, mixing neighbours; level beyond the ends.

    value : any shape; table : (n,) or (n, channels); returns value's shape, with channels if any.
    """
    last = len(table) - 1
    place = np.clip(value * np.float32(last), 0, last, dtype=np.float32)
    cell = np.minimum(place.astype(np.int32), last - 1)
    part = place - cell
    if table.ndim == 2:
        part = part[..., None]
    low = table[cell]
    return low + part * (table[cell + 1] - low)


def gradient_table(stops: Knots, blending: str, mixing: str) -> np.ndarray:
    """A colour gradient sampled evenly from 0 to 1: (TABLE, 3) float32 linear light.

    Parameters
    ----------
    stops : sequence of (place, red, green, blue)
        Linear light; level beyond the first and last.
    blending : {"linear", "smooth", "stepped"}
        How one stop passes into the next.
    mixing : {"light", "OKLab"}
        In which space colours are mixed; OKLab is B. Ottosson's (2020).
    """
    points = np.asarray(stops, np.float64)
    x = np.linspace(0, 1, TABLE)
    colours = points[:, 1:]
    if mixing == "OKLab":
        colours = oklab_from_linear(colours)
    if len(points) == 1 or blending == "stepped":
        index = np.clip(np.searchsorted(points[:, 0], x, side="right") - 1, 0, len(points) - 1)
        mixed = colours[index]
    else:
        index = np.clip(np.searchsorted(points[:, 0], x, side="right") - 1, 0, len(points) - 2)
        span = np.maximum(points[index + 1, 0] - points[index, 0], 1e-9)
        t = np.clip((x - points[index, 0]) / span, 0, 1)
        if blending == "smooth":
            t = t * t * (3 - 2 * t)
        mixed = colours[index] + t[:, None] * (colours[index + 1] - colours[index])
    if mixing == "OKLab":
        mixed = linear_from_oklab(mixed)
    return mixed.astype(np.float32)
