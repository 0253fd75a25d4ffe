"""Herringbone: blocks at right angles, each against the side of the next."""

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
from reedloom.kit import Context, Count, Length, kind


@kind(
    id="herringbone",
    label="Herringbone",
    family="pattern",
    version=1,
    purpose="Blocks at right angles, each end against the side of the next: parquet, paving.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("repeats", 2, (1, 8), (1, 256), help="How often the pattern repeats across the tile."),
        Count("ratio", 3, (2, 6), (2, 32), help="A block's length in widths."),
        Length("corner", 0.002, (0, 0.05), (0, 0.5), help="The radius of the corners."),
        *bevelled(0.008, 0.005),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("parquet", "zigzag", "chevron", "paving"),
)
def herringbone(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    ratio = values["ratio"]
    repeats_v = max(1, round(values["repeats"] * context.aspect))
    squares, squares_v = 2 * ratio * values["repeats"], 2 * ratio * repeats_v
    high = squares_v / context.aspect  # squares down in a width

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        x, y = u * np.float32(squares), v * np.float32(squares_v)
        i, j = np.minimum(x.astype(np.int64), squares - 1), np.minimum(y.astype(np.int64), squares_v - 1)
        t = (i - j) % (2 * ratio)
        lies = t < ratio
        # A lying block begins t cells to the left; a standing one ends t - ratio cells below.
        left, top = np.where(lies, i - t, i), np.where(lies, j, j + (t - ratio) - (ratio - 1))
        wide, tall = np.where(lies, ratio, 1), np.where(lies, 1, ratio)
        du, dv = x - left, y - top
        inward = within_box(
            du / squares,
            (wide - du) / squares,
            dv / high,
            (tall - dv) / high,
            values["corner"],
            values["gap"],
        )
        number = (top % squares_v) * squares + left % squares
        along, across = np.where(lies, du / ratio, dv / ratio), np.where(lies, dv, du)
        return Elements(inward.astype(np.float32), number, along, across)

    return lay_pattern(context, inputs[0], find, values, squares * squares_v)
