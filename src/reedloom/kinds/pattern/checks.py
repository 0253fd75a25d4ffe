"""Checks: a board of squares."""

from __future__ import annotations

from typing import Any

import numpy as np

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

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        x, y = u * np.float32(columns), v * np.float32(rows)
        i, j = np.minimum(x.astype(np.int64), columns - 1), np.minimum(y.astype(np.int64), rows - 1)
        fu, fv = x - i, y - j
        inward = within_box(
            fu / columns, (1 - fu) / columns, fv / high, (1 - fv) / high, values["corner"], values["gap"]
        )
        raised = ((i + j) % 2 == 0).astype(np.float32) if second else None
        return Elements(inward, j * columns + i, fu, fv, raised)

    return lay_pattern(context, inputs[0], find, values, columns * rows)
