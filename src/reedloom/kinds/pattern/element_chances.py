"""Element chances: several independent random values for each element, cell, stamp or island."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.regions import measure_regions, place_chances
from reedloom.kinds.height.island_parts import of_each
from reedloom.kinds.pattern.pattern_parts import PER_ELEMENT
from reedloom.kit import COLOUR, GREY, ISLANDS, Choice, Context, Count, Port, Seed, kind

GIVEN = 6
"""Values that are given at once."""
STREAM = 1000
"""Where its streams of chance begin, away from those of other kinds."""
NUMBER, PLACE = "its number", "where it lies"
LIMITS = PER_ELEMENT | {
    "metric": "each element has chances of its own, wherever it is laid again",
    "shift": "what comes from where an element lies changes when it lies elsewhere",
}


@kind(
    id="element_chances",
    label="Element chances",
    family="pattern",
    version=1,
    purpose="Independent random values for each element, cell, stamp or island, as many as are needed.",
    inputs=(Port("elements", ISLANDS, help="Elements: the id of a pattern, cells, stamps or islands."),),
    outputs=(
        *(
            Port(f"chance_{n}", GREY, help=f"Random value no. {n} of each element.", exempt=LIMITS)
            for n in range(1, GIVEN + 1)
        ),
        Port("colour", COLOUR, plain=True, help="The first three as one.", exempt=LIMITS),
    ),
    parameters=(
        Count(
            "first",
            1,
            (1, 25),
            (1, 10_000),
            help="The number of the first value: others are independent of it.",
        ),
        Choice(
            "comes_from",
            NUMBER,
            (NUMBER, PLACE),
            help="What an element's values depend on: its number in the pattern, or where it lies, which "
            "keeps them for islands when others come and go.",
        ),
        Seed(),
    ),
    synonyms=("random", "hash", "per element", "several randoms", "id to grey"),
)
def element_chances(
    context: Context, elements: np.ndarray, *, first: int, comes_from: str, seed: int
) -> dict[str, np.ndarray]:
    table = measure_regions(elements, context.stop.check, context.aspect) if comes_from == PLACE else None
    numbers = np.arange(int(elements.max()) + 1)

    def chances(n: int) -> np.ndarray:
        stream = STREAM + first + n
        if table is None:
            found = unit_chances(seed, numbers, stream)
        else:
            found = place_chances(seed, table.u, table.v, stream)
        found[0] = 0
        return found

    made = {
        f"chance_{n + 1}": of_each(context, elements, chances(n))
        for n in range(GIVEN)
        if f"chance_{n + 1}" in context.wanted
    }
    if "colour" in context.wanted:
        made["colour"] = of_each(context, elements, np.stack([chances(n) for n in range(3)], axis=1))
    return made
