"""What runs over a surface: stains row by row down the tile, and rain that wears it away."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.places import beside

ROWS = 64
"""Rows between two looks at the stop flag."""
FAINT = 0.003


def run_down(
    source: np.ndarray, aside: np.ndarray, keep: float, widen: float, length: float, check: Callable[[], None]
) -> np.ndarray:
    """Carry stains down the rows, around the tile, until what began at the top no longer shows.

    Parameters
    ----------
    source : (H, W) float32
        What starts at each place, from 0.
    aside : (H, W) float32
        Columns moved for each row.
    keep : float
        The share left after each row, 0 to 1.
    widen : float
        Variance gained a row, in columns.
    length : float
        In tiles, until a third is left.
    check : callable
        Called every few rows; raises to end the work.

    Returns
    -------
    (H, W) float32
    """
    height, width = source.shape
    out = np.zeros_like(source)
    now, spare = np.zeros(width, np.float32), np.empty(width, np.float32)
    turns = 1 + min(12, int(np.ceil(-np.log(FAINT) * length)))
    side = np.float32(min(0.25, widen / 2))
    for start in range(0, turns * height, ROWS):
        check()
        run_rows(
            source, aside, np.float32(keep), side, now, spare, out, start, min(ROWS, turns * height - start)
        )
    return out


@kernel
def run_rows(source, aside, keep, side, now, spare, out, start, count):  # type: ignore[no-untyped-def]
    """Carry the stain `now` (W,) on over some rows, and leave it in `out`.

    Parameters
    ----------
    source, aside, keep
        As in `run_down`.
    side : float32
        The share that each column gives to both sides, 0 to 0.25.
    now, spare : (W,) float32
        The stain, which is changed, and scratch memory.
    out : (H, W) float32
        Rows from `start` on are filled, `count` of them, around the tile.
    """
    height, width = source.shape
    for n in range(start, start + count):
        y = n % height
        line = source[y]
        turn = aside[y]
        for x in range(width):  # each place asks where what comes to it was
            at = x - turn[x]
            i = int(np.floor(at))
            part = np.float32(at - i)
            spare[x] = now[i % width] * (np.float32(1) - part) + now[(i + 1) % width] * part
        for x in range(width):
            left, right = beside(x, width)
            spread = spare[x] + side * (spare[left] - spare[x] - spare[x] + spare[right])
            spread *= keep
            now[x] = spread if spread > line[x] else line[x]
            out[y, x] = now[x]


STEP = 0.2
"""Time from one look at the water to the next, for cells of length 1 and a pull of 1."""


def rain_on(
    ground: np.ndarray,
    rain: np.ndarray,
    steps: int,
    *,
    dissolving: float,
    carrying: float,
    drying: float,
    check: Callable[[], None],
) -> np.ndarray:
    """Let rain wear a surface away and lay down elsewhere what it carried; nothing is lost.

    Water moves through pipes between neighbours (X. Mei and others, *Fast hydraulic erosion simulation and
    visualization on GPU*, 2007); what it carries moves in the same share as the water itself, so that the
    sum stays.

    Parameters
    ----------
    ground : (h, w) float64
        In lengths of a cell.
    rain : (h, w) float64
        What falls in each step.
    dissolving : float
        The share of what water could still carry that it takes up in a step, 0 to 1.
    carrying : float
        How much water can carry.
    drying : float
        The share of the water lost in a step, 0 to 1.
    check : callable
        Called before each step; raises to end the work.

    Returns
    -------
    (h, w) float64, the new ground
    """
    ground = ground.copy()
    water, load = np.zeros_like(ground), np.zeros_like(ground)
    flow, spare = np.zeros((*ground.shape, 4)), np.zeros_like(ground)
    for _ in range(steps):
        check()
        pour_step(ground, water, rain, flow)
        wear_step(ground, water, load, flow, spare, dissolving, carrying, drying)
    return ground + load


@kernel
def pour_step(ground, water, rain, flow):  # type: ignore[no-untyped-def]
    """Rain falls, and the outflow of each cell to the right, the left, down and up is set anew.

    Parameters
    ----------
    ground, water, rain : (h, w) float64
        Water is changed.
    flow : (h, w, 4) float64
        Changed.
    """
    height, width = ground.shape
    for y in range(height):
        for x in range(width):
            water[y, x] += rain[y, x]
    for y in range(height):
        above, below = beside(y, height)
        for x in range(width):
            left, right = beside(x, width)
            level = ground[y, x] + water[y, x]
            a = max(0.0, 0.98 * flow[y, x, 0] + STEP * (level - ground[y, right] - water[y, right]))
            b = max(0.0, 0.98 * flow[y, x, 1] + STEP * (level - ground[y, left] - water[y, left]))
            c = max(0.0, 0.98 * flow[y, x, 2] + STEP * (level - ground[below, x] - water[below, x]))
            d = max(0.0, 0.98 * flow[y, x, 3] + STEP * (level - ground[above, x] - water[above, x]))
            total = (a + b + c + d) * STEP
            share = min(1.0, water[y, x] / total) if total > 0 else 0.0
            flow[y, x, 0] = a * share
            flow[y, x, 1] = b * share
            flow[y, x, 2] = c * share
            flow[y, x, 3] = d * share


@kernel
def wear_step(ground, water, load, flow, spare, dissolving, carrying, drying):  # type: ignore[no-untyped-def]
    """Water and its load move on; then each cell takes up ground or lays it down.

    Parameters
    ----------
    ground, water, load : (h, w) float64
        All are changed.
    flow : (h, w, 4) float64
        From `pour_step`.
    spare : (h, w) float64
        Scratch memory.
    dissolving, carrying, drying : float
        As in `rain_on`.
    """
    height, width = ground.shape
    for y in range(height):
        above, below = beside(y, height)
        for x in range(width):
            left, right = beside(x, width)
            out = (flow[y, x, 0] + flow[y, x, 1] + flow[y, x, 2] + flow[y, x, 3]) * STEP
            kept = load[y, x] * (1.0 - min(1.0, out / max(water[y, x], 1e-12)))
            for side in range(4):
                j = above if side == 2 else below if side == 3 else y
                i = left if side == 0 else right if side == 1 else x
                if water[j, i] > 1e-12:
                    kept += load[j, i] * min(1.0, flow[j, i, side] * STEP / water[j, i])
            spare[y, x] = kept
    for y in range(height):
        above, below = beside(y, height)
        for x in range(width):
            left, right = beside(x, width)
            come = flow[y, left, 0] + flow[y, right, 1] + flow[above, x, 2] + flow[below, x, 3]
            gone = flow[y, x, 0] + flow[y, x, 1] + flow[y, x, 2] + flow[y, x, 3]
            across = flow[y, left, 0] - flow[y, x, 1] + flow[y, x, 0] - flow[y, right, 1]
            down = flow[above, x, 2] - flow[y, x, 3] + flow[y, x, 2] - flow[below, x, 3]
            deep = max(0.0, water[y, x] + (come - gone) * STEP)
            run = np.sqrt(across * across + down * down) / 2 / max(deep, 0.02)
            tilt_u = (ground[y, right] - ground[y, left]) / 2
            tilt_v = (ground[below, x] - ground[above, x]) / 2
            tilt = tilt_u * tilt_u + tilt_v * tilt_v
            steep = np.sqrt(tilt / (1.0 + tilt))
            most = carrying * max(steep, 0.02) * min(run, 2.0) * min(deep, 1.0)
            held = spare[y, x]
            # What is taken up in a step never exceeds a small part of a cell, so that no pits are dug.
            change = min(dissolving * (most - held), 0.05) if most > held else 0.3 * (most - held)
            load[y, x] = held + change
            spare[y, x] = change
            water[y, x] = deep * (1.0 - drying)
    for y in range(height):
        for x in range(width):
            ground[y, x] -= spare[y, x]
