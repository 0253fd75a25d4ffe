"""Combine vectors: two fields of vectors added, mixed, or the longer of both."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.vector.vector_parts import VECTORS_OUT, lengths_of
from reedloom.kit import VECTOR, Choice, Context, Float, Port, Role, driving, kind, multiplies
from reedloom.kit.ways import numbers_of, ways_of


@kind(
    id="combine_vectors",
    label="Combine vectors",
    family="vector",
    version=1,
    purpose="Adds two fields of vectors, mixes them, or keeps the longer of both at each point.",
    inputs=(
        Port("first", VECTOR, role=Role.WAY),
        Port("second", VECTOR, role=Role.WAY),
        driving("share_map", multiplies("share"), "Multiplies the share, point by point: a mask."),
    ),
    outputs=(VECTORS_OUT,),
    parameters=(
        Choice("way", "add", ("add", "mix", "longer"), help="How the second comes to the first."),
        Float(
            "second_strength", 1.0, (-2, 2), (-100, 100), help="Lengthens the second; below 0 it turns back."
        ),
        Float("share", 1.0, (0, 1), (0, 1), neutral=0.0, help="How far the result goes before the first."),
    ),
    sample={"way": "mix", "share": 0.5},
    synonyms=("add", "mix", "vector maths", "sum", "blend"),
)
def combine_vectors(
    context: Context,
    first: np.ndarray,
    second: np.ndarray,
    share_map: np.ndarray | None,
    *,
    way: str,
    second_strength: float,
    share: float,
) -> np.ndarray:
    strength, amount = np.float32(second_strength), np.float32(share)

    def combine(first: np.ndarray, second: np.ndarray, *more: np.ndarray) -> np.ndarray:
        a, other = numbers_of(first), numbers_of(second) * strength
        if way == "longer":
            longer = lengths_of(context, ways_of(other)) > lengths_of(context, first)
            other = np.where(longer, other, a)
        elif way == "add":
            other += a
        other -= a
        other *= amount * more[0] if more else amount
        other += a
        return ways_of(other)

    return context.map_bands(combine, first, second, *([] if share_map is None else [share_map]))
