"""Basket pattern: strands in blocks, over and under."""

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
from reedloom.kit import Context, Count, Float, kind


@kind(
    id="basket_pattern",
    label="Basket pattern",
    family="pattern",
    version=1,
    purpose="Blocks of parallel strands that pass over and under one another: baskets, parquet, cane.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("columns", 4, (2, 10), (2, 1024), help="Blocks across, an even number."),
        Count("rows", 4, (2, 10), (2, 1024), help="Blocks down, an even number."),
        Count("strands", 3, (1, 5), (1, 64), help="Strands in each block."),
        Float(
            "arch",
            0.6,
            (0, 1),
            (0, 1),
            help="How much strands rise in the middle of a block and dive at its ends.",
        ),
        *bevelled(0.02, 0.004),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("wicker", "basket weave", "cane", "over under", "parquet"),
)
def basket_pattern(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    columns, rows = (n + n % 2 for n in (values["columns"], values["rows"]))
    strands = values["strands"]
    if (columns, rows) != (values["columns"], values["rows"]):
        context.report(f"{columns} by {rows} blocks close at the seam.")

    high = rows / context.aspect  # rows in a width

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        x, y = u * np.float32(columns), v * np.float32(rows)
        i, j = np.minimum(x.astype(np.int64), columns - 1), np.minimum(y.astype(np.int64), rows - 1)
        fu, fv = x - i, y - j
        lies = (i + j) % 2 == 0
        along, across = np.where(lies, fu, fv), np.where(lies, fv, fu) * np.float32(strands)
        k = np.minimum(across.astype(np.int64), strands - 1)
        part = across - k
        unit_along = np.where(lies, 1 / columns, 1 / high).astype(np.float32)
        unit_across = np.where(lies, 1 / high, 1 / columns).astype(np.float32) / np.float32(strands)
        far = np.full_like(part, 1e3)
        inward = within_box(far, far, part * unit_across, (1 - part) * unit_across, 0.0, values["gap"])
        ends = np.minimum(along, 1 - along) * unit_along
        inward = np.minimum(inward, ends + np.float32(values["gap"] / 2))
        arch = np.float32(values["arch"])
        raised = 1 - arch + arch * np.sqrt(np.maximum(1 - (2 * along - 1) ** 2, 0))
        return Elements(inward, (j * columns + i) * strands + k, along, part, raised)

    return lay_pattern(context, inputs[0], find, values, columns * rows * strands, 1 / max(columns, rows))
