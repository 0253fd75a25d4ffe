"""Swirl: a map turned about a centre, most in the middle."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.jit import inlined, kernel
from reedloom.kernels.lanes import SAMPLES_AHEAD
from reedloom.kernels.maps import empty_like
from reedloom.kernels.place_lanes import lay_turned
from reedloom.kernels.places import short_way
from reedloom.kernels.reading import read_row
from reedloom.kernels.vectors import LANES, lined
from reedloom.kinds.place.place_parts import CENTRE
from reedloom.kinds.warp.warp_parts import HELD, READING
from reedloom.kit import (
    COLOUR,
    GREY,
    SAME_AS,
    Angle,
    Context,
    FormHandles,
    Length,
    Port,
    driving,
    kind,
    multiplies,
)


@kind(
    id="swirl",
    label="Swirl",
    family="warp",
    version=2,
    purpose="Turns a map about a centre, most in the middle and not at all from a radius on.",
    inputs=(
        Port("map", GREY | COLOUR),
        driving("amount_map", multiplies("turn"), "Multiplies the turn, point by point."),
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Angle("turn", 180.0, useful=(-720, 720), help="How far the middle is turned clockwise."),
        Length("radius", 0.4, (0.05, 0.5), (0.001, 0.5), help="Where the turning ends."),
        *CENTRE,
        READING,
    ),
    exempt={
        "metric": "there is one centre on the tile, of whatever shape",
        "shift": "the centre stays where it is",
    },
    synonyms=("twirl", "whirl", "vortex", "knot", "twist"),
    handles=FormHandles(("centre_u", "centre_v"), size="radius"),
    changes={2: HELD},
)
def swirl(
    context: Context,
    map: np.ndarray,
    amount_map: np.ndarray | None,
    *,
    turn: float,
    radius: float,
    centre_u: float,
    centre_v: float,
    reading: str,
) -> np.ndarray:
    most = 0.5 * min(1.0, context.aspect)
    if radius > most:
        context.report(f"The radius is snapped to {most:.4g}, so that the turning ends on the tile.")
        radius = most

    numbers = np.array([centre_u, centre_v, context.aspect, radius, -turn / 360], np.float32)
    plain = np.ones((1, 1), np.float32)
    source, out = _layers(map), empty_like(map)

    def band(y0: int, y1: int) -> None:
        amount = plain if amount_map is None else amount_map[y0:y1]
        turn_rows(source, amount, numbers, reading == "smooth", BLOCK, _layers(out), y0, y1)

    context.bands(band)
    return out


BLOCK = 512
"""Samples of a row that are turned before those of the next one, for which what they read is at hand."""


def _layers(map: np.ndarray) -> np.ndarray:
    return map.reshape(*map.shape[:2], -1)


@kernel
def turn_rows(source, amount, numbers, spline, wide, out, y0, y1):  # type: ignore[no-untyped-def]
    """Turn a map about a middle, less and less towards a radius; beyond it nothing changes.

    Parameters
    ----------
    source : (H, W, channels) float32
    amount : (y1 - y0, W) or (1, 1) float32
        What the turn is multiplied by.
    numbers : (5,) float32
        The middle's u and v, the tile's height in widths, the radius in widths, up to half of the tile's
        shorter side, and the turn in the middle in whole turns.
    spline : bool
        Read through splines.
    wide : int
        Samples of a row that are turned before those of the next one.
    out : (H, W, channels) float32
        Rows y0 to y1 are filled.
    """
    centre_u, centre_v, aspect, radius, _ = numbers
    height, width = source.shape[:2]
    place, about = lined(2 * (wide + LANES)), np.empty(8, np.float32)
    shares, ends = np.full(wide + LANES, amount[0, 0], np.float32), np.empty((y1 - y0, 2), np.int64)
    away = np.empty(y1 - y0, np.float32)
    about[:5], about[6] = numbers, 1 / width
    left, right = 2 * width, -width
    for row in range(y1 - y0):
        y = y0 + row
        v = away[row] = short_way(np.float32((y + 0.5) / height) - centre_v)
        reach = radius * radius - v * v * aspect * aspect
        half = math.sqrt(max(reach, np.float32(0.0)))
        start = math.ceil((centre_u - half) * width - 0.5)
        end = min(math.floor((centre_u + half) * width + 0.5), start + width)
        _copy_samples(source[y], end, start + width, out[y])
        ends[row, 0], ends[row, 1] = start, end
        if start < end:
            left, right = min(left, start), max(right, end)
    while left < right:
        opening = True
        for row in range(y1 - y0):
            y = y0 + row
            start, end = max(ends[row, 0], left), min(ends[row, 1], left + wide)
            about[7] = away[row]
            while start < end:  # up to the tile's seam, and from there on
                first = start % width
                count = min(end - start, width - first)
                if amount.shape[0] > 1:
                    for x in range(count):
                        shares[x] = amount[row, first + x]
                about[5] = (start + 0.5) / width - centre_u
                lay_turned(shares, about, place, np.int64(count))
                line = out[y, first : first + count].reshape(-1)
                read_row(source, place, line, 0, count, spline, opening, 0, SAMPLES_AHEAD)
                start, opening = start + count, False
        left += wide


@inlined
def _copy_samples(source, start, end, out):  # type: ignore[no-untyped-def]
    """Copy samples of a row, (W, channels), from one to another around the tile's seam."""
    while start < end:
        first = start % source.shape[0]
        count = min(end - start, source.shape[0] - first)
        old, new = source[first : first + count].reshape(-1), out[first : first + count].reshape(-1)
        for k in range(old.shape[0]):
            new[k] = old[k]
        start += count
