"""Flow noise: the curl of a noise, which neither gathers nor parts."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

import numpy as np
from msgspec.structs import replace

from reedloom.kernels.jit import kernel
from reedloom.kernels.octaves import AddRows, Reader
from reedloom.kernels.place_lanes import LEAST_REACH
from reedloom.kernels.reach import Reach
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

    def adding(reader: Reader) -> AddRows:
        # Faint fine octaves count in a slope, so that they are read as carefully as strong ones.
        return sum_rows(reader, "gradient", plan, seed, STRONG)

    outputs = {}
    if "flow" in context.wanted:
        scale = np.float32(strength * STEEPNESS / (STRONG * max(counts)))
        if plain.place is None:
            outputs["flow"] = curl_on_grid(context, plain, adding, scale)
        else:
            flow = curl_at(context, plain, adding, scale)
            outputs["flow"] = flow if cosets is None else turned_back(context, flow, cosets)
    if "potential" in context.wanted:
        outputs["potential"] = whole(context, adding(plain)) * np.float32(0.5 / STRONG) + np.float32(0.5)
    return outputs


def whole(context: Context, add: AddRows) -> np.ndarray:
    """A noise over the whole map."""
    out = context.full(0.0)
    context.bands(partial(add_over, add, 1.0, out))
    return out


Adding = Callable[[Reader], AddRows]
"""What adds the noise whose slope is wanted, as a reader reads it. What a sample covers does not change where
all places move by as little as half a sample."""


def curl_on_grid(context: Context, plain: Reader, adding: Adding, scale: np.float32) -> np.ndarray:
    """The slope of a noise turned by a quarter, averaged over each sample: from edge to edge of it."""
    left = whole(context, adding(replace(plain, offset=(-0.5 / context.width, 0.0))))
    top = whole(context, adding(replace(plain, offset=(0.0, -0.5 / context.height))))
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


def curl_at(context: Context, plain: Reader, adding: Adding, scale: np.float32) -> np.ndarray:
    """The same at given places: from one side of what a sample covers to the other."""
    assert plain.place is not None
    place, out = plain.place, context.empty(2)
    reach = plain.reach or Reach.unmeasured(context.width, context.height)
    sides = [(axis, side) for axis in (0, 1) for side in (1.0, -1.0)]
    halves = [(side / 2, 0.0) if axis == 0 else (0.0, side / 2) for axis, side in sides]
    adds = [adding(replace(plain, reach=reach, beside=half)) for half in halves]

    def band(y0: int, y1: int) -> None:
        if plain.reach is None:  # while these places are at hand, not before for all
            reach.measure(place, plain.aspect, y0, y1)
        rises = np.zeros((2, y1 - y0, context.width), np.float32)
        for (axis, side), add in zip(sides, adds, strict=True):
            add(side, rises[axis], y0, y1)
        lay_curl(*rises, reach.footprint[y0:y1], out[y0:y1], scale)

    context.bands(band)
    return out


def add_over(add: AddRows, amount: float, out: np.ndarray, y0: int, y1: int) -> None:
    """Add rows of a noise to a whole map."""
    add(amount, out[y0:y1], y0, y1)


@kernel
def lay_curl(across, down, reach, out, scale):  # type: ignore[no-untyped-def]
    """Slopes turned by a quarter, of what noise rises over each sample.

    Parameters
    ----------
    across, down : (n, W) float32
        The rise along u and along v.
    reach : (n, W) float32
        In widths.
    out : (n, W, 2) float32
        Filled.
    scale : float32
    """
    for y in range(reach.shape[0]):
        for x in range(reach.shape[1]):
            once = scale / max(reach[y, x], np.float32(LEAST_REACH))
            out[y, x, 0], out[y, x, 1] = down[y, x] * once, -across[y, x] * once
