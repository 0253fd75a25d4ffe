"""Waves: bands or rings with a chosen profile, bent by a noise."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from reedloom.kernels.curves import TABLE, average_cycle, curve_table, sum_table
from reedloom.kernels.fractals import plan_octaves
from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.places import tile_places
from reedloom.kernels.polar import seen_around
from reedloom.kinds.noise.noise_parts import (
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    cells_of,
    make_reader,
    sum_rows,
)
from reedloom.kit import (
    GREY,
    STRAIGHT_CURVE,
    Angle,
    Choice,
    Context,
    Count,
    Float,
    Port,
    ToneCurve,
    driving,
    kind,
    multiplies,
)

PROFILES = ("sine", "triangle", "saw", "square", "custom")


def profile_table(profile: str, balance: float, curve: Any) -> np.ndarray:
    """One wave from 0 to 1: (TABLE,) float32."""
    x = (np.arange(TABLE) + 0.5) / TABLE
    rise = np.where(x < balance, x / max(balance, 1e-6) / 2, 0.5 + (x - balance) / max(1 - balance, 1e-6) / 2)
    waves = {
        "sine": 0.5 - 0.5 * np.cos(2 * math.pi * rise),
        "triangle": 1 - np.abs(2 * rise - 1),
        "saw": x,
        "square": (x < balance).astype(np.float64),
    }
    return (curve_table(curve) if profile == "custom" else waves[profile]).astype(np.float32)


@kind(
    id="wave",
    label="Waves",
    family="noise",
    version=1,
    purpose="Bands or rings of a chosen profile, bent by a noise: ripples, rings of growth, ribs.",
    inputs=(
        PLACE,
        EVOLUTION_MAP,
        driving("distort_map", multiplies("distortion"), "Multiplies the distortion, point by point."),
    ),
    outputs=(Port("wave", GREY),),
    parameters=(
        Choice(
            "form",
            "bands",
            ("bands", "rings"),
            help="Straight bands across the tile, or rings around its middle.",
        ),
        Choice("profile", "sine", PROFILES, help="How one wave rises and falls."),
        Count("count", 8, (1, 32), (1, 2048), help="How many waves there are across the tile."),
        Angle(
            "direction",
            help="The way across the bands, snapped so that they close at the seam.",
            shown_if={"form": "bands"},
        ),
        Float(
            "balance",
            0.5,
            (0.02, 0.98),
            (0.001, 0.999),
            help="The share of each wave that rises, or is high.",
            shown_if={"profile": ("sine", "triangle", "square")},
        ),
        ToneCurve(
            "curve",
            STRAIGHT_CURVE,
            help="The custom profile of one wave from beginning to end.",
            shown_if={"profile": "custom"},
        ),
        Float("phase", 0.0, (0, 1), help="Moves the waves along by a share of one."),
        Float(
            "distortion", 0.0, (0, 2), (-64, 64), help="How far the inner noise bends the waves, in waves."
        ),
        Count(
            "distortion_scale",
            4,
            (1, 16),
            (1, 2048),
            former=("scale",),
            help="Cells of the inner noise across the tile.",
        ),
        Float(
            "distortion_octaves",
            3.0,
            (1, 5),
            (1, 16),
            help="How fine the inner noise is.",
            former=("octaves",),
        ),
        SEED,
        EVOLUTION,
    ),
    synonyms=("stripes", "bands", "rings", "sine", "ripples", "wood rings", "ribs"),
    sample={"distortion": 1.0},
)
def wave(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    distort_map: np.ndarray | None,
    *,
    form: str,
    profile: str,
    count: int,
    direction: float,
    balance: float,
    curve: Any,
    phase: float,
    distortion: float,
    distortion_scale: int,
    distortion_octaves: float,
    seed: int,
    evolution: float,
) -> np.ndarray:
    across, down = snap_direction(count, direction, context.aspect)
    if form == "bands":
        got = math.degrees(math.atan2(down / context.aspect, across))
        if (
            abs((got - direction + 180) % 360 - 180) > 0.05
            or abs(math.hypot(across, down / context.aspect) - count) > 1e-3
        ):
            context.report(
                f"{math.hypot(across, down / context.aspect):.4g} bands at {got:.4g}° close at the seam."
            )
    plan = plan_octaves(cells_of(context, distortion_scale), distortion_octaves, 2.0, 0.5)
    bend = sum_rows(make_reader(context, place, evolution_map, evolution), "gradient", plan, seed, 0.5)
    turned = context.empty()

    def lay(y0: int, y1: int) -> None:
        where = tile_places(context.width, context.height, range(y0, y1)) if place is None else place[y0:y1]
        if form == "bands":
            run = where[..., 0] * np.float32(across) + where[..., 1] * np.float32(down)
        else:
            run = seen_around(where, (0.5, 0.5), context.aspect)[0] * np.float32(count)
        if distortion:
            moved = np.zeros_like(run)
            bend(distortion, moved, y0, y1)
            run = run + (moved if distort_map is None else moved * distort_map[y0:y1])
        turned[y0:y1] = run + np.float32(phase)

    context.bands(lay)
    summed = sum_table(profile_table(profile, balance, curve))
    out = context.empty()

    def read(y0: int, y1: int) -> None:
        width = np.empty((y1 - y0, context.width), np.float32)
        phase_widths(turned, y0, width)
        out[y0:y1] = average_cycle(summed, turned[y0:y1], width)

    context.bands(read, band_rows=32)
    return out


def snap_direction(count: int, direction: float, aspect: float) -> tuple[int, int]:
    """Whole numbers of waves across and down that come nearest to a count and direction."""
    angle = math.radians(direction)
    across, down = round(count * math.cos(angle)), round(count * math.sin(angle) * aspect)
    return (across, down) if across or down else (count, 0)


@kernel
def phase_widths(turned, y0, out):  # type: ignore[no-untyped-def]
    """How far a phase goes on across each sample; whole jumps do not count.

    Parameters
    ----------
    turned : (H, W) float32
        In cycles; around the tile's border it goes on by whole ones.
    y0 : int
        The first row.
    out : (n, W) float32
        Filled for n rows.
    """
    height, width = turned.shape
    around = np.empty(width + 2, np.float32)
    for y in range(y0, y0 + out.shape[0]):
        above, row, below = turned[(y + height - 1) % height], turned[y], turned[(y + 1) % height]
        around[0], around[width + 1] = row[width - 1], row[0]
        for x in range(width):
            around[x + 1] = row[x]
        line = out[y - y0]
        for x in range(width):
            across, down = _whole_apart(around[x + 2] - around[x]), _whole_apart(below[x] - above[x])
            line[x] = np.float32(math.sqrt(across * across + down * down)) * np.float32(0.5)


@inlined
def _whole_apart(away):  # type: ignore[no-untyped-def]
    """A difference of phases without its whole cycles."""
    return away - np.rint(away)
