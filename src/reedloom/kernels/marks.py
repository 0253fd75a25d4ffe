"""Marks that show points and paths on a map to look at."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import around

TICK = 9
"""Dots of the tick that tells which way a point faces."""
MOST_TICKS = 20_000
"""Beyond so many points they are dots alone."""
DOTS = 1.5
"""Dots laid for each sample along a line."""


@inlined
def raise_dot(x, y, radius, tone, out):  # type: ignore[no-untyped-def]
    """Raise a map to one soft round dot around a place, all in samples, wrapped."""
    rows, columns = out.shape
    first = math.ceil(x - radius - 1)
    wide = math.floor(x + radius) + 1 - first
    for row in range(math.ceil(y - radius - 1), math.floor(y + radius) + 1):
        down = row + 0.5 - y
        j = around(row, rows)
        for k in range(wide):
            column = first + k
            across = column + 0.5 - x
            cover = min(radius + 0.5 - math.sqrt(across * across + down * down), 1.0) * tone
            i = around(column, columns)
            out[j, i] = max(out[j, i], cover)


@kernel
def raise_dots(x, y, radius, tone, out):  # type: ignore[no-untyped-def]
    """Raise a map to soft round dots, where they are higher than it.

    Parameters
    ----------
    x, y, radius : (n,) float64
        In samples.
    tone : (n,) float64
        Height of each dot's middle, 0 to 1.
    out : (H, W) float32
        Raised.
    """
    for n in range(len(x)):
        raise_dot(x[n], y[n], radius[n], tone[n], out)


@kernel
def raise_courses(paths, out):  # type: ignore[no-untyped-def]
    """Raise a map to the courses of paths, each a row of dots as broad and as bright as its corners say.

    paths : (m,) of `VERTEX`; out : (H, W) float32, raised
    """
    rows, columns = out.shape
    for n in range(len(paths) - 1):
        here, next_ = paths[n], paths[n + 1]
        if here.path != next_.path:
            continue
        du, dv = next_.u - here.u, next_.v - here.v
        dots = max(1, math.ceil(math.sqrt((du * columns) ** 2 + (dv * rows) ** 2) * DOTS))
        radius = min(max(0.9 * here.width, 0.3), 3.0)
        tone = min(max(here.height, np.float32(0.25)), np.float32(1))
        for k in range(dots):
            u, v = here.u + k / dots * du, here.v + k / dots * dv
            raise_dot(u * columns, v * rows, radius, tone, out)


def draw_marks(points: np.ndarray, width: int, height: int) -> np.ndarray:
    """Points as marks for looking: a dot at each, with a tick the way it faces; (height, width) float32."""
    out = np.zeros((height, width), np.float32)
    if not len(points):
        return out
    side = min(width, height)
    radius = float(np.clip(0.28 * side / np.sqrt(len(points)), 0.8, 0.02 * side + 0.8))
    turn = np.radians(points["turn"].astype(np.float64))
    tone = 0.35 + 0.65 * points["tone"].astype(np.float64)
    size = np.sqrt(np.maximum(points["size"].astype(np.float64), 0.05))
    for share in np.linspace(0, 1, TICK) if len(points) <= MOST_TICKS else np.zeros(1):
        thick = radius * (1 if share == 0 else 0.4 - 0.1 * share)
        x = points["u"] * width + np.cos(turn) * share * 2.6 * radius
        y = points["v"] * height + np.sin(turn) * share * 2.6 * radius
        raise_dots(x, y, thick * size, tone, out)
    return out


def draw_courses(paths: np.ndarray, width: int, height: int) -> np.ndarray:
    """Paths as lines for looking: (height, width) float32."""
    out = np.zeros((height, width), np.float32)
    raise_courses(paths, out)
    return out
