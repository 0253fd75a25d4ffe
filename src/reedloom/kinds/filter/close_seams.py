"""Close seams: makes an imported picture tile."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from reedloom.kernels.fractals import plan_octaves
from reedloom.kernels.jit import kernel
from reedloom.kernels.maps import empty_like, empty_map
from reedloom.kernels.resize import halved, resize_map
from reedloom.kernels.seams import (
    fill_bends,
    fill_costs,
    fill_differences,
    fill_rises,
    find_least_line,
    solve_bends,
)
from reedloom.kinds.filter.filter_parts import soften, taken
from reedloom.kinds.noise.noise_parts import make_reader, sum_rows
from reedloom.kinds.place.fold_place import zigzag
from reedloom.kit import (
    COLOUR,
    GREY,
    SAME_AS,
    Change,
    Choice,
    Context,
    Count,
    Float,
    Length,
    Port,
    Seed,
    kind,
)

LEAST = 8
"""Samples across, below which there is no room for a line."""
COARSE, LONG = 192, 576
"""Samples across and along the line of the small map in which it is looked for: it goes on to the side by at
most one a row, so that more rows let it turn more sharply."""
ENOUGH = 512
"""Samples each way of the picture in which it is asked what a line costs: one of twice that or more is halved
before, so that it closes along the same line at every size."""
JOINT = 0.02
"""The breadth of what a joint is compared with, in widths: what is darker than all that is around it."""

SLOPES, TONES = "slopes", "tones"


@kind(
    id="close_seams",
    label="Close seams",
    family="filter",
    version=2,
    purpose="Makes a picture tile: hides its seams along joints that it finds, or mirrors it.",
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
            0.01,
            (0, 0.2),
            (0, 0.45),
            help="Over what width one side passes into the other.",
            shown_if={"way": "overlap"},
        ),
        Float(
            "raggedness",
            0.0,
            (0, 1),
            (0, 4),
            help="How far a noise frays the line.",
            shown_if={"way": "overlap"},
        ),
        Float(
            "joints",
            1.0,
            (0, 1),
            (0, 1),
            help="How far the line keeps to what is darker than all around, so that stones stay whole.",
            shown_if={"way": "overlap"},
        ),
        Choice(
            "blending",
            SLOPES,
            (SLOPES, TONES),
            help="Joins the slopes of both sides, so that light and dark even out, or only their tones.",
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
    changes={
        2: Change(
            "The line is looked for more finely; it can keep to joints, and join slopes, but not here.",
            lambda values: {"raggedness": 0.5, "softness": 0.02, **values, "joints": 0.0, "blending": TONES},
        )
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
    joints: float,
    blending: str,
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
        if result.shape[axis] >= LEAST:
            share, moved = shares_along(context, result, axis, overlap, softness, fray, joints)
            join = join_slopes if blending == SLOPES else join_tones
            result = join(context, result, moved, share)
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


def shares_along(
    context: Context,
    map: np.ndarray,
    axis: int,
    overlap: float,
    softness: float,
    fray: np.ndarray,
    joints: float,
) -> tuple[np.ndarray, np.ndarray]:
    """How much of the map, moved by half its size, lies over its own seam, up to a line on both sides of it.

    Returns
    -------
    share : (H, W) float32, 0 to 1
    moved : the moved map
    """
    count, across = map.shape[axis], map.shape[1 - axis]
    context.stop.check()
    costs = costs_of(context, map, axis, joints)
    small = min(count, COARSE), min(3 * across, LONG)
    costs = resize_map(costs, small[1 - axis], small[axis], bands=context.bands)
    costs = costs if axis == 1 else np.ascontiguousarray(costs.T)
    lines = np.stack(
        [
            resize_map(least_line(strip, overlap)[:, None], 1, across)[:, 0]
            for strip in (costs, costs[:, ::-1])
        ]
    )
    soft = np.float32(max(softness, 1 / count))
    share = context.empty()
    context.bands(lambda y0, y1: fill_shares(fray, lines, axis, soft, share, y0, y1))
    return share, rolled(context, map, axis)


def rolled(context: Context, map: np.ndarray, axis: int) -> np.ndarray:
    """A map moved by half its size along an axis."""
    out, half = empty_like(map), map.shape[axis] // 2

    def band(y0: int, y1: int) -> None:
        if axis == 1:
            out[y0:y1, half:], out[y0:y1, :half] = map[y0:y1, : map.shape[1] - half], map[y0:y1, -half:]
        else:
            out[y0:y1] = map[np.arange(y0 - half, y1 - half) % len(map)]

    context.bands(band)
    return out


def costs_of(context: Context, map: np.ndarray, axis: int, joints: float) -> np.ndarray:
    """What a line between a picture and itself, moved along an axis, costs at each place.

    That is little where they are alike, and in joints.
    """
    first = map.reshape(*map.shape[:2], -1)
    while min(first.shape[:2]) >= 2 * ENOUGH:
        first = halved(first, context.bands)
    context = replace(context, width=first.shape[1], height=first.shape[0])
    second, difference = rolled(context, first, axis), context.empty()
    context.bands(lambda y0, y1: fill_differences(first, second, difference, y0, y1))
    if joints <= 0:
        return difference
    grey = first[..., 0] if first.shape[2] == 1 else first.mean(axis=2)
    grey = np.ascontiguousarray(grey)
    rise, around = soften(context, grey, JOINT / 8), soften(context, grey, JOINT)
    sums = np.empty((3, len(grey)), np.float64)
    context.bands(lambda y0, y1: fill_rises(rise, around, difference, sums, y0, y1))
    usual, mean, square = sums.sum(axis=1) / grey.size
    numbers = [max(usual, 1e-9), max(math.sqrt(max(square - mean * mean, 0)), 1e-9), 1.5 * joints]
    moved, counts = rolled(context, rise, axis), np.array(numbers, np.float32)
    context.bands(lambda y0, y1: fill_costs(difference, rise, moved, counts, y0, y1))
    return difference


def join_tones(context: Context, map: np.ndarray, moved: np.ndarray, share: np.ndarray) -> np.ndarray:
    """The tones of both, each by its share."""
    return taken(context, map, moved, 1.0, share)


def join_slopes(context: Context, map: np.ndarray, moved: np.ndarray, share: np.ndarray) -> np.ndarray:
    """The map whose slopes are those of both, each by its share, and whose mean is the first one's.

    After P. Pérez and others, *Poisson image editing* (2003).
    """
    height, width = share.shape

    def join(first: np.ndarray, second: np.ndarray) -> np.ndarray:
        out = empty_map((height, width))

        def bends(y0: int, y1: int) -> np.ndarray:
            rows = np.empty((y1 - y0, width), np.float32)
            fill_bends(first, second, share, rows, y0, y1)
            return rows

        def put(y0: int, y1: int, more: np.ndarray) -> None:
            np.add(first[y0:y1], more, out=out[y0:y1])

        solve_bends((height, width), bends, put, context.bands)
        return out

    if map.ndim == 2:
        return join(map, moved)
    planes = [[np.ascontiguousarray(part[..., c]) for part in (map, moved)] for c in range(map.shape[2])]
    return np.stack([join(*both) for both in planes], axis=-1)


@kernel
def fill_shares(fray, lines, axis, soft, out, y0, y1):  # type: ignore[no-untyped-def]
    """How much of a moved map lies over both ends of a map along an axis, up to lines.

    fray, out : (H, W), how far each sample is shifted towards its line, and what is filled;
    lines : (2, samples across the axis), where the line is from the axis's beginning and from its end, in
    shares of its length; soft : how wide one passes into the other.
    """
    half, one = np.float32(0.5), np.float32(1.0)
    count = out.shape[axis]
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            at, beside = (x, y) if axis == 1 else (y, x)
            u = np.float32(at + 0.5) / np.float32(count)
            away = min(u - lines[0, beside], one - u - lines[1, beside]) + fray[y, x]
            share = min(max(half - away / soft, np.float32(0.0)), one)
            if at in (0, count - 1):
                share = one
            out[y, x] = share * share * (np.float32(3.0) - share - share)


def least_line(difference: np.ndarray, overlap: float) -> np.ndarray:
    """Where, in shares of the width, a line from top to bottom up to `overlap` costs least: (rows,)."""
    rows, width = difference.shape
    low = max(1, round(0.15 * overlap * width))
    strip = difference[:, low : max(round(overlap * width), low + 2)].astype(np.float64) + 1e-6
    line = np.empty(rows, np.int64)
    find_least_line(strip, line)
    return ((line + low + 0.5) / width).astype(np.float32)
