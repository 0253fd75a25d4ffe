"""Weigh paths: width and height along them, by curves, by chance and by a map."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.curves import evaluate_curve
from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import read_at, starts_of
from reedloom.kinds.path.path_parts import PATHS_IN, PATHS_OUT, READ, reading_places, shares_of
from reedloom.kit import GREY, Context, Float, Port, Seed, ToneCurve, kind

LEVEL = ((0.0, 1.0, 0.0), (1.0, 1.0, 0.0))


@kind(
    id="weigh_paths",
    label="Weigh paths",
    family="path",
    version=1,
    purpose="How wide and how high each path is along its way: by curves, by a map, by chance.",
    inputs=(
        PATHS_IN,
        Port("width_map", GREY, optional=True, help="Multiplies the width, read in place."),
        Port("height_map", GREY, optional=True, help="Multiplies the height, read in place."),
    ),
    outputs=(PATHS_OUT,),
    parameters=(
        ToneCurve("width_along", LEVEL, help="The width from start (left) to end (right)."),
        ToneCurve("height_along", LEVEL, help="The height from start (left) to end (right)."),
        Float("width_uneven", 0.0, (0, 1), (0, 1), help="How much thinner some paths are, by chance."),
        Float("height_uneven", 0.0, (0, 1), (0, 1), help="How much lower some paths are, by chance."),
        READ,
        Float("apart", 0.0, (0, 1), (0, 64), help="How far from its place each path reads, by chance."),
        Seed(),
    ),
    synonyms=("taper", "thickness", "profile", "pressure"),
    sample={"width_along": ((0.0, 0.2, 0.0), (0.5, 1.0, 0.0), (1.0, 0.0, 0.0)), "width_uneven": 0.6},
)
def weigh_paths(context: Context, paths: np.ndarray, *maps: np.ndarray | None, **values: Any) -> np.ndarray:
    share = shares_of(context, paths, starts_of(paths))
    number = paths["id"]
    reads = any(map is not None for map in maps)
    places = reading_places(paths, share, values["read"], values["apart"], values["seed"]) if reads else ()
    weighed = paths.copy()
    for stream, (name, map) in enumerate(zip(("width", "height"), maps, strict=True)):
        by = np.maximum(evaluate_curve(values[f"{name}_along"], share), 0)
        if uneven := values[f"{name}_uneven"]:
            by *= 1 - uneven * unit_chances(values["seed"], number, stream)
        if map is not None:
            by *= read_at(map, *places)
        weighed[name] *= by
    return weighed
