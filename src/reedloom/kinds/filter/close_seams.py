"""Close seams: makes an imported picture tile."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.fractals import plan_octaves
from reedloom.kernels.jit import kernel
from reedloom.kernels.resize import resize_map
from reedloom.kinds.noise.noise_parts import make_reader, sum_rows
from reedloom.kinds.place.fold_place import zigzag
from reedloom.kit import COLOUR, GREY, SAME_AS, Choice, Context, Count, Float, Length, Port, Seed, kind

LEAST = 8
"""Samples across, below which there is no room for a line."""
COARSE = 192
"""Side of the small map in which the line of least difference is looked for."""


@kind(
    id="close_seams",
    label="Close seams",
    family="filter",
    version=1,
    purpose="Makes a picture tile: hides its seams along a line of least difference, or mirrors it.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Choice(
            "way",
            "overlap",
            ("overlap", "mirror"),
            help="Lay the picture over its own middle, or mirror it in both directions.",
        ),
        Choice("sides", "both", ("both", "left and right", "top and bottom"), help="Which seams are closed."),
        Length(
            "overlap",
            0.3,
            (0.02, 0.45),
            (0.005, 0.49),
            help="How far from the seam the line may run.",
            shown_if={"way": "overlap"},
        ),
        Length(
            "softness",
            0.02,
            (0, 0.2),
            (0, 0.45),
            help="Over what width one side passes into the other.",
            shown_if={"way": "overlap"},
        ),
        Float(
            "raggedness",
            0.5,
            (0, 1),
            (0, 4),
            help="How far a noise frays the line.",
            shown_if={"way": "overlap"},
        ),
        Count("scale", 24, (4, 96), (1, 1024), help="How fine the fraying is.", shown_if={"way": "overlap"}),
        Seed(shown_if={"way": "overlap"}),
    ),
    exempt={
        "metric": "the seam's border runs by chance over the whole tile",
        "shift": "where the seam of a picture lies is what matters here",
        "resolution": "at another size the line of least difference may run elsewhere",
    },
    synonyms=("make seamless", "tileable", "offset", "heal", "photo"),
)
def close_seams(
    context: Context,
    map: np.ndarray,
    *,
    way: str,
    sides: str,
    overlap: float,
    softness: float,
    raggedness: float,
    scale: int,
    seed: int,
) -> np.ndarray:
    axes = {"both": (1, 0), "left and right": (1,), "top and bottom": (0,)}[sides]
    if way == "mirror":
        return mirrored(map, axes)
    plan = plan_octaves((scale, scale), 3.0, 2.0, 0.6)
    fray = context.full(0.0)
    if raggedness > 0:
        add = sum_rows(make_reader(context, None, None, 0.0), "gradient", plan, seed, 1.0)
        context.bands(lambda y0, y1: add(0.15 * overlap * raggedness, fray[y0:y1], y0, y1))
    result = map
    for axis in axes:
        result = close_axis(context, result, axis, overlap, softness, fray)
    return result


def mirrored(map: np.ndarray, axes: tuple[int, ...]) -> np.ndarray:
    """All of a map forth and back, at half its size."""
    for axis in axes:
        n = map.shape[axis]
        half = (zigzag(((np.arange(n, dtype=np.float32) + 0.5) / n) * 2) * n - 0.5).clip(0, n - 1)
        first = np.minimum(half.astype(np.int64), max(n - 2, 0))
        part = (half - first).astype(np.float32).reshape([-1 if i == axis else 1 for i in range(map.ndim)])
        low, high = np.take(map, first, axis), np.take(map, np.minimum(first + 1, n - 1), axis)
        map = low + part * (high - low)
    return np.ascontiguousarray(map, np.float32)


def close_axis(
    context: Context, map: np.ndarray, axis: int, overlap: float, softness: float, fray: np.ndarray
) -> np.ndarray:
    """Lay the map, moved by half its size, over its own seam, up to a line on both sides of it."""
    count, across = map.shape[axis], map.shape[1 - axis]
    if count < LEAST:
        return map
    context.stop.check()
    moved = np.roll(map, count // 2, axis=axis)
    size = (min(map.shape[1], COARSE), min(map.shape[0], COARSE))
    small = [resize_map(m, *size, check=context.stop.check) for m in (map, moved)]
    difference = np.abs(small[0] - small[1])
    difference = difference if difference.ndim == 2 else difference.sum(axis=2)
    difference = difference if axis == 1 else difference.T
    lines = np.stack(
        [
            resize_map(least_line(strip, overlap)[:, None], 1, across)[:, 0]
            for strip in (difference, difference[:, ::-1])
        ]
    )
    soft = np.float32(max(softness, 1 / count))
    out = np.empty(map.shape, np.float32)
    deep = (*map.shape[:2], -1)

    def band(y0: int, y1: int) -> None:
        lay_over(map.reshape(deep), moved.reshape(deep), fray, lines, axis, soft, out.reshape(deep), y0, y1)

    context.bands(band, rows=len(map))
    return out


@kernel
def lay_over(map, moved, fray, lines, axis, soft, out, y0, y1):  # type: ignore[no-untyped-def]
    """Lay a moved map over both ends of a map along an axis, up to lines.

    map, moved, out : (H, W, channels); fray : (H, W), how far each sample is shifted towards its line;
    lines : (2, samples across the axis), where the line is from the axis's beginning and from its end, in
    shares of its length; soft : how wide one passes into the other.
    """
    half, one = np.float32(0.5), np.float32(1.0)
    count = map.shape[axis]
    for y in range(y0, y1):
        for x in range(map.shape[1]):
            at, beside = (x, y) if axis == 1 else (y, x)
            u = np.float32(at + 0.5) / np.float32(count)
            away = min(u - lines[0, beside], one - u - lines[1, beside]) + fray[y, x]
            share = min(max(half - away / soft, np.float32(0.0)), one)
            if at in (0, count - 1):
                share = one
            share = share * share * (np.float32(3.0) - share - share)
            for c in range(map.shape[2]):
                out[y, x, c] = map[y, x, c] + share * (moved[y, x, c] - map[y, x, c])


def least_line(difference: np.ndarray, overlap: float) -> np.ndarray:
    """Where, in shares of the width, a line from top to bottom meets the least difference: (rows,).

    By dynamic programming over the strip up to `overlap`; the line begins and ends at one place, so
    that it closes at the seam.
    """
    rows, width = difference.shape
    low = max(1, round(0.15 * overlap * width))
    strip = difference[:, low : max(round(overlap * width), low + 2)].astype(np.float64) + 1e-6
    n = strip.shape[1]
    start = int(strip[0].argmin())
    cost = np.full(n, 1e18)
    cost[start] = strip[0, start]
    came = np.zeros((rows, n), np.int64)
    for y in range(1, rows):
        choices = np.stack([np.concatenate([[1e18], cost[:-1]]), cost, np.concatenate([cost[1:], [1e18]])])
        best = choices.argmin(axis=0)
        came[y] = np.arange(n) + best - 1
        cost = choices.min(axis=0) + strip[y]
        # Towards the end only what can still come back to the start is left.
        cost[np.abs(np.arange(n) - start) > rows - 1 - y] = 1e18
    line = np.empty(rows)
    at = start
    for y in range(rows - 1, -1, -1):
        line[y] = at
        at = int(np.clip(came[y, at], 0, n - 1))
    return ((line + low + 0.5) / width).astype(np.float32)
