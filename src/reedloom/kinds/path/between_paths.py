"""Bridge paths: many paths from one to another."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import starts_of
from reedloom.kinds.path.path_parts import FIXED, PATHS_OUT, along_paths, make_even_paths
from reedloom.kit import PATHS, Change, Context, Count, Float, Port, Seed, kind


@kind(
    id="between_paths",
    label="Bridge paths",
    family="path",
    version=2,
    purpose="Many paths from one path to another, or from each to the next: fibres of a disc, a warp.",
    inputs=(
        Port("paths", PATHS, help="Where they begin; of several, each is bridged to the next."),
        Port("to", PATHS, optional=True, help="Where they end, path for path."),
    ),
    outputs=(PATHS_OUT,),
    parameters=(
        Count("count", 60, (1, 600), (1, 20000), help="How many bridge each pair."),
        Count("corners", 16, (2, 48), (2, 512), help="Corners of each, between which it is straight."),
        Float("unevenness", 0.0, (0, 1), (0, 1), help="How far each strays along the path it begins on."),
        Float("slant", 0.0, (-0.5, 0.5), (-8, 8), help="How much further along the other path they end."),
        Float("way_from", 0.0, (0, 1), (0, 1), help="Where on the way over they begin."),
        Float("way_to", 1.0, (0, 1), (0, 1), help="Where on the way over they end."),
        Float("uneven_ends", 0.0, (0, 1), (0, 1), help="How far short of their end they stop, by chance."),
        Seed(),
    ),
    exempt=FIXED,
    changes={2: Change("Each path keeps its chances when others come or go.")},
    synonyms=("connect", "join", "strings", "fibres", "loft", "radial"),
)
def between_paths(
    context: Context, paths: np.ndarray, to: np.ndarray | None, count: int, corners: int, unevenness: float,
    slant: float, way_from: float, way_to: float, uneven_ends: float, seed: int,
) -> np.ndarray:  # fmt: skip
    firsts = len(starts_of(paths)) - 1
    pairs = firsts - 1 if to is None else min(firsts, len(starts_of(to)) - 1)
    if pairs < 1:
        context.report("There is only one path; tie another, or lay several, to bridge them.")
        return paths[:0]
    context.room_for(pairs * count * corners, "corners")
    ids = np.arange(pairs)[:, None] * 65536 + np.arange(count)
    stray = unit_chances(seed, ids.reshape(-1), 1).reshape(ids.shape).astype(np.float64) - 0.5
    at = ((np.arange(count) + 0.5 + unevenness * stray) / count) % 1
    begin = along_paths(context, first_paths(paths, pairs), at)
    ended = first_paths(paths, pairs, 1) if to is None else first_paths(to, pairs)
    end = along_paths(context, ended, (at + slant) % 1)
    start_u, start_v, width, height = (part.reshape(-1) for part in begin)
    end_u, end_v = (part.reshape(-1) for part in end[:2])
    # The shortest way around the tile.
    way_u, way_v = ((b - a) - np.round(b - a) for a, b in ((start_u, end_u), (start_v, end_v)))
    short = 1 - uneven_ends * unit_chances(seed, ids.reshape(-1), 2)
    share = way_from + (way_to - way_from) * np.linspace(0, 1, corners) * short[:, None]
    made = make_even_paths(
        start_u[:, None] + way_u[:, None] * share, start_v[:, None] + way_v[:, None] * share, ids.reshape(-1)
    )
    made["width"], made["height"] = np.repeat(width, corners), np.repeat(height, corners)
    return made


def first_paths(paths: np.ndarray, count: int, after: int = 0) -> np.ndarray:
    """So many paths, after some others."""
    starts = starts_of(paths)
    return paths[starts[after] : starts[after + count]]
