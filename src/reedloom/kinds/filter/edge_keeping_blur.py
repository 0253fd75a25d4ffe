"""Edge-keeping blur: softens within parts and leaves their borders."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import each_channel, soften
from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Float, Length, Port, kind


@kind(
    id="edge_keeping_blur",
    label="Edge-keeping blur",
    family="filter",
    version=1,
    purpose="Softens within parts of like tone and leaves the borders between them sharp.",
    inputs=(Port("map", GREY | COLOUR),),
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
    ),
    synonyms=("bilateral", "guided", "smooth", "denoise", "paint"),
    sample={"radius": 0.04},
)
def edge_keeping_blur(context: Context, map: np.ndarray, *, radius: float, edge: float) -> np.ndarray:
    """The guided filter of K. He and others (ECCV 2010), with the map as its own guide."""

    def work(grey: np.ndarray) -> np.ndarray:
        mean = soften(context, grey, radius)
        square = soften(context, context.map_bands(np.square, grey), radius)

        def slope(m: np.ndarray, s: np.ndarray) -> np.ndarray:
            variance = np.maximum(s - m * m, 0)
            return variance / (variance + np.float32(edge * edge))

        kept = context.map_bands(slope, mean, square)
        rest = context.map_bands(lambda k, m: (1 - k) * m, kept, mean)
        kept, rest = soften(context, kept, radius), soften(context, rest, radius)
        return context.map_bands(lambda k, r, g: k * g + r, kept, rest, grey)

    return each_channel(map, work)
