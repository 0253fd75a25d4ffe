"""Join points: several sets as one."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kinds.points.points_parts import POINTS_OUT
from reedloom.kit import POINTS, Context, Port, Switch, kind

SETS = 6
APART = 2**52
"""How far the numbers of a further set are moved, until none is that of another."""


@kind(
    id="join_points",
    label="Join points",
    family="points",
    version=1,
    purpose="Makes one set of points of several, in their order; all keep chances of their own.",
    inputs=(
        Port("points", POINTS, help="The first set."),
        *(
            Port(f"points_{n}", POINTS, optional=True, help="Comes after those before.")
            for n in range(2, SETS + 1)
        ),
    ),
    outputs=(POINTS_OUT,),
    parameters=(
        Switch(
            "by_set", False, help="Gives each set a level of its own, so that later ones are laid on top."
        ),
    ),
    synonyms=("merge", "union", "combine", "append", "together"),
)
def join_points(context: Context, *sets: np.ndarray | None, **values: Any) -> np.ndarray:
    joined: list[np.ndarray] = []
    for number, points in enumerate(sets):
        if points is None:
            continue
        moved = points.copy()
        while any(np.isin(moved["id"], other["id"]).any() for other in joined):
            moved["id"] += APART
        if values["by_set"]:
            moved["level"] = number / (SETS - 1)
        joined.append(moved)
    return np.concatenate(joined)
