"""Sort points: what order they are laid in."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import read_at
from reedloom.kinds.points.points_parts import POINTS_IN, POINTS_OUT, SEED
from reedloom.kit import GREY, Choice, Context, Port, Switch, kind

ORDERS = ("by chance", "by size", "by tone", "by map", "left to right", "top to bottom")


@kind(
    id="sort_points",
    label="Sort points",
    family="points",
    version=1,
    purpose="Puts points in an order: what is laid last lies on top.",
    inputs=(POINTS_IN, Port("map", GREY, optional=True, help="Read at each point, to order them by it.")),
    outputs=(POINTS_OUT,),
    parameters=(
        Choice("order", "by size", ORDERS, help="What the order goes by, the least first."),
        Switch("reversed", False, help="The greatest first."),
        Switch(
            "set_level", True, help="Gives each point its rank, 0 to 1, as its level, for stamps by level."
        ),
        SEED,
    ),
    exempt={"shift": "an order from left to right, or downwards, begins at the tile's own edge"},
    synonyms=("order", "arrange", "rank", "overlap"),
)
def sort_points(
    context: Context, points: np.ndarray, map: np.ndarray | None, order: str, reversed: bool, set_level: bool,
    seed: int,
) -> np.ndarray:  # fmt: skip
    if order == "by map" and map is None:
        context.report("Tie a map to order the points by it.")
        return points
    found = np.argsort(order_key(points, map, order, seed), kind="stable")
    ordered = points[found[::-1] if reversed else found]
    if set_level:
        ordered["level"] = np.arange(len(ordered)) / max(1, len(ordered) - 1)
    return ordered


def order_key(points: np.ndarray, map: np.ndarray | None, order: str, seed: int) -> np.ndarray:
    """What each point is ordered by."""
    if order == "by map":
        assert map is not None
        return read_at(map, points["u"], points["v"])
    if order == "by chance":
        return unit_chances(seed, points["id"], 17)
    if order == "by size":
        size: np.ndarray = points["size"] * points["size"] * points["stretch"]
        return size
    field: np.ndarray = points[{"by tone": "tone", "left to right": "u", "top to bottom": "v"}[order]]
    return field
