"""Contour bands: many tones that follow the contours of a map."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.curves import TABLE, averaging, sum_table
from reedloom.kernels.hashing import unit_lattice
from reedloom.kinds.tone.tone_parts import map_with_width
from reedloom.kit import GREY, Context, Count, Float, Port, Seed, Switch, kind


def band_table(count: int, seed: int, softness: float, unevenness: float, in_order: bool) -> np.ndarray:
    """The bands' tones over the map's tones from 0 to 1: (TABLE,) float32."""
    tones = unit_lattice(seed, count, 1)[0].astype(np.float64)
    if in_order:
        tones = np.sort(tones)
    widths = 1 + unevenness * (2 * unit_lattice(seed, count, 1, 1)[0].astype(np.float64) - 1) * 0.95
    edges = np.concatenate([[0], np.cumsum(widths)]) / widths.sum()
    x = (np.arange(TABLE) + 0.5) / TABLE
    band = np.clip(np.searchsorted(edges, x, side="right") - 1, 0, count - 1)
    middle = (edges[band] + edges[band + 1]) / 2
    # Towards its two edges a band passes into its neighbour, over half of itself at most.
    side = np.where(x < middle, -1, 1)
    other = np.clip(band + side, 0, count - 1)
    half = (edges[band + 1] - edges[band]) / 2
    reach = np.abs(x - middle) / half
    share = 0.5 * np.clip((reach - (1 - softness)) / max(softness, 1e-9), 0, 1) if softness > 0 else 0 * x
    return (tones[band] + share * (tones[other] - tones[band])).astype(np.float32)


@kind(
    id="contour_bands",
    label="Contour bands",
    family="noise",
    version=1,
    purpose="Many tones that follow the contours of a map: agate, laminated wood, marbled paper.",
    inputs=(Port("map", GREY),),
    outputs=(Port("bands", GREY),),
    parameters=(
        Count("count", 24, (2, 100), (1, 1024), help="How many bands there are from 0 to 1."),
        Float("softness", 0.3, (0, 1), (0, 1), help="How much one band passes into the next."),
        Float("unevenness", 0.6, (0, 1), (0, 1), help="How different in width bands are."),
        Switch("in_order", False, help="From dark to light instead of at random."),
        Seed(),
    ),
    synonyms=("agate", "strata", "laminate", "marble", "isolines", "layers"),
    shows_histogram=True,
)
def contour_bands(
    context: Context,
    map: np.ndarray,
    *,
    count: int,
    softness: float,
    unevenness: float,
    in_order: bool,
    seed: int,
) -> np.ndarray:
    summed = sum_table(band_table(count, seed, softness, unevenness, in_order))
    return map_with_width(context, map, averaging(summed))
