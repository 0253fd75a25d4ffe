"""Flow noise: the curl of a noise, which neither gathers nor parts."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.octaves import AddRows, Reader
from reedloom.kernels.turned import Cosets
from reedloom.kinds.noise.noise_parts import (
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    TURN,
    cells_across,
    cells_of,
    make_reader,
    octaves_of,
    sum_rows,
    turned_lattice,
    turning_stops,
)
from reedloom.kit import GREY, VECTOR, Context, Float, Port, Role, kind

STRONG = 64.0
STEEPNESS = 0.55
"""Standard deviation of the slope of a potential scaled to reach ±1, per cell of its first octave, at
a gain of 0.5 and two octaves (measured)."""


@kind(
    id="flow_noise",
    label="Flow noise",
    family="noise",
    version=1,
    purpose="Swirling vectors that neither gather nor part, for bending places and drifting maps.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(
        Port("flow", VECTOR, help="About -1 to 1 in u and v.", role=Role.WAY),
        Port("potential", GREY, help="The noise whose contours the flow follows."),
    ),
    parameters=(
        *cells_across(4),
        Float(
            "octaves",
            2.0,
            (1, 4),
            (1, 16),
            help="How many finer copies are added; a fraction fades the last in.",
        ),
        Float("lacunarity", 2.0, (1.5, 2.5), (0, 16), help="How much finer each octave is."),
        Float("gain", 0.4, (0, 0.6), (0, 4), help="How strong each octave is against the one before."),
        Float("strength", 1.0, (0, 2), (-64, 64), help="Multiplies the vectors."),
        SEED,
        EVOLUTION,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("curl", "turbulence", "swirl", "current", "divergence free"),
)
def flow_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    cells: int,
    cells_down: int,
    octaves: float,
    lacunarity: float,
    gain: float,
    strength: float,
    seed: int,
    evolution: float,
    turn: float,
) -> dict[str, np.ndarray]:
    counts = cells_of(context, cells, cells_down)
    cosets = turned_lattice(context, turn, cells, cells_down)
    plan = octaves_of(context, cosets, cells, cells_down, octaves, lacunarity, gain)

    plain = make_reader(context, place, evolution_map, evolution, cosets)

    def adding(where: np.ndarray | None, offset: tuple[float, float] = (0.0, 0.0)) -> AddRows:
        # What a sample covers does not change where all places move by as little as half a sample.
        reader = replace(plain, place=where, offset=offset)
        # Faint fine octaves count in a slope, so that they are read as carefully as strong ones.
        return sum_rows(reader, "gradient", plan, seed, STRONG)

    outputs = {}
    if "flow" in context.wanted:
        scale = np.float32(strength * STEEPNESS / (STRONG * max(counts)))
        if plain.place is None:
            outputs["flow"] = curl_on_grid(context, adding, scale)
        else:
            flow = curl_at(context, plain, adding, scale)
            outputs["flow"] = flow if cosets is None else turned_back(context, flow, cosets)
    if "potential" in context.wanted:
        outputs["potential"] = whole(context, adding(plain.place)) * np.float32(0.5 / STRONG) + np.float32(
            0.5
        )
    return outputs


def whole(context: Context, add: AddRows) -> np.ndarray:
    """A noise over the whole map."""
    out = context.full(0.0)
    context.bands(lambda y0, y1: add(1.0, out[y0:y1], y0, y1))
    return out


def curl_on_grid(context: Context, adding: Callable[..., AddRows], scale: np.float32) -> np.ndarray:
    """The slope of a noise turned by a quarter, averaged over each sample: from edge to edge of it."""
    left = whole(context, adding(None, (-0.5 / context.width, 0.0)))
    top = whole(context, adding(None, (0.0, -0.5 / context.height)))
    out = context.empty(2)

    def band(y0: int, y1: int) -> None:
        rows, below = left[y0:y1], np.concatenate([top[y0 + 1 : y1], top[y1 % context.height][None]])
        out[y0:y1, :, 0] = (below - top[y0:y1]) * (scale * context.height)
        out[y0:y1, :-1, 1] = (rows[:, :-1] - rows[:, 1:]) * (scale * context.width)
        out[y0:y1, -1, 1] = (rows[:, -1] - rows[:, 0]) * (scale * context.width)

    context.bands(band)
    return out


def turned_back(context: Context, flow: np.ndarray, cosets: Cosets) -> np.ndarray:
    """A flow along the ways of a turned lattice, and as long as its corners are apart, as one of the tile."""
    scale = cosets.width / math.hypot(cosets.a, cosets.b)
    c, s = np.float32(cosets.a * scale), np.float32(cosets.b * scale)
    high = np.float32(context.aspect)

    def turn(rows: np.ndarray) -> np.ndarray:
        u, v = rows[..., 0], rows[..., 1]
        return np.stack([(c * u - s * v) * high, s * u + c * v], axis=-1)

    return context.map_bands(turn, flow)


def curl_at(context: Context, plain: Reader, adding: Callable[..., AddRows], scale: np.float32) -> np.ndarray:
    """The same at given places: from one side of what a sample covers to the other."""
    place, reach = plain.place, plain.footprint
    assert place is not None
    out, rise = context.empty(2), context.empty()
    before, after = np.empty_like(place), np.empty_like(place)

    for axis in range(2):

        def part(y0: int, y1: int, axis: int = axis) -> None:
            rows = slice(y0, y1)
            lay_sides(place[rows], reach[rows], axis, before[rows], after[rows])

        context.bands(part)
        add, take = adding(after), adding(before)

        def slope(y0: int, y1: int, axis: int = axis, add: AddRows = add, take: AddRows = take) -> None:
            rows = rise[y0:y1]
            rows[...] = 0.0
            add(1.0, rows, y0, y1)
            take(-1.0, rows, y0, y1)
            lay_slopes(rows, reach[y0:y1], scale if axis else -scale, out[y0:y1], 1 - axis)

        context.bands(slope)
    return out


LEAST_REACH = np.float32(1e-5)
"""Slopes are taken over so much of a width at least."""


@kernel
def lay_sides(place, reach, axis, before, after):  # type: ignore[no-untyped-def]
    """Lay places on both sides of given ones, half of what each covers away along an axis.

    Parameters
    ----------
    place : (n, W, 2) float32
        In tiles.
    reach : (n, W) float32
        In widths.
    axis : int
        0 for u, 1 for v.
    before, after : (n, W, 2) float32
        Filled.
    """
    along = np.float32(0.5) if axis == 0 else np.float32(0.0)
    down = np.float32(0.5) - along
    for y in range(reach.shape[0]):
        for x in range(reach.shape[1]):
            step = max(reach[y, x], LEAST_REACH)
            u, v = place[y, x, 0], place[y, x, 1]
            before[y, x, 0], before[y, x, 1] = u - step * along, v - step * down
            after[y, x, 0], after[y, x, 1] = u + step * along, v + step * down


@kernel
def lay_slopes(rise, reach, scale, out, channel):  # type: ignore[no-untyped-def]
    """What noise rises over each sample, as a slope: (n, W) into a channel of (n, W, 2), times a scale."""
    for y in range(rise.shape[0]):
        for x in range(rise.shape[1]):
            out[y, x, channel] = rise[y, x] / max(reach[y, x], LEAST_REACH) * scale
