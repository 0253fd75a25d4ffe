"""Edge-keeping blur: softens within parts and leaves their borders."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.maps import empty_like
from reedloom.kinds.filter.filter_parts import STRENGTH, STRENGTH_MAP, each_channel, soften, taken
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Length, Port, kind


@kind(
    id="edge_keeping_blur",
    label="Edge-keeping blur",
    family="filter",
    version=1,
    purpose="Softens within parts of like tone and leaves the borders between them sharp.",
    inputs=(Port("map", GREY | COLOUR), STRENGTH_MAP),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length("radius", 0.02, (0.002, 0.1), (0, 0.5), help="How far it softens.", neutral=0.0),
        Float(
            "edge",
            0.1,
            (0.01, 0.5),
            (1e-4, 10),
            help="A change of tone greater than this counts as a border.",
        ),
        STRENGTH,
    ),
    synonyms=("bilateral", "guided", "smooth", "denoise", "paint"),
    sample={"radius": 0.04},
)
def edge_keeping_blur(
    context: Context,
    map: np.ndarray,
    strength_map: np.ndarray | None,
    *,
    radius: float,
    edge: float,
    strength: float,
) -> np.ndarray:
    """The guided filter of K. He and others (ECCV 2010), with the map as its own guide."""

    def work(grey: np.ndarray) -> np.ndarray:
        squares, kept = empty_like(grey), empty_like(grey)
        context.bands(lambda y0, y1: square_rows(grey[y0:y1], squares[y0:y1]))
        mean, square = soften(context, grey, radius), soften(context, squares, radius)
        rest, limit = squares, np.float32(edge * edge)
        context.bands(lambda y0, y1: keep_rows(mean[y0:y1], square[y0:y1], limit, kept[y0:y1], rest[y0:y1]))
        kept, rest = soften(context, kept, radius), soften(context, rest, radius)
        out = empty_like(grey)
        context.bands(lambda y0, y1: mix_rows(kept[y0:y1], grey[y0:y1], rest[y0:y1], out[y0:y1]))
        return out

    return taken(context, map, each_channel(map, work), strength, strength_map)


@kernel
def square_rows(source, out):  # type: ignore[no-untyped-def]
    """The squares of a map (n, W)."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            out[y, x] = source[y, x] * source[y, x]


@kernel
def keep_rows(mean, square, limit, kept, rest):  # type: ignore[no-untyped-def]
    """How much of a map is kept, by its mean and mean square around, and what replaces the rest: (n, W)."""
    for y in range(kept.shape[0]):
        for x in range(kept.shape[1]):
            m = mean[y, x]
            variance = max(square[y, x] - m * m, np.float32(0.0))
            share = variance / (variance + limit)
            kept[y, x] = share
            rest[y, x] = (np.float32(1.0) - share) * m


@kernel
def mix_rows(kept, source, rest, out):  # type: ignore[no-untyped-def]
    """kept × source + rest: (n, W)."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            out[y, x] = kept[y, x] * source[y, x] + rest[y, x]
