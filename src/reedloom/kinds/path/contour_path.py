"""Contour paths: the lines along one or more levels of a map, closed around the tile."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.contours import contours_of
from reedloom.kernels.points import VERTEX, starts_of
from reedloom.kinds.path.path_parts import PATHS_OUT, evenly_cornered, relaxed, runs_of
from reedloom.kit import GREY, Context, Count, Float, Length, Port, kind

SEVERAL = tuple(range(2, 257))
ROUNDS = 4
"""How often corners are evened out."""
SHORTEST = 3
"""Samples of a line below which it is left out whatever is asked: specks of single samples."""


@kind(
    id="contour_path",
    label="Contour paths",
    family="path",
    version=1,
    purpose="Lays paths along a level of a map, or several: shorelines, rims, year rings, drawn outlines.",
    inputs=(Port("map", GREY),),
    outputs=(PATHS_OUT,),
    parameters=(
        Float("level", 0.5, (0, 1), help="The tone along which paths run."),
        Count("levels", 1, (1, 12), (1, 256), help="How many levels, evenly up to the highest."),
        Float("highest", 0.9, (0, 1), help="The last of several levels.", shown_if={"levels": SEVERAL}),
        Length("spacing", 0.01, (0.002, 0.05), (0.0005, 1), help="How far apart corners are laid."),
        Float("smoothness", 0.5, (0, 1), (0, 1), help="How far steps of the map's samples are evened out."),
        Length("shortest", 0.05, (0, 0.5), (0, 8), help="Shorter paths are left out."),
    ),
    exempt={
        "resolution": "paths run between samples, and a thin bridge may part at another size",
        "shift": "corners are laid from where each path begins, which goes by where it lies",
        "metric": "corners are laid from where each path begins, which goes by where it lies",
    },
    synonyms=("outline", "isoline", "vectorise", "trace", "border", "level set", "marching squares"),
)
def contour_path(
    context: Context,
    map: np.ndarray,
    *,
    level: float,
    levels: int,
    highest: float,
    spacing: float,
    smoothness: float,
    shortest: float,
) -> np.ndarray:
    found, number = [np.zeros(0, VERTEX)], 0
    for tone in np.linspace(level, highest, levels) if levels > 1 else [level]:
        context.stop.check()
        line, x, y = contours_of(np.ascontiguousarray(map), float(tone), context.bands, context.stop.check)
        if not len(line):
            continue
        paths = np.zeros(len(line), VERTEX)
        paths["path"] = paths["id"] = line + number
        paths["width"] = 1
        paths["u"], paths["v"] = (x + 0.5) / context.width, (y + 0.5) / context.height
        paths["height"] = 1 if levels == 1 else tone
        number += int(line[-1]) + 1
        found.append(paths)
    paths = np.concatenate(found)
    starts = starts_of(paths)
    _, lengths = runs_of(context, paths, starts)
    long = lengths >= max(shortest, SHORTEST * context.sample)
    paths = paths[np.repeat(long, np.diff(starts))]
    return relaxed(context, evenly_cornered(context, paths, spacing), smoothness, ROUNDS)
