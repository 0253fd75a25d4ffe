"""Keep islands: some of them, by chance, size, order or a map at their centre."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import read_at
from reedloom.kernels.regions import measure_regions, place_chances
from reedloom.kinds.height.island_parts import of_each
from reedloom.kinds.height.islands import WHOLE_SAMPLES
from reedloom.kit import GREY, ISLANDS, Context, Float, Port, Seed, Switch, kind

LIMITS = WHOLE_SAMPLES | {"shift": "an island's chance comes from where it lies, which nothing else changes"}


@kind(
    id="keep_islands",
    label="Keep islands",
    family="height",
    version=1,
    purpose="Leaves some islands out: by chance, by size, by order, or by a map at their centre.",
    inputs=(
        Port("islands", ISLANDS),
        Port("map", GREY, optional=True, help="Islands stay where it is above the level at their centre."),
    ),
    outputs=(
        Port("mask", GREY, help="1 on the islands that stay.", exempt=LIMITS),
        Port("islands", ISLANDS, help="The islands that stay, with their numbers.", exempt=LIMITS),
    ),
    parameters=(
        Float("share", 1.0, (0, 1), (0, 1), help="The share that stays, by chance."),
        Float("size_from", 0.0, (0, 0.1), (0, 1), help="The least size that stays, as a share of the tile."),
        Float("size_to", 1.0, (0, 0.1), (0, 1), help="The greatest size that stays."),
        Float("order_from", 0.0, (0, 1), (0, 1), help="Where in the order of their numbers kept ones begin."),
        Float("order_to", 1.0, (0, 1), (0, 1), help="Where in the order of their numbers kept ones end."),
        Float("level", 0.5, (0, 1), help="Where the map begins to keep islands."),
        Switch("others", False, help="Keeps just the others instead."),
        Seed(),
    ),
    sample={"share": 0.5},
    synonyms=("filter", "select", "remove", "pick regions"),
    exempt={"metric": "which are kept is by chance, which comes from where they lie"},
)
def keep_islands(
    context: Context, islands: np.ndarray, map: np.ndarray | None, *, share: float, size_from: float,
    size_to: float, order_from: float, order_to: float, level: float, others: bool, seed: int,
) -> dict[str, np.ndarray]:  # fmt: skip
    table = measure_regions(islands, context.stop.check)
    kept = place_chances(seed, table.u, table.v, 5) < share
    kept &= (table.area >= size_from) & (table.area <= size_to)
    rank = np.zeros(len(table.area))
    rank[table.present] = (np.arange(len(table.present)) + 0.5) / max(1, len(table.present))
    kept &= (rank >= order_from) & (rank <= order_to)
    if map is not None:
        kept &= read_at(map, table.u, table.v) > level
    kept = ~kept if others else kept
    kept[0] = False
    mask = of_each(context, islands, kept)
    return {"mask": mask, "islands": context.map_bands(lambda k, m: np.where(m > 0, k, 0), islands, mask)}
