"""What kinds that work on surfaces share: slopes in metres, smooth steps, breaking up by noise."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.places import slope_rows
from reedloom.kinds.context import Context
from reedloom.kinds.declare import GREY, Port
from reedloom.kinds.noise.fractal_noise import fractal_noise

HEIGHT_IN = Port("height", GREY, help="The surface, 0 to 1.")
HEIGHT_OUT = Port("height", GREY, help="The changed surface.")


def true_slope(context: Context, height: np.ndarray, times: float = 1.0) -> np.ndarray:
    """The rise of a surface per metre along u and v, true to the weave's size and depth: (H, W, 2)."""
    slope = context.empty(2)
    dx, dy = context.physical[0] / context.width, context.physical[1] / context.height
    context.bands(lambda y0, y1: slope_rows(height, dx, dy, slope, y0, y1))
    slope *= np.float32(context.depth * times)
    return slope


def smooth_step(low: float, high: float, value: np.ndarray) -> np.ndarray:
    """0 below `low`, 1 above `high`, and a smooth rise between; a hard step where they are one."""
    t = np.clip((value - np.float32(low)) / np.float32(max(high - low, 1e-6)), 0, 1)
    step: np.ndarray = t * t * (np.float32(3) - np.float32(2) * t)
    return step


def crumbs(context: Context, cells: int, seed: int, octaves: float = 4.0) -> np.ndarray:
    """A plain fractal noise to break things up, about 0..1 with mean 0.5."""
    values = fractal_noise.defaults() | {"cells": cells, "octaves": octaves, "seed": seed}
    inside = Context(
        context.width, context.height, stop=context.stop, threads=context.threads, wanted=frozenset({"noise"})
    )
    made = fractal_noise.compute(inside, *([None] * len(fractal_noise.inputs)), **values)
    found: np.ndarray = made["noise"] if isinstance(made, dict) else made
    return found


def in_metres(context: Context, length: float) -> float:
    """A share of the tile in metres of its width."""
    return length * context.physical[0]
