"""Path through points: in their order, from each to the nearest left, or as the least tree."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.growth import Tree
from reedloom.kernels.joining import hang_on, least_tree, nearest_order
from reedloom.kernels.points import VERTEX, starts_of
from reedloom.kinds.path.path_parts import FIXED, PATHS_OUT, paths_of_tree
from reedloom.kinds.points.points_parts import POINTS_IN
from reedloom.kit import Choice, Context, Float, Length, Switch, kind

IN_ORDER, NEAREST, TREE = "in order", "nearest next", "least tree"
MOST = 10_000
"""Points that are joined at most; the way to each is compared with that to all others."""


@kind(
    id="points_path",
    label="Path through points",
    family="path",
    version=1,
    purpose="Joins points: in order, each to the nearest that is left, or all by the least tree.",
    inputs=(POINTS_IN,),
    outputs=(PATHS_OUT,),
    parameters=(
        Choice("way", TREE, (IN_ORDER, NEAREST, TREE), help="Which points are joined."),
        Length("longest", 2.0, (0.02, 2), (0, 2), help="Joins longer than this are left out."),
        Switch("closed", False, help="Joins the last to the first.", shown_if={"way": (IN_ORDER, NEAREST)}),
        Float(
            "taper",
            0.35,
            (0, 1),
            (0, 4),
            help="How much thinner limbs of the tree are that bear less.",
            shown_if={"way": TREE},
        ),
    ),
    exempt=FIXED,
    synonyms=("connect", "join", "spanning tree", "roots", "veins", "polyline", "net"),
)
def points_path(
    context: Context, points: np.ndarray, *, way: str, longest: float, closed: bool, taper: float
) -> np.ndarray:
    points = points[:MOST]
    context.room_for(len(points) ** 2 // 64, "joins")
    u, v = points["u"].astype(np.float64), points["v"] * context.aspect
    if not len(u):
        return np.zeros(0, VERTEX)
    if way == TREE:
        return through_tree(context, u, v, longest, taper)
    order = np.arange(len(u))
    if way == NEAREST:
        order = nearest_order(u, v, context.aspect, context.stop.check)
    order = np.append(order, order[0]) if closed else order
    across, down = u[order], v[order]
    du, dv = np.diff(across), np.diff(down)
    du, dv = du - np.round(du), dv - context.aspect * np.round(dv / context.aspect)
    paths = np.zeros(len(order), VERTEX)
    paths["u"] = across[0] + np.concatenate([[0], np.cumsum(du)])
    paths["v"] = (down[0] + np.concatenate([[0], np.cumsum(dv)])) / context.aspect
    paths["path"] = np.concatenate([[0], np.cumsum(np.hypot(du, dv) > longest)])
    paths["width"] = paths["height"] = 1
    starts = starts_of(paths)
    paths["id"] = np.repeat(points["id"][order][starts[:-1]], np.diff(starts))
    return paths


def through_tree(context: Context, u: np.ndarray, v: np.ndarray, longest: float, taper: float) -> np.ndarray:
    """The least tree's limbs, wider where more hangs on them."""
    order, parent = least_tree(u, v, context.aspect, longest, context.stop.check)
    context.stop.check()
    across, down = u[order], v[order]
    du = np.where(parent >= 0, across - across[parent], 0.0)
    dv = np.where(parent >= 0, down - down[parent], 0.0)
    du, dv = du - np.round(du), dv - context.aspect * np.round(dv / context.aspect)
    at_u, at_v = across.copy(), down.copy()
    hang_on(parent, du, dv, at_u, at_v)
    tree = Tree(at_u, at_v, parent, np.zeros(len(parent), np.int64))
    return paths_of_tree(context, tree, taper)[0]
