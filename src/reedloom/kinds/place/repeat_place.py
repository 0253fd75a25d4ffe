"""Repeat place: a grid of cells, each with a place of its own and one stable random value."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.jit import kernel
from reedloom.kernels.mosaic import average_cells
from reedloom.kernels.places import cell_in, in_tile
from reedloom.kernels.reach import measure_footprint
from reedloom.kinds.place.place_parts import LOCAL, places_of
from reedloom.kinds.rows import CLOSING, SHIFTED, row_shifts
from reedloom.kit import GREY, ISLANDS, VECTOR, Context, Count, Float, Port, Role, Seed, kind

AT_RANDOM = {"tiles": "it jumps at every border of a cell, of which the seam may be the greatest"}
COUNTED = {"tiles": "it counts from one side of the tile to the other, and begins anew at the seam"}

POINT = np.zeros((1, 1), np.float32)
"""What a place covers that is looked at as a point."""


@kind(
    id="repeat_place",
    label="Repeat place",
    family="place",
    version=2,
    purpose="Divides the tile into cells; the same drawing is set into each.",
    inputs=(Port("place", VECTOR, optional=True, role=Role.PLACE),),
    outputs=(
        Port("local", VECTOR, help="The place within the cell, 0 to 1.", exempt=LOCAL, role=Role.WITHIN),
        Port("column", GREY, help="Which column the cell is in, 0 to 1 across the tile.", exempt=COUNTED),
        Port("row", GREY, help="Which row the cell is in, 0 to 1 from its top.", exempt=COUNTED),
        Port("random", GREY, help="One random value for each cell.", exempt=AT_RANDOM),
        Port("id", ISLANDS, help="The cells as islands.", exempt=AT_RANDOM | LOCAL),
    ),
    parameters=(
        Count("columns", 4, (1, 32), (1, 4096), help="Cells across."),
        Count("rows", 4, (1, 32), (1, 4096), help="Cells down."),
        Float("row_shift", 0.0, (0, 1), (-64, 64), help="How far rows are moved to the right, in cells."),
        SHIFTED,
        Seed(),
    ),
    exempt={"shift": "the grid of cells stays where it is"},
    synonyms=("grid", "tile", "bricks", "tiling", "array"),
    sample={"columns": 3, "rows": 4, "row_shift": 0.5},
    changes={2: CLOSING},
)
def repeat_place(
    context: Context,
    place: np.ndarray | None,
    *,
    columns: int,
    rows: int,
    row_shift: float,
    shifted: str,
    seed: int,
) -> dict[str, np.ndarray]:
    shifts = row_shifts(context, rows, row_shift, shifted)
    rows = len(shifts)
    source = places_of(context, place)
    footprint = None if place is None else measure_footprint(place, context.bands, context.aspect)
    plain = np.full((1, 1), context.sample, np.float32)
    values = {
        "column": np.tile((np.arange(columns, dtype=np.float32) + 0.5) / columns, (rows, 1)),
        "row": np.repeat((np.arange(rows, dtype=np.float32)[:, None] + 0.5) / rows, columns, axis=1),
        "random": unit_lattice(seed, columns, rows, check=context.stop.check),
    }
    outputs = {n: context.empty(2 if n == "local" else 1) for n in sorted(context.wanted)}

    if "id" in outputs:
        outputs["id"] = np.empty((context.height, context.width), np.int32)
        numbers = np.arange(1, rows * columns + 1, dtype=np.float32).reshape(rows, columns)

    def band(y0: int, y1: int) -> None:
        rows_of_places = source[y0:y1]
        if "local" in outputs:
            place_within(rows_of_places, columns, rows, shifts, outputs["local"][y0:y1])
        if "id" in outputs:
            found = np.empty(rows_of_places.shape[:2], np.float32)
            average_cells(rows_of_places, POINT, np.float32(context.aspect), shifts, numbers, found)
            outputs["id"][y0:y1] = found
        reach = plain if footprint is None else footprint[y0:y1]
        for name, each in values.items():
            if name in outputs:
                average_cells(
                    rows_of_places, reach, np.float32(context.aspect), shifts, each, outputs[name][y0:y1]
                )

    context.bands(band, band_rows=32)
    return outputs


@kernel
def place_within(place, columns, rows, shifts, out):  # type: ignore[no-untyped-def]
    """Places (n, W, 2) within cells of which each row is moved to the right, 0 to 1."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            v = in_tile(place[y, x, 1]) * np.float32(rows)
            row = cell_in(v, rows)
            u = in_tile(place[y, x, 0]) * np.float32(columns) - shifts[row]
            out[y, x, 0] = u - np.floor(u)
            out[y, x, 1] = v - np.float32(row)
