"""Rotate and flip: quarter turns and mirrors, exact."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.maps import empty_map
from reedloom.kernels.resize import resize_map
from reedloom.kit import COLOUR, GREY, SAME_AS, Choice, Context, Port, Switch, kind

TURNS = {"none": 0, "quarter": 3, "half": 2, "three quarters": 1}


@kind(
    id="rotate_flip",
    label="Rotate and flip",
    family="filter",
    version=1,
    purpose="Turns a map by quarters or mirrors it, without any loss.",
    inputs=(Port("map", GREY | COLOUR),),
    outputs=(Port("map", SAME_AS("map")),),
    parameters=(
        Choice("turn", "quarter", tuple(TURNS), help="How far the map is turned clockwise."),
        Switch("left_and_right", False, help="Mirrors it from left to right.", former=("mirror_u",)),
        Switch("top_and_bottom", False, help="Mirrors it from top to bottom.", former=("mirror_v",)),
    ),
    exempt={
        "metric": "a quarter turn of a tile that is not square is stretched to fit it",
        "shift": "it turns about the middle of the tile",
    },
    synonyms=("mirror", "rotate 90", "quarter turn", "reflect"),
)
def rotate_flip(
    context: Context, map: np.ndarray, *, turn: str, left_and_right: bool, top_and_bottom: bool
) -> np.ndarray:
    result = np.rot90(map, TURNS[turn])
    if left_and_right:
        result = result[:, ::-1]
    if top_and_bottom:
        result = result[::-1]
    if TURNS[turn] % 2 and context.aspect != 1:
        context.report("A quarter turn of a tile that is not square is stretched to fit it.")
    if not result.flags.c_contiguous:  # else it is the map itself
        laid = empty_map(result.shape)
        context.bands(lambda y0, y1: np.copyto(laid[y0:y1], result[y0:y1]), rows=len(laid))
        result = laid
    if result.shape != map.shape:
        return resize_map(result, context.width, context.height, bands=context.bands)
    return result
