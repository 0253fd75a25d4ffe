"""Streak: blur along one direction, or along a field of vectors."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kinds.filter.filter_parts import each_channel
from reedloom.kinds.vector.vector_parts import turned
from reedloom.kinds.warp.warp_parts import by_rows, move_map
from reedloom.kit import (
    COLOUR,
    GREY,
    SAME_AS,
    VECTOR,
    Angle,
    Context,
    Float,
    Length,
    Port,
    Role,
    adds_to,
    driving,
    kind,
    multiplies,
)
from reedloom.kit.ways import numbers_of, towards, ways_of

LEAST_STEP = 0.35
"""The first step along a field in samples; each next one is twice as long."""


@kind(
    id="streak",
    label="Streak",
    family="filter",
    version=1,
    purpose="Blurs along a direction or a field of vectors: rain marks, brushing, wind, fur.",
    inputs=(
        Port("map", GREY | COLOUR),
        Port(
            "along",
            VECTOR,
            optional=True,
            help="The way at each point; its length multiplies that of the streak.",
            role=Role.WAY,
        ),
        driving("angle_map", adds_to("angle"), "Added to the angle, point by point: 1 is a whole turn."),
        driving("length_map", multiplies(), "Multiplies the length and the breadth, point by point."),
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "length",
            0.05,
            (0, 0.25),
            (0, 0.5),
            help="Standard deviation of the blur along the way.",
            neutral=0.0,
        ),
        Angle("angle", help="The way of the streaks, where no field is tied."),
        Float("breadth", 0.0, (0, 1), (0, 16), help="The blur across the way, as a share of its length."),
    ),
    synonyms=("motion blur", "directional", "smear", "wind", "line integral"),
    sample={"length": 0.08, "angle": 60.0},
)
def streak(
    context: Context,
    map: np.ndarray,
    along: np.ndarray | None,
    angle_map: np.ndarray | None,
    length_map: np.ndarray | None,
    *,
    length: float,
    angle: float,
    breadth: float,
) -> np.ndarray:
    if length == 0:
        return map
    if along is None and angle_map is None and length_map is None:
        return each_channel(
            map, lambda grey: _one_way(context, grey, length, breadth * length, math.radians(angle))
        )
    field = _field(context, along, angle_map, length_map, angle)
    if breadth > 0:
        quarter = towards(np.float32(math.pi / 2), np.float32(1))
        across = context.map_bands(lambda rows: turned(context, rows, quarter), field)
        map = _along_field(context, map, across, breadth * length)
    return _along_field(context, map, field, length)


def _one_way(context: Context, grey: np.ndarray, length: float, breadth: float, angle: float) -> np.ndarray:
    """A Gaussian of one deviation along a direction and another across it, exact, by the spectrum."""
    import scipy.fft

    context.stop.check()
    height, width = grey.shape
    ku = np.arange(width // 2 + 1, dtype=np.float32)
    kv = (scipy.fft.fftfreq(height) * height / context.aspect).astype(np.float32)
    spectrum = scipy.fft.rfft2(grey, workers=2)
    c, s = np.float32(math.cos(angle)), np.float32(math.sin(angle))

    def damp(y0: int, y1: int) -> None:
        wave = ku[None] * c + kv[y0:y1, None] * s
        left = np.float32(-2 * (math.pi * length) ** 2) * wave * wave
        if breadth > 0:
            wave = kv[y0:y1, None] * c - ku[None] * s
            left += np.float32(-2 * (math.pi * breadth) ** 2) * wave * wave
        spectrum[y0:y1] *= np.exp(left)

    context.bands(damp)
    return np.asarray(scipy.fft.irfft2(spectrum, s=grey.shape, workers=2), np.float32)


def _field(
    context: Context,
    along: np.ndarray | None,
    angle_map: np.ndarray | None,
    length_map: np.ndarray | None,
    angle: float,
) -> np.ndarray:
    """The way at each point, as long as the streak is there."""
    if along is None:
        start = np.float32(math.radians(angle))
        turns = context.full(0.0) if angle_map is None else angle_map
        along = context.map_bands(lambda rows: ways_at(context, rows, start), turns, channels=2)
    if length_map is None:
        return along
    return context.map_bands(lambda way, share: ways_of(numbers_of(way) * share), along, length_map)


def ways_at(context: Context, turns: np.ndarray, start: np.float32) -> np.ndarray:
    """Ways of one width, in tiles, so many whole turns from a first angle."""
    turn = turns * np.float32(2 * math.pi) + start
    return context.in_tiles(ways_of(towards(turn, np.float32(1))))


def _along_field(context: Context, map: np.ndarray, field: np.ndarray, length: float) -> np.ndarray:
    """Means of two readings along the field, each over twice the way of the one before.

    The steps are chosen so that their variances add up to that of a Gaussian of `length`.
    """
    least = LEAST_STEP * context.sample
    count = max(1, math.ceil(math.log2(max(length / least, 1))) + 1)
    steps = [2.0**k for k in range(count)]
    scale = length / math.sqrt(sum(s * s for s in steps))
    result = map
    for step in steps:
        context.stop.check()
        far = np.float32(step * scale)
        ahead, behind = (
            move_map(context, result, by_rows(lambda f, d=way * far: f * d, field), "plain")
            for way in (np.float32(-1), np.float32(1))
        )
        result = context.map_bands(lambda a, b: (a + b) * np.float32(0.5), ahead, behind)
    return result
