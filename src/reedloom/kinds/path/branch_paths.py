"""Branch paths: side branches off every path, and branches off those: veins, roots, twigs, frost."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import members_of, starts_of
from reedloom.kinds.path.path_parts import (
    PATHS_IN,
    PATHS_OUT,
    grown_paths,
    places_on_paths,
    runs_of,
    ways_on_paths,
)
from reedloom.kit import Angle, Change, Context, Count, Float, Length, Seed, Switch, kind

LEVELS = 4
MOST = 1024
"""Branches off one path at most."""
OFFSPRING = 1_000_003
"""What a path's number is multiplied by, so that those of its branches are no other path's."""


@kind(
    id="branch_paths",
    label="Branch paths",
    family="path",
    version=2,
    purpose="Lets side branches grow from every path, and from those again: veins, roots, twigs, frost.",
    inputs=(PATHS_IN,),
    outputs=(PATHS_OUT,),
    parameters=(
        Count("levels", 2, (1, 3), (1, LEVELS), help="How often branches branch again."),
        Length("spacing", 0.05, (0.01, 0.2), (0.001, 4), help="How far apart branches are along a path."),
        Float("bare", 0.1, (0, 1), (0, 1), help="Which share of a path from its start bears none."),
        Angle("angle", 45.0, help="How far branches turn from their path."),
        Float("angle_uneven", 0.3, (0, 1), (0, 4), help="How unlike one another those angles are."),
        Float("length", 0.5, (0, 1), (0, 4), help="How long the first branch of a path is, against it."),
        Float("shorter", 0.7, (0, 1), (0, 1), help="How much shorter branches are towards a path's end."),
        Float("narrower", 0.6, (0, 1), (0, 4), help="How wide a branch begins, against its path there."),
        Float("curl", 0.2, (-1, 1), (-8, 8), help="Above 0 branches turn back to their path's way."),
        Float("wander", 0.2, (0, 1), (0, 8), help="How far each strays from its way as it grows."),
        Count("corners", 10, (2, 32), (2, 256), help="Corners of each branch."),
        Switch("in_turn", True, help="To the left and right in turn; off: by chance."),
        Seed(),
    ),
    exempt={"shift": "the paths stay where they are"},
    changes={2: Change("Each branch keeps its chances when other paths come or go.")},
    synonyms=("tree", "vein", "root", "twig", "lightning", "frost", "fern"),
    sample={"angle": 50.0},
)
def branch_paths(context: Context, paths: np.ndarray, **values: Any) -> np.ndarray:
    grown, current = [paths], paths
    number = int(paths["path"].max()) + 1 if len(paths) else 0
    for level in range(values["levels"]):
        context.stop.check()
        current = branches_of(context, current, values, values["seed"] + 7919 * level)
        if not len(current):
            break
        current["path"] += number
        number = int(current["path"].max()) + 1
        grown.append(current)
    return np.concatenate(grown[::-1])  # the thickest lie on top


def branches_of(context: Context, paths: np.ndarray, values: dict[str, Any], seed: int) -> np.ndarray:
    """One branch off each place of every path, in their order."""
    starts = starts_of(paths)
    _, lengths = runs_of(context, paths, starts)
    counts = np.clip(lengths * (1 - values["bare"]) / values["spacing"], 0, MOST).astype(np.int64)
    context.room_for(int(counts.sum()) * values["corners"], "corners")
    parent, place = members_of(counts)
    ids = (paths["id"][starts[:-1]][parent] + 1) * OFFSPRING + place

    def chance(stream: int) -> np.ndarray:
        return unit_chances(seed, ids, stream).astype(np.float64)

    share = values["bare"] + (1 - values["bare"]) * (place + 0.25 + 0.5 * chance(1)) / np.maximum(
        counts[parent], 1
    )
    u, v, width, height = places_on_paths(context, paths, parent, share)
    along = ways_on_paths(context, paths, parent, share)
    in_turn = np.where(place % 2 == 0, 1.0, -1.0)
    side = in_turn if values["in_turn"] else np.where(chance(2) < 0.5, 1.0, -1.0)
    angle = np.radians(values["angle"]) * (1 + values["angle_uneven"] * (chance(3) - 0.5))
    length = values["length"] * lengths[parent] * (1 - values["shorter"] * share) * (0.7 + 0.6 * chance(4))
    steps = values["corners"] - 1
    stray = np.zeros(len(u))

    def heading(k: int, _u: np.ndarray, _v: np.ndarray) -> np.ndarray:
        stray[:] += values["wander"] * (chance(8 + k) - 0.5) * np.sqrt(30 / steps) * 0.5
        return along + side * angle * (1 - values["curl"] * (k + 0.5) / steps) + stray

    made = grown_paths(context, (u, v), length / steps, steps, ids, heading)
    thin = np.linspace(1, 0.15, steps + 1)
    made["width"] = (width[:, None] * values["narrower"] * thin).reshape(-1)
    made["height"] = np.repeat(height, steps + 1)
    return made
