"""What kinds that work on surfaces share: slopes in metres, smooth steps, breaking up by noise."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.reach import thinned
from reedloom.kernels.tones import smoothed
from reedloom.kinds.filter.filter_parts import slope_of
from reedloom.kinds.noise.fractal_noise import fractal_noise
from reedloom.kit import GREY, Context, Port, Role

HEIGHT_IN = Port("height", GREY, help="The surface, 0 to 1.", role=Role.HEIGHT)
ENOUGH = 256
"""Samples each way from which the spread of a map is told."""
HEIGHT_OUT = Port("height", GREY, help="The changed surface.", role=Role.HEIGHT)


def true_slope(context: Context, height: np.ndarray, times: float = 1.0) -> np.ndarray:
    """The rise of a surface per metre along u and v, true to the weave's size and depth: (H, W, 2)."""
    slope = slope_in_metres(context, height)
    slope *= np.float32(context.depth * times)
    return slope


def slope_in_metres(context: Context, map: np.ndarray) -> np.ndarray:
    """The slope of a map as it is, its rise per metre along u and v: (H, W, 2)."""
    return slope_of(context, map, context.physical[0] / context.width, context.physical[1] / context.height)


def smooth_step(low: float, high: float, value: np.ndarray) -> np.ndarray:
    """0 below `low`, 1 above `high`, and a smooth rise between; a hard step where they are one."""
    return smoothed(value, low, max(high - low, 1e-6))


def crumbs(context: Context, cells: int, seed: int, octaves: float = 4.0) -> np.ndarray:
    """A plain fractal noise to break things up, about 0..1 with mean 0.5."""
    values = fractal_noise.defaults() | {"cells": cells, "octaves": octaves, "seed": seed}
    made: np.ndarray = fractal_noise.compute(
        context.within(), *([None] * len(fractal_noise.inputs)), **values
    )
    return made


def nearly_farthest(map: np.ndarray, share: float) -> float:
    """How far from 0 such a share of a map lies at most, told as `nearly_most` tells it."""
    return nearly_most(np.abs(thinned(map, ENOUGH)), share)


def nearly_most(map: np.ndarray, share: float) -> float:
    """The value below which such a share of a map lies, told from some of its samples, `ENOUGH` each way."""
    return float(np.quantile(thinned(map, ENOUGH), share))
