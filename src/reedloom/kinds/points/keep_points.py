"""Keep points: some of them, by chance, by a mask, by fields of a board, by order or by size."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import read_at
from reedloom.kinds.points.grid_points import CHECKS
from reedloom.kinds.points.points_parts import POINTS_IN, POINTS_OUT, SEED
from reedloom.kit import GREY, Choice, Context, Float, Port, Role, Switch, kind


@kind(
    id="keep_points",
    label="Keep points",
    family="points",
    version=1,
    purpose="Leaves some points out; those that stay keep their number and so their chances.",
    inputs=(
        POINTS_IN,
        Port("mask", GREY, optional=True, help="Points stay where it is above the level.", role=Role.MASK),
    ),
    outputs=(POINTS_OUT,),
    parameters=(
        Float("share", 1.0, (0, 1), (0, 1), help="The share that stays, by chance."),
        Float("level", 0.5, (0, 1), help="Where the mask begins to keep points."),
        Choice("checks", "all", CHECKS, help="All, or the even or odd fields of a board, by row and column."),
        Float("order_from", 0.0, (0, 1), (0, 1), help="Where in their order the kept ones begin."),
        Float("order_to", 1.0, (0, 1), (0, 1), help="Where in their order the kept ones end."),
        Float("size_from", 0.0, (0, 3), (0, 1e6), help="The least size that stays."),
        Float("size_to", 1e6, (0, 3), (0, 1e6), help="The greatest size that stays."),
        Switch("others", False, help="Keeps just the others instead."),
        SEED,
    ),
    sample={"share": 0.5},
    synonyms=("filter", "remove", "thin", "cull", "delete"),
)
def keep_points(
    context: Context, points: np.ndarray, mask: np.ndarray | None, share: float, level: float, checks: str,
    order_from: float, order_to: float, size_from: float, size_to: float, others: bool, seed: int,
) -> np.ndarray:  # fmt: skip
    kept = unit_chances(seed, points["id"], 7) < share
    if mask is not None:
        kept &= read_at(mask, points["u"], points["v"]) > level
    if checks != "all":
        kept &= (points["row"] + points["column"]) % 2 == (checks == "odd")
    rank = (np.arange(len(points)) + 0.5) / max(1, len(points))
    kept &= (rank >= order_from) & (rank <= order_to)
    kept &= (points["size"] >= size_from) & (points["size"] <= size_to)
    return points[~kept if others else kept]
