"""Pick: one of several maps by number, to try one after another."""

from __future__ import annotations

import numpy as np

from reedloom.kit import COLOUR, GREY, SAME_AS, Context, Integer, Port, kind

MOST = 8
NAMES = tuple(f"map_{number}" for number in range(1, MOST + 1))


@kind(
    id="pick",
    label="Pick",
    family="combine",
    version=1,
    purpose="Passes one of up to eight maps on, by number: try one imported map after another.",
    inputs=(
        Port("map_1", GREY | COLOUR),
        *(Port(name, GREY | COLOUR, optional=True) for name in NAMES[1:]),
    ),
    outputs=(Port("map", SAME_AS(*NAMES)),),
    parameters=(
        Integer(
            "number",
            1,
            (1, MOST),
            (1, MOST),
            help="Which map is passed on; untied ones are left out of the count.",
        ),
    ),
    synonyms=("switch", "select", "choose", "multiplexer"),
)
def pick(
    context: Context,
    map_1: np.ndarray,
    map_2: np.ndarray | None,
    map_3: np.ndarray | None,
    map_4: np.ndarray | None,
    map_5: np.ndarray | None,
    map_6: np.ndarray | None,
    map_7: np.ndarray | None,
    map_8: np.ndarray | None,
    *,
    number: int,
) -> np.ndarray:
    every = (map_1, map_2, map_3, map_4, map_5, map_6, map_7, map_8)
    tied = [map for map in every if map is not None]
    if number > len(tied):
        context.report(f"There are only {len(tied)} maps, so the last one is passed on.")
    return tied[min(number, len(tied)) - 1]
