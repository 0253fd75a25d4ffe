"""Checks: a board of squares."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.elements import Elements, corner_of, within_box
from reedloom.kernels.jit import kernel
from reedloom.kernels.places import cell_in, in_tile
from reedloom.kinds.pattern.pattern_parts import (
    FIXED,
    OUTPUTS,
    PLACE,
    SEED,
    bevelled,
    lay_pattern,
)
from reedloom.kit import Choice, Context, Count, Length, kind


@kind(
    id="checks",
    label="Checks",
    family="pattern",
    version=1,
    purpose="A board of fields, all raised or every second: floors, cloth, inlay.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("columns", 8, (1, 32), (1, 4096), help="Fields across."),
        Count("rows", 8, (1, 32), (1, 4096), help="Fields down."),
        Choice("raised", "every second", ("every second", "all"), help="Which fields have height."),
        Length("corner", 0.0, (0, 0.05), (0, 0.5), help="The radius of the corners."),
        *bevelled(0.01, 0.002),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("checkerboard", "squares", "grid", "chess", "tiles"),
)
def checks(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    columns, rows = values["columns"], values["rows"]
    second = values["raised"] == "every second"
    if second and (columns % 2 or rows % 2):
        columns, rows = columns + columns % 2, rows + rows % 2
        context.report(f"{columns} by {rows} fields close at the seam.")

    high = rows / context.aspect  # rows in a width

    corner = corner_of(values["corner"], values["gap"])

    def find(places: np.ndarray, found: Elements) -> None:
        find_fields(places, columns, rows, high, corner, second, found)

    return lay_pattern(context, inputs[0], find, values, columns * rows)


@kernel
def find_fields(places, columns, rows, high, corner, second, found):  # type: ignore[no-untyped-def]
    """Find the field at each place.

    columns, rows : fields across and down; high : rows in a width; corner : from `corner_of`; second :
    whether only every second one is raised.
    """
    for k in range(places.shape[0]):
        x, y = in_tile(places[k, 0]) * np.float32(columns), in_tile(places[k, 1]) * np.float32(rows)
        i, j = cell_in(x, columns), cell_in(y, rows)
        fu, fv = x - np.float32(i), y - np.float32(j)
        found.inward[k] = within_box(fu / columns, (1 - fu) / columns, fv / high, (1 - fv) / high, corner)
        found.number[k] = j * columns + i
        found.u[k], found.v[k] = fu, fv
        if second:
            found.raised[k] = np.float32(1.0) if (i + j) % 2 == 0 else np.float32(0.0)
