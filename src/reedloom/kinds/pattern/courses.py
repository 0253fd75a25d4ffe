"""Courses: rectangular blocks in rows."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.hashing import unit_lattice
from reedloom.kinds.pattern.pattern_parts import (
    FIXED,
    OUTPUTS,
    PLACE,
    SEED,
    Elements,
    bevelled,
    lay_pattern,
    within_box,
)
from reedloom.kinds.place.repeat_place import row_shifts
from reedloom.kit import Choice, Context, Count, Float, Length, kind


@kind(
    id="courses",
    label="Courses",
    family="pattern",
    version=1,
    purpose="Blocks in rows: bricks, ashlar, tiles, paving.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("columns", 4, (1, 24), (1, 2048), help="Blocks in each row."),
        Count("rows", 8, (1, 48), (1, 2048), help="Rows down the tile."),
        Float("row_shift", 0.5, (0, 1), (-64, 64), help="How far rows are moved to the right, in blocks."),
        Choice(
            "shifted",
            "every second",
            ("every second", "every third", "cumulative"),
            help="Which rows are moved.",
        ),
        Float("size_variation", 0.0, (0, 1), (0, 1), help="How different in length blocks are."),
        Length("corner", 0.005, (0, 0.05), (0, 0.5), help="The radius of the corners."),
        *bevelled(0.012, 0.008),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("bricks", "blocks", "masonry", "tiles", "wall", "paving"),
)
def courses(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    columns, rows = values["columns"], values["rows"]
    shifts = row_shifts(context, rows, values["row_shift"], values["shifted"], columns)
    stray = (unit_lattice(values["seed"], columns, rows, 5) - 0.5) * np.float32(
        0.8 * values["size_variation"]
    )

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        return blocks(u, v, shifts, stray, context.aspect, values["corner"], values["gap"])

    return lay_pattern(context, inputs[0], find, values, columns * rows)


def blocks(
    u: np.ndarray,
    v: np.ndarray,
    shifts: np.ndarray,
    stray: np.ndarray,
    aspect: float,
    corner: float,
    gap: float,
) -> Elements:
    """Blocks in rows whose joints stray: stray (rows, columns), in blocks; lengths in widths."""
    rows, columns = stray.shape
    down = v * np.float32(rows)
    row = np.minimum(down.astype(np.int64), rows - 1)
    x = u * np.float32(columns) - shifts[row]
    column = np.floor(x).astype(np.int64)
    column -= x < column + stray[row, column % columns]
    column += x >= column + 1 + stray[row, (column + 1) % columns]
    first = column + stray[row, column % columns]
    last = column + 1 + stray[row, (column + 1) % columns]
    part = down - row
    high = rows / aspect  # rows in a width
    inward = within_box(
        (x - first) / columns, (last - x) / columns, part / high, (1 - part) / high, corner, gap
    )
    number = row * columns + column % columns
    return Elements(inward, number, (x - first) / (last - first), part)
