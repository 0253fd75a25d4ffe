"""Grid points: rows and columns of points, shifted, strayed, or every other one."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import make_points
from reedloom.kinds.points.points_parts import FIXED, POINTS_OUT, SEED, grid_ids
from reedloom.kinds.rows import CLOSING, fitting, fitting_rows
from reedloom.kit import Choice, Context, Count, Float, kind

CHECKS = ("all", "even", "odd")


@kind(
    id="grid_points",
    label="Grid points",
    family="points",
    version=2,
    purpose="Points in rows and columns.",
    outputs=(POINTS_OUT,),
    parameters=(
        Count("columns", 8, (1, 64), (1, 1024), help="Points across."),
        Count("rows", 8, (1, 64), (1, 1024), help="Points down."),
        Float("row_shift", 0.0, (0, 1), (-64, 64), help="Moves every second row, in shares of a column."),
        Float("jitter", 0.0, (0, 1), (0, 4), help="How far points stray, in shares of a column and row."),
        Choice("alternate", "all", CHECKS, help="All points, or those on the even or odd fields of a board."),
        SEED,
    ),
    exempt=FIXED,
    changes={2: CLOSING},
    sample={"row_shift": 0.5, "jitter": 0.25},
    synonyms=("array", "rows", "lattice", "regular"),
)
def grid_points(
    context: Context, columns: int, rows: int, row_shift: float, jitter: float, alternate: str, seed: int
) -> np.ndarray:
    rows = fitting_rows(context, rows, row_shift)
    if alternate != "all":
        columns, rows = fitting(context, columns, 2, "columns"), fitting(context, rows, 2)
    row, column = (a.reshape(-1) for a in np.mgrid[:rows, :columns])
    ids = grid_ids(row, column)
    stray = [jitter * (unit_chances(seed, ids, stream).astype(np.float64) - 0.5) for stream in (1, 2)]
    u = (column + 0.5 + row_shift * (row % 2) + stray[0]) / columns
    points = make_points(u, (row + 0.5 + stray[1]) / rows, ids)
    points["row"], points["column"] = row, column
    if alternate != "all":
        points = points[(row + column) % 2 == (alternate == "odd")]
    return points
