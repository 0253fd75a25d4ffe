"""Planks: long boards of random lengths side by side."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.elements import Elements
from reedloom.kernels.hashing import unit_lattice
from reedloom.kinds.pattern.courses import Blocks, find_blocks
from reedloom.kinds.pattern.pattern_parts import FIXED, OUTPUTS, PLACE, SEED, bevelled, lay_pattern
from reedloom.kit import Context, Count, Float, Length, kind


@kind(
    id="planks",
    label="Planks",
    family="pattern",
    version=1,
    purpose="Long boards of random lengths side by side: floors, decks, cladding.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("rows", 8, (1, 32), (1, 2048), help="Boards side by side down the tile."),
        Count("boards", 2, (1, 8), (1, 256), help="Boards one after another in each row."),
        Float("length_variation", 0.8, (0, 1), (0, 1), help="How different in length boards are."),
        Length("corner", 0.001, (0, 0.02), (0, 0.5), help="The radius of the corners."),
        *bevelled(0.004, 0.004),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("boards", "floor", "wood", "parquet", "deck", "siding"),
)
def planks(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    boards, rows = values["boards"], values["rows"]
    shifts = unit_lattice(values["seed"], rows, 1, 7)[0] * np.float32(boards)
    stray = (unit_lattice(values["seed"], boards, rows, 5) - 0.5) * np.float32(
        0.9 * values["length_variation"]
    )

    laid = Blocks.of(context, shifts, stray, values)

    def find(places: np.ndarray, found: Elements) -> None:
        find_blocks(places, laid, found)

    return lay_pattern(context, inputs[0], find, values, boards * rows)
