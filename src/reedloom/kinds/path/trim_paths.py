"""Trim paths: a part of each, from one share of its length to another, laid anew in even steps."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import starts_of
from reedloom.kinds.path.path_parts import (
    PATHS_IN,
    PATHS_OUT,
    along_paths,
    ended_below,
    make_even_paths,
    read_on,
)
from reedloom.kit import GREY, Context, Count, Float, Port, Role, Seed, kind


@kind(
    id="trim_paths",
    label="Trim paths",
    family="path",
    version=1,
    purpose="Keeps a part of each path, cut by share, chance or a mask, with as many corners as wanted.",
    inputs=(
        PATHS_IN,
        Port("mask", GREY, optional=True, help="Parts end where it is not above the level.", role=Role.MASK),
    ),
    outputs=(PATHS_OUT,),
    parameters=(
        Float("cut_from", 0.0, (0, 1), (0, 1), help="Where along each path the part begins."),
        Float("cut_to", 0.7, (0, 1), (0, 1), help="Where along each path the part ends."),
        Float("start_uneven", 0.0, (0, 1), (0, 1), help="How much later some begin, by chance."),
        Float("end_uneven", 0.0, (0, 1), (0, 1), help="How much earlier some end, by chance."),
        Float("level", 0.5, (0, 1), help="How high the mask is where parts may be."),
        Count("corners", 24, (2, 96), (2, 1024), help="Corners of each part, evenly apart."),
        Seed(),
    ),
    synonyms=("shorten", "resample", "broken ends"),
)
def trim_paths(
    context: Context, paths: np.ndarray, mask: np.ndarray | None, cut_from: float, cut_to: float,
    start_uneven: float, end_uneven: float, level: float, corners: int, seed: int,
) -> np.ndarray:  # fmt: skip
    firsts = paths[starts_of(paths)[:-1]]
    ids = firsts["id"]
    context.room_for(len(ids) * corners, "corners")
    low, high = min(cut_from, cut_to), max(cut_from, cut_to)
    span = high - low
    begin = low + span * start_uneven * unit_chances(seed, ids, 1)
    end = high - span * end_uneven * unit_chances(seed, ids, 2)
    end = np.maximum(begin, end)
    at = begin[:, None] + (end - begin)[:, None] * np.linspace(0, 1, corners)
    u, v, width, height = along_paths(context, paths, at)
    made = make_even_paths(u, v, ids)
    made["path"] = np.repeat(firsts["path"], corners)
    made["width"], made["height"] = width.reshape(-1), height.reshape(-1)
    if mask is not None:
        made = ended_below(made, read_on(mask, made), level)
    return made
