"""Repeat place: a grid of cells, each with a place of its own and one stable random value."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.places import measure_footprint
from reedloom.kinds.place.place_parts import LOCAL, places_of
from reedloom.kit import GREY, VECTOR, Choice, Context, Count, Float, Port, Role, Seed, kind

AT_RANDOM = {"tiles": "it jumps at every border of a cell, of which the seam may be the greatest"}
COUNTED = {"tiles": "it counts from one side of the tile to the other, and begins anew at the seam"}


@kind(
    id="repeat_place",
    label="Repeat place",
    family="place",
    version=1,
    purpose="Divides the tile into cells; the same drawing is set into each.",
    inputs=(Port("place", VECTOR, optional=True, role=Role.PLACE),),
    outputs=(
        Port("local", VECTOR, help="The place within the cell, 0 to 1.", exempt=LOCAL, role=Role.WITHIN),
        Port("column", GREY, help="Which column the cell is in, 0 to 1 across the tile.", exempt=COUNTED),
        Port("row", GREY, help="Which row the cell is in, 0 to 1 from its top.", exempt=COUNTED),
        Port("random", GREY, help="One random value for each cell.", exempt=AT_RANDOM),
    ),
    parameters=(
        Count("columns", 4, (1, 32), (1, 4096), help="Cells across."),
        Count("rows", 4, (1, 32), (1, 4096), help="Cells down."),
        Float("row_shift", 0.0, (0, 1), (-64, 64), help="How far rows are moved to the right, in cells."),
        Choice(
            "shifted",
            "every second",
            ("every second", "every third", "cumulative"),
            help="Which rows are moved; cumulative moves each on from the one above.",
        ),
        Seed(),
    ),
    exempt={"shift": "the grid of cells stays where it is"},
    synonyms=("grid", "tile", "bricks", "tiling", "array"),
    sample={"columns": 3, "rows": 3, "row_shift": 0.5},
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
    shifts = row_shifts(context, rows, row_shift, shifted, columns)
    source = places_of(context, place)
    footprint = None if place is None else measure_footprint(place, context.bands, context.aspect)
    plain = np.float32(context.sample)
    values = {
        "column": np.broadcast_to((np.arange(columns, dtype=np.float32) + 0.5) / columns, (rows, columns)),
        "row": np.broadcast_to(((np.arange(rows, dtype=np.float32) + 0.5) / rows)[:, None], (rows, columns)),
        "random": unit_lattice(seed, columns, rows, check=context.stop.check),
    }
    outputs = {n: context.empty(2 if n == "local" else 1) for n in sorted(context.wanted)}

    def band(y0: int, y1: int) -> None:
        uv = source[y0:y1] * np.array([columns, rows], np.float32)
        if "local" in outputs:
            row = np.floor(uv[..., 1])
            across = uv[..., 0] - shifts[row.astype(np.int64) % rows]
            outputs["local"][y0:y1] = np.stack([across - np.floor(across), uv[..., 1] - row], axis=-1)
        wanted = [n for n in values if n in outputs]
        if wanted:
            reach = np.asarray(plain if footprint is None else footprint[y0:y1])
            found = averaged_cells(
                uv, reach * columns / 2, reach * rows / 2 / context.aspect, shifts, values, wanted
            )
            for name, array in found.items():
                outputs[name][y0:y1] = array

    context.bands(band, band_rows=16)
    return outputs


def row_shifts(context: Context, rows: int, shift: float, shifted: str, columns: int) -> np.ndarray:
    """How far each row of cells is moved, in cells; whole over the tile where it runs on."""
    number = np.arange(rows)
    if shifted == "cumulative":
        whole = round(shift * rows)
        if abs(whole - shift * rows) > 1e-6:
            context.report(
                f"The shift is snapped to {whole / rows:.4g} so that the last row meets the first."
            )
        return (number * whole / rows).astype(np.float32)
    every = {"every second": 2, "every third": 3}[shifted]
    return np.where(number % every == every - 1, shift, 0).astype(np.float32)


def averaged_cells(
    uv: np.ndarray,
    half_u: np.ndarray,
    half_v: np.ndarray,
    shifts: np.ndarray,
    values: dict[str, np.ndarray],
    wanted: list[str],
) -> dict[str, np.ndarray]:
    """Each cell's values averaged over what a sample covers: up to two rows of two cells."""
    rows, columns = next(iter(values.values())).shape
    half_u, half_v = np.minimum(half_u, np.float32(0.5)), np.minimum(half_v, np.float32(0.5))
    found: dict[str, np.ndarray] = {name: np.float32(0) for name in wanted}  # type: ignore[misc]
    for row, share in two_cells(uv[..., 1], half_v):
        across = uv[..., 0] - shifts[row % rows]
        for column, part in two_cells(across, half_u):
            for name in wanted:
                found[name] = found[name] + share * part * values[name][row % rows, column % columns]
    return found


def two_cells(x: np.ndarray, half: np.ndarray) -> list[tuple[np.ndarray, np.ndarray]]:
    """The cells at both ends of x ± half, and the share of the stretch that lies in each."""
    first = np.floor(x - half)
    beyond = np.clip((x + half - (first + 1)) / np.maximum(2 * half, np.float32(1e-9)), 0, 1)
    cell = first.astype(np.int64)
    return [(cell, 1 - beyond), (cell + 1, beyond)]
