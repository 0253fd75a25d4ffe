"""Rain that wears a surface away, and lays down elsewhere what it took."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from reedloom.kernels.jit import inlined, kernel

STEP = 0.2
"""Time from one look at the water to the next, for cells of length 1 and a pull of 1."""
RUNS_ON = 0.98
"""The share of its flow that water keeps from step to step."""
DRY = 1e-12
"""Water below this carries as little as if it were that."""
SIDES = 4
"""To the right, to the left, down and up."""


class Land(NamedTuple):
    """A surface in rain: what each cell has, in lengths of a cell, with the cells around the tile beside it.

    Attributes
    ----------
    ground, water, load : (h + 2, w + 2) float64
        Load is what the water of a cell carries.
    flow : (4, h + 2, w + 2) float64
        How much water goes on to each side in a time of 1.
    sent : (4, h + 2, w + 2) float64
        How much of its load a cell gives to each side in this step.
    spare : (h + 2, w + 2) float64
        How high the water stands; then what was taken up.
    """

    ground: np.ndarray
    water: np.ndarray
    load: np.ndarray
    flow: np.ndarray
    sent: np.ndarray
    spare: np.ndarray


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
    around = np.pad(ground, 1, mode="wrap")
    sides = (SIDES, *around.shape)
    empty = (np.zeros(shape) for shape in (around.shape, around.shape, sides, sides, around.shape))
    land = Land(around, *empty)
    for _ in range(steps):
        check()
        pour_step(*land, rain)
        wear_step(*land, dissolving, carrying, drying)
    return np.ascontiguousarray((land.ground + land.load)[1:-1, 1:-1])


@kernel
def pour_step(ground, water, load, flow, sent, spare, rain):  # type: ignore[no-untyped-def]
    """Rain falls, the flow out of each cell is set anew, and the load that goes with it leaves the cell.

    Parameters
    ----------
    ground, water, load, flow, sent, spare
        As in `Land`.
    rain : (h, w) float64
    """
    height, width = rain.shape
    share = np.empty(width)
    for y in range(height):
        falls, wet, dry, level = rain[y], water[y + 1][1:], ground[y + 1][1:], spare[y + 1][1:]
        for x in range(width):
            wet[x] += falls[x]
        for x in range(width):
            level[x] = dry[x] + wet[x]
    _wrap(spare)
    for y in range(1, height + 1):
        wet, held, level = water[y][1:], load[y][1:], spare[y][1:]
        right, left, down, up = flow[0, y][1:], flow[1, y][1:], flow[2, y][1:], flow[3, y][1:]
        _set_flow(level, level[1:], right, width)
        _set_flow(level, spare[y], left, width)
        _set_flow(level, spare[y + 1][1:], down, width)
        _set_flow(level, spare[y - 1][1:], up, width)
        for x in range(width):
            out = (right[x] + left[x] + down[x] + up[x]) * STEP
            share[x] = min(1.0, wet[x] / max(out, 1e-300))  # no more than there is
        for side in range(SIDES):
            out = flow[side, y][1:]
            for x in range(width):
                out[x] *= share[x]
        for x in range(width):
            share[x] = STEP * held[x] / max(wet[x], DRY)
        for side in range(SIDES):
            out, gone = flow[side, y][1:], sent[side, y][1:]
            for x in range(width):
                gone[x] = out[x] * share[x]
        right, left, down, up = sent[0, y][1:], sent[1, y][1:], sent[2, y][1:], sent[3, y][1:]
        for x in range(width):
            held[x] -= right[x] + left[x] + down[x] + up[x]
    for side in range(SIDES):
        _wrap(flow[side])
        _wrap(sent[side])


@inlined
def _set_flow(level, beside, out, width):  # type: ignore[no-untyped-def]
    """The flow to one side of a row's cells, from how much higher their water stands."""
    for x in range(width):
        out[x] = max(0.0, RUNS_ON * out[x] + STEP * (level[x] - beside[x]))


@inlined
def _wrap(field):  # type: ignore[no-untyped-def]
    """Lay the cells around the tile beside those at its border."""
    height, width = field.shape[0] - 2, field.shape[1] - 2
    for y in range(1, height + 1):
        field[y, 0], field[y, width + 1] = field[y, width], field[y, 1]
    for x in range(width + 2):
        field[0, x], field[height + 1, x] = field[height, x], field[1, x]


@kernel
def wear_step(ground, water, load, flow, sent, spare, dissolving, carrying, drying):  # type: ignore[no-untyped-def]
    """Water and its load arrive; then each cell takes up ground or lays it down.

    Parameters
    ----------
    ground, water, load, flow, sent, spare
        As in `Land`, after `pour_step`.
    dissolving, carrying, drying : float
        As in `rain_on`.
    """
    height, width = ground.shape[0] - 2, ground.shape[1] - 2
    deep, run, steep, aside = np.empty(width), np.empty(width), np.empty(width), np.empty(width)
    for y in range(1, height + 1):
        wet, held, taken = water[y][1:], load[y][1:], spare[y][1:]
        _arrive(sent, y, width, aside)
        for x in range(width):
            held[x] += aside[x]
        _arrive(flow, y, width, aside)
        right, left, down, up = flow[0, y][1:], flow[1, y][1:], flow[2, y][1:], flow[3, y][1:]
        for x in range(width):
            gone = right[x] + left[x] + down[x] + up[x]
            deep[x] = max(0.0, wet[x] + (aside[x] - gone) * STEP)
        _pass_through(flow[0, y], right, left, left[1:], run)
        _pass_through(flow[2, y - 1][1:], down, up, flow[3, y + 1][1:], aside)
        for x in range(width):
            depth = 2.0 * max(deep[x], 0.02)
            run[x] = (run[x] * run[x] + aside[x] * aside[x]) / (depth * depth)
        here, above, below = ground[y], ground[y - 1][1:], ground[y + 1][1:]
        after = here[2:]
        for x in range(width):
            tilt_u, tilt_v = (after[x] - here[x]) / 2, (below[x] - above[x]) / 2
            tilt = tilt_u * tilt_u + tilt_v * tilt_v
            steep[x] = tilt / (1.0 + tilt)
        for x in range(width):
            # The sine of the slope, 0.02 or more, times the speed, 2 or less: both are squares so far.
            pull = np.sqrt(max(steep[x], 0.02**2) * min(run[x], 2.0**2))
            most = carrying * pull * min(deep[x], 1.0)
            more = most - held[x]
            # What is taken up in a step never exceeds a small part of a cell, so that no pits are dug.
            taken[x] = min(dissolving * more, 0.05) if more > 0.0 else 0.3 * more
        for x in range(width):
            held[x] += taken[x]
            wet[x] = deep[x] * (1.0 - drying)
    for y in range(1, height + 1):
        dry, taken = ground[y][1:], spare[y][1:]
        for x in range(width):
            dry[x] -= taken[x]
    _wrap(ground)


@inlined
def _arrive(given, y, width, out):  # type: ignore[no-untyped-def]
    """What the cells beside a row's give to it."""
    left, right, above, below = given[0, y], given[1, y][2:], given[2, y - 1][1:], given[3, y + 1][1:]
    for x in range(width):
        out[x] = left[x] + right[x] + above[x] + below[x]


@inlined
def _pass_through(come, on, back, against, out):  # type: ignore[no-untyped-def]
    """How much water goes through a row's cells along an axis: in at one end and out at the other."""
    for x in range(out.shape[0]):
        out[x] = come[x] - back[x] + on[x] - against[x]
