"""Fan warp: a map pushed along several directions at once."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_lattice
from reedloom.kinds.filter.filter_parts import STRENGTH_MAP
from reedloom.kinds.warp.push import pushes
from reedloom.kinds.warp.warp_parts import CENTRED, HELD, READING, move_map
from reedloom.kit import COLOUR, GREY, SAME_AS, Angle, Choice, Context, Count, Float, Length, Port, Seed, kind

JOININGS = ("average", "lowest", "highest", "one after another")


@kind(
    id="fan_warp",
    label="Fan warp",
    family="warp",
    version=2,
    purpose="Pushes a map along several directions and joins the results: frayed, feathered, crushed edges.",
    inputs=(
        Port("map", GREY | COLOUR),
        Port("guide", GREY, help="How far each point moves."),
        STRENGTH_MAP,
    ),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Length(
            "strength",
            0.03,
            (0, 0.15),
            (-4, 4),
            help="How far the map moves where the guide is 1.",
            neutral=0.0,
        ),
        Count("directions", 6, (2, 16), (1, 64), help="How many directions there are."),
        Angle("angle", help="The first direction."),
        Float("uneven", 0.0, (0, 1), (0, 1), help="How unevenly the directions are spread over the turn."),
        Choice("joining", "average", JOININGS, help="How the results become one."),
        CENTRED,
        READING,
        Seed(),
    ),
    synonyms=("multi directional", "fray", "feather", "scatter edge", "distort"),
    sample={"joining": "lowest", "strength": 0.08},
    changes={2: HELD},
)
def fan_warp(
    context: Context,
    map: np.ndarray,
    guide: np.ndarray,
    strength_map: np.ndarray | None,
    *,
    strength: float,
    directions: int,
    angle: float,
    uneven: float,
    joining: str,
    centred: bool,
    reading: str,
    seed: int,
) -> np.ndarray:
    stray = (unit_lattice(seed, directions, 1)[0] - 0.5) * uneven
    angles = angle + (np.arange(directions) + stray) * 360 / directions
    result, total = map, None
    for turn in angles:
        context.stop.check()
        moved = pushes(context, guide, None, strength_map, strength, float(turn), centred)
        if joining == "one after another":
            result = move_map(context, result, moved, reading)
            continue
        pushed = move_map(context, map, moved, reading)
        total = pushed if total is None else context.map_bands(JOIN[joining], total, pushed)
    if joining == "one after another":
        return result
    assert total is not None
    return total * np.float32(1 / directions) if joining == "average" else total


JOIN = {"average": np.add, "lowest": np.minimum, "highest": np.maximum}
