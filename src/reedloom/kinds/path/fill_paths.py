"""Fill paths: the inside of closed paths, as a mask, islands, and distances from their border."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.distance import signed_distance
from reedloom.kernels.fills import EVEN_ODD, WINDING, Filled, Outlines, fill_rows
from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import starts_of
from reedloom.kernels.regions import measure_regions
from reedloom.kinds.height.island_parts import of_each, places_within
from reedloom.kinds.path.path_parts import FIXED
from reedloom.kinds.pattern.pattern_parts import PER_ELEMENT
from reedloom.kit import GREY, ISLANDS, PATHS, VECTOR, Choice, Context, Port, Role, Seed, kind

RULES = {"odd crossings": EVEN_ODD, "winding": WINDING}
NEARLY = 1e-6
"""In tiles: paths whose ends are no farther apart are closed."""


@kind(
    id="fill_paths",
    label="Fill paths",
    family="path",
    version=1,
    purpose="Fills closed paths: leaves, panes, plates, and whatever contours enclose.",
    inputs=(Port("paths", PATHS, help="Closed paths.", role=Role.DRAWING),),
    outputs=(
        Port("mask", GREY, help="1 within the paths.", role=Role.MASK),
        Port("distance", GREY, help="How far from the border, in tiles; below 0 within."),
        Port("random", GREY, help="One random value for each path.", exempt=PER_ELEMENT),
        Port(
            "local_place", VECTOR, help="The place within each, 0 to 1.", exempt=PER_ELEMENT, role=Role.WITHIN
        ),
        Port("id", ISLANDS, help="Which path shows; later ones lie over those before.", exempt=PER_ELEMENT),
    ),
    parameters=(
        Choice(
            "inside",
            "odd crossings",
            tuple(RULES),
            help="What is within where a path crosses itself: parts parted by odd crossings, or all it winds "
            "around.",
        ),
        Seed(),
    ),
    exempt=FIXED,
    synonyms=("polygon", "shape", "solid", "area", "paint", "inside", "even-odd", "nonzero"),
)
def fill_paths(context: Context, paths: np.ndarray, *, inside: str, seed: int) -> dict[str, np.ndarray]:
    outlines, numbers = outlines_of(context, paths)
    shape = (context.height, context.width)
    filled = Filled(np.zeros(shape, np.float32), np.zeros(shape, np.int32))

    def band(y0: int, y1: int) -> None:
        low = np.floor((outlines.top - y1) / context.height)
        near = np.flatnonzero(np.floor((outlines.bottom - y0) / context.height) > low)
        if near.size:
            fill_rows(near, tuple(outlines), RULES[inside], tuple(filled), y0, y1)

    context.bands(band, band_rows=32)
    made: dict[str, Any] = {}
    if "mask" in context.wanted:
        made["mask"] = filled.cover
    if "distance" in context.wanted:
        made["distance"] = signed_distance(filled.cover, context.bands, aspect=context.aspect)
    if "random" in context.wanted:
        chances = unit_chances(seed, numbers, 3)
        made["random"] = of_each(context, filled.labels, np.concatenate([[0.0], chances]))
    if "local_place" in context.wanted:
        table = measure_regions(filled.labels, context.stop.check, context.aspect)
        made["local_place"] = places_within(context, filled.labels, table, keep_proportions=True)
    if "id" in context.wanted:
        made["id"] = filled.labels
    return made


def outlines_of(context: Context, paths: np.ndarray) -> tuple[Outlines, np.ndarray]:
    """The paths that close upon themselves, in samples, and their numbers; the maker is told of others."""
    starts = starts_of(paths)
    counts = np.diff(starts)
    first, last = paths[starts[:-1]], paths[starts[1:] - 1]
    apart = np.hypot(last["u"] - first["u"], last["v"] - first["v"])
    closed = (apart < NEARLY) & (counts > 3)
    if not closed.all():
        context.report(f"{int((~closed).sum())} of {len(closed)} paths do not close, and are not filled.")
    kept = paths[np.repeat(closed, counts)]
    bounds = np.concatenate([[0], np.cumsum(counts[closed])]).astype(np.int64)
    x, y = kept["u"] * context.width, kept["v"] * context.height
    if len(bounds) > 1:
        top, bottom = (f.reduceat(y, bounds[:-1]) for f in (np.minimum, np.maximum))
    else:
        top = bottom = np.zeros(0)
    return Outlines(bounds, x, y, top, bottom), first["id"][closed]
