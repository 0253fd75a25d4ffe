"""Frost: branching growth from points until it fills the tile: ice on glass, ferns, dendrites, roots."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from reedloom.kernels.growth import EATEN, FREE, Food, Manner, Tree, cut_tree, grow_tree
from reedloom.kernels.hashing import unit_chances, unit_lattice
from reedloom.kernels.points import read_at
from reedloom.kinds.path.draw_paths import draw_paths
from reedloom.kinds.path.path_parts import FIXED, paths_of_tree
from reedloom.kit import GREY, PATHS, POINTS, Context, Count, Float, Length, Port, Role, Seed, kind

STEP = 0.5
"""The length of a step, in cells of the grid in which food lies."""


@kind(
    id="frost",
    label="Frost",
    family="path",
    version=1,
    purpose="Branching growth that spreads until it meets itself: frost, ferns, dendrites, roots, lightning.",
    inputs=(
        Port("points", POINTS, optional=True, help="Where it begins; by chance if not tied."),
        Port(
            "ground",
            GREY,
            optional=True,
            help="Where it can grow: where this is above a half.",
            role=Role.MASK,
        ),
    ),
    outputs=(
        Port("height", GREY, help="The stems, the thicker the higher."),
        Port("mask", GREY, help="1 where a stem is."),
        Port("age", GREY, help="How late each part grew: 0 at the beginnings, 1 at the last tips."),
        Port("paths", PATHS, help="The stems as paths, wider towards where they began."),
    ),
    parameters=(
        Count("cells", 48, (8, 128), (2, 512), help="How fine the growth is, in shoots across the tile."),
        Count("beginnings", 4, (1, 24), (1, 1000), help="Where it begins by itself, if no points are tied."),
        Float("grown", 1.0, (0, 1), (0, 1), help="How far the growth has come."),
        Float("order", 0.7, (0, 1), (0, 1), help="How strictly it keeps to the ways of a crystal."),
        Count("sides", 6, (3, 8), (2, 24), help="How many ways a crystal has."),
        Float("wander", 0.2, (0, 1), (0, 6), help="How far each step strays."),
        Float("gap", 1.0, (0.5, 3), (0.25, 8), help="How far apart stems stay, in cells."),
        Float("reach", 3.0, (1.5, 8), (1, 32), help="How far a stem grows towards free ground, in cells."),
        Length("width", 0.012, (0.001, 0.05), (0, 0.5), help="How wide the widest stem is."),
        Float("taper", 0.35, (0, 1), (0, 4), help="How much thinner stems are that bear less."),
        Seed(),
    ),
    exempt=FIXED | {"resolution": "where a ground ends within a sample, the growth may take another way"},
    synonyms=("ice", "fern", "dendrite", "branching", "space colonisation", "lightning", "veins", "growth"),
)
def frost(
    context: Context, points: np.ndarray | None, ground: np.ndarray | None, **values: Any
) -> dict[str, np.ndarray]:
    tree = cut_tree(grown_tree(context, points, ground, values), values["grown"])
    paths, node = paths_of_tree(context, tree, values["taper"])
    made: dict[str, np.ndarray] = {"paths": paths} if "paths" in context.wanted else {}
    stroke = draw_paths.defaults() | {"width": values["width"], "join": "highest", "profile": "dome"}
    if drawn := context.wanted & {"height", "mask"}:
        made |= draw_paths.compute(context.within(drawn), paths, **stroke)
    if "age" in context.wanted:
        late = paths.copy()
        late["height"] = tree.depth[node] / max(1, tree.depth.max(initial=1))
        made["age"] = draw_paths.compute(context.within({"height"}), late, **stroke | {"profile": "flat"})[
            "height"
        ]
    return made


def grown_tree(
    context: Context, points: np.ndarray | None, ground: np.ndarray | None, values: dict[str, Any]
) -> Tree:
    """All that grows from the points, or from beginnings by chance."""
    columns, seed, aspect = values["cells"], values["seed"], context.aspect
    rows = max(1, round(columns * aspect))
    cell = 1 / columns
    if points is None:
        ids = np.arange(values["beginnings"])
        u, v = (unit_chances(seed, ids, stream).astype(np.float64) for stream in (71, 72))
    else:
        u, v = points["u"], points["v"]
    stray_u, stray_v = (unit_lattice(seed, columns, rows, stream).astype(np.float64) for stream in (73, 74))
    food_u = (np.arange(columns) + stray_u) / columns
    food_v = (np.arange(rows)[:, None] + stray_v) / rows
    near = np.full((rows, columns), FREE, np.int64)
    if ground is not None:
        barren = read_at(ground, food_u.reshape(-1), food_v.reshape(-1)).reshape(near.shape) <= 0.5
        near[barren] = EATEN
    food = Food(food_u, food_v * aspect, near, np.full(near.shape, np.inf))
    manner = Manner(
        STEP * cell,
        max(values["reach"], values["gap"]) * cell,
        values["gap"] * cell,
        values["order"],
        values["sides"],
        values["wander"] * math.pi / 3,
        seed,
    )
    return grow_tree(food, u.astype(np.float64), v * aspect, aspect, manner, context.stop.check)
