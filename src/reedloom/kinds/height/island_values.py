"""Island values: a random value, size, place and slope for each island."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.regions import RegionTable, measure_regions, place_chances
from reedloom.kinds.height.island_parts import of_each, places_within, ways_from_middles
from reedloom.kinds.height.islands import WHOLE_SAMPLES
from reedloom.kit import COLOUR, GREY, ISLANDS, VECTOR, Angle, Choice, Context, Port, Role, Seed, Switch, kind

LIMITS = WHOLE_SAMPLES | {"tiles": "each island has values of its own, at the seam as elsewhere"}
TURNS = LIMITS | {"metric": "which way a nearly round island is longest turns with its every sample"}
CHANCE = LIMITS | {
    "shift": "an island's chance comes from where it lies, which nothing else changes",
    "metric": "an island's chance comes from where it lies, which nothing else changes",
}


@kind(
    id="island_values",
    label="Island values",
    family="height",
    version=1,
    purpose="What each island has of its own: chance, colour, size, place, long axis, and a slope.",
    inputs=(Port("islands", ISLANDS),),
    outputs=(
        Port("random", GREY, help="One random value for each island.", exempt=CHANCE),
        Port("random_colour", COLOUR, plain=True, help="Three random values for each.", exempt=CHANCE),
        Port("size", GREY, help="How large each is.", exempt=LIMITS),
        Port("local_place", VECTOR, help="The place within each, 0 to 1.", exempt=LIMITS, role=Role.WITHIN),
        Port(
            "centre", VECTOR, help="Where the middle of each is on the tile.", exempt=CHANCE, role=Role.PLACE
        ),
        Port("axis", GREY, help="Which way each is longest: 0.25 across, 0.75 down.", exempt=TURNS),
        Port("slope", GREY, help="Rises from 0 to 1 across each.", exempt=CHANCE),
    ),
    parameters=(
        Choice(
            "measure",
            "against the largest",
            ("against the largest", "share of the tile"),
            help="What sizes are.",
        ),
        Switch(
            "keep_proportions",
            True,
            help="Whether places within an island are stretched to fill 0 to 1 both ways.",
        ),
        Choice(
            "slope_angle", "by chance", ("by chance", "given", "long axis"), help="Which way each slopes."
        ),
        Angle("angle", help="The given direction of the slopes, or a turn added to the others."),
        Seed(),
    ),
    synonyms=("per island", "random per region", "gradient", "bounding box", "tilt"),
)
def island_values(
    context: Context,
    islands: np.ndarray,
    *,
    measure: str,
    keep_proportions: bool,
    slope_angle: str,
    angle: float,
    seed: int,
) -> dict[str, np.ndarray]:
    table = measure_regions(islands, context.stop.check, context.aspect)
    count = len(table.area)

    def chance(stream: int) -> np.ndarray:
        return _none_outside(place_chances(seed, table.u, table.v, stream))

    def each(values: np.ndarray) -> np.ndarray:
        return of_each(context, islands, values)

    def size() -> np.ndarray:
        area = _none_outside(table.area.copy())
        share = np.sqrt(area / max(area.max(), 1e-12)) if measure == "against the largest" else area
        return each(share)

    def slope() -> np.ndarray:
        turn = (
            np.radians(angle)
            + {
                "by chance": 2 * np.pi * chance(3),
                "given": np.zeros(count),
                "long axis": table.axis,
            }[slope_angle]
        )
        return _across(context, islands, table, np.cos(turn), np.sin(turn))

    makers: dict[str, Callable[[], np.ndarray]] = {
        "random": lambda: each(chance(0)),
        "random_colour": lambda: each(np.stack([chance(k) for k in range(3)], axis=1)),
        "size": size,
        "local_place": lambda: places_within(context, islands, table, keep_proportions),
        "centre": lambda: each(_none_outside(np.stack([table.u, table.v], axis=1))),
        "axis": lambda: each(_none_outside((table.axis / np.pi + 0.25) % 1)),
        "slope": slope,
    }
    return {name: makers[name]() for name in sorted(context.wanted)}


def _none_outside(values: np.ndarray) -> np.ndarray:
    values[0] = 0
    return values


def _across(
    context: Context, islands: np.ndarray, table: RegionTable, cos: np.ndarray, sin: np.ndarray
) -> np.ndarray:
    """From 0 to 1 over each island along a direction of its own, by the reach of its bounding box."""
    corners = [
        cos * table_u + sin * table_v
        for table_u in (table.low[:, 0], table.high[:, 0])
        for table_v in (table.low[:, 1], table.high[:, 1])
    ]
    low, high = np.minimum.reduce(corners), np.maximum.reduce(corners)
    span = np.maximum(high - low, 1e-9)

    ways = np.stack([cos / span, sin * context.aspect / span, -low / span], axis=1)[:, None]
    return ways_from_middles(context, islands, table.u, table.v, ways)
