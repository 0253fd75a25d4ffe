"""Courses: rectangular blocks in rows."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np

from reedloom.kernels.elements import Elements, corner_of, within_box
from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.jit import kernel
from reedloom.kernels.places import around, cell_in, in_tile
from reedloom.kinds.pattern.pattern_parts import (
    FIXED,
    OUTPUTS,
    PLACE,
    SEED,
    bevelled,
    lay_pattern,
)
from reedloom.kinds.rows import CLOSING, SHIFTED, row_shifts
from reedloom.kit import Context, Count, Float, Length, kind


@kind(
    id="courses",
    label="Courses",
    family="pattern",
    version=2,
    purpose="Blocks in rows: bricks, ashlar, tiles, paving.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("columns", 4, (1, 24), (1, 2048), help="Blocks in each row."),
        Count("rows", 8, (1, 48), (1, 2048), help="Rows down the tile."),
        Float("row_shift", 0.5, (0, 1), (-64, 64), help="How far rows are moved to the right, in blocks."),
        SHIFTED,
        Float("size_variation", 0.0, (0, 1), (0, 1), help="How different in length blocks are."),
        Length("corner", 0.005, (0, 0.05), (0, 0.5), help="The radius of the corners."),
        *bevelled(0.012, 0.008),
        SEED,
    ),
    exempt=FIXED,
    changes={2: CLOSING},
    synonyms=("bricks", "blocks", "masonry", "tiles", "wall", "paving"),
)
def courses(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    shifts = row_shifts(context, values["rows"], values["row_shift"], values["shifted"])
    columns, rows = values["columns"], len(shifts)
    stray = (unit_lattice(values["seed"], columns, rows, 5) - 0.5) * np.float32(
        0.8 * values["size_variation"]
    )

    laid = Blocks.of(context, shifts, stray, values)

    def find(places: np.ndarray, found: Elements) -> None:
        find_blocks(places, laid, found)

    return lay_pattern(context, inputs[0], find, values, columns * rows)


class Blocks(NamedTuple):
    """Blocks in rows whose joints stray.

    Attributes
    ----------
    shifts : (rows,) float32
        How far each row is moved to the right, in blocks.
    stray : (rows, columns) float32
        How far the joint before each block is from its place, in blocks.
    high : float
        Rows in a width.
    corner : float
        From `corner_of`, in widths.
    """

    shifts: np.ndarray
    stray: np.ndarray
    high: float
    corner: float

    @classmethod
    def of(cls, context: Context, shifts: np.ndarray, stray: np.ndarray, values: dict[str, Any]) -> Blocks:
        """With the tile's measures and a kind's values."""
        corner = corner_of(values["corner"], values["gap"])
        return cls(shifts.astype(np.float32), stray.astype(np.float32), len(shifts) / context.aspect, corner)


@kernel
def find_blocks(places, laid, found):  # type: ignore[no-untyped-def]
    """Find the block of `Blocks` at each place."""
    shifts, stray, high, corner = laid
    rows, columns = stray.shape
    for k in range(places.shape[0]):
        y = in_tile(places[k, 1]) * np.float32(rows)
        row = cell_in(y, rows)
        x = np.float64(in_tile(places[k, 0]) * np.float32(columns)) - shifts[row]
        column = math.floor(x)
        if x < column + stray[row, around(column, columns)]:
            column -= 1
        if x >= column + 1 + stray[row, around(column + 1, columns)]:
            column += 1
        first = column + stray[row, around(column, columns)]
        last = column + 1 + stray[row, around(column + 1, columns)]
        part = np.float64(y) - row
        inward = within_box(
            (x - first) / columns, (last - x) / columns, part / high, (1 - part) / high, corner
        )
        found.inward[k] = inward
        found.number[k] = row * columns + around(column, columns)
        found.u[k], found.v[k] = (x - first) / (last - first), part
