"""Spread: carries values outward from a mask."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.curves import curve_table, read_table
from reedloom.kernels.distance import edge_distance
from reedloom.kernels.maps import empty_like
from reedloom.kinds.filter.filter_parts import of_channels
from reedloom.kit import (
    COLOUR,
    GREY,
    SAME_AS,
    STRAIGHT_CURVE,
    Context,
    Length,
    Port,
    Role,
    Switch,
    ToneCurve,
    kind,
)


@kind(
    id="spread",
    label="Spread",
    family="height",
    version=1,
    purpose="Distance outward from a mask, and the value of the nearest place inside carried along.",
    inputs=(
        Port("mask", GREY, help="From where it spreads: where it is a half or more.", role=Role.MASK),
        Port("carried", GREY | COLOUR, optional=True, help="What is carried outward; the mask if not tied."),
    ),
    outputs=(
        Port("distance", GREY, help="0 inside, 1 at the limit and beyond."),
        Port(
            "carried",
            SAME_AS("carried"),
            help="The value of the nearest place inside, as far as the limit; 0 beyond.",
            exempt={
                "resolution": "half-way between two places it jumps from the value of one to the other's"
            },
        ),
        Port("fading", GREY, help="1 inside, falling along the curve to 0 at the limit."),
    ),
    parameters=(
        Length("limit", 0.1, (0.005, 0.5), (0, 2), help="How far it spreads."),
        ToneCurve(
            "curve", STRAIGHT_CURVE, help="How it fades: from the limit at the left to the mask at the right."
        ),
        Switch("carried_fades", False, help="What is carried fades along the curve too."),
    ),
    synonyms=("dilate", "voronoi", "nearest", "flood", "bleed", "distance"),
)
def spread(
    context: Context,
    mask: np.ndarray,
    carried: np.ndarray | None,
    *,
    limit: float,
    curve: tuple[tuple[float, ...], ...],
    carried_fades: bool,
) -> dict[str, np.ndarray]:
    away, nearest = edge_distance(mask, context.bands, context.aspect)
    source = mask if carried is None else carried
    out = empty_like(source)
    share, fading = context.empty(), context.empty()
    table = None if curve == STRAIGHT_CURVE else curve_table(curve)

    def band(y0: int, y1: int) -> None:
        share[y0:y1] = np.clip(away[y0:y1] / np.float32(max(limit, 1e-6)), 0, 1)
        found = source[nearest.row[y0:y1], nearest.column[y0:y1]]
        within = away[y0:y1] <= limit
        left = 1 - share[y0:y1]
        fading[y0:y1] = left if table is None else read_table(table, left)
        found = np.where(of_channels(within, source), found, 0)
        out[y0:y1] = found * of_channels(fading[y0:y1], source) if carried_fades else found

    context.bands(band)
    return {"distance": share, "carried": out, "fading": fading}
