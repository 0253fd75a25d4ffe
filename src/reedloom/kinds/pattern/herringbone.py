"""Herringbone: blocks at right angles, each against the side of the next."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.elements import Elements, corner_of, within_box
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

    corner = corner_of(values["corner"], values["gap"])

    def find(places: np.ndarray, found: Elements) -> None:
        find_herringbone(places, squares, squares_v, ratio, high, corner, found)

    return lay_pattern(context, inputs[0], find, values, squares * squares_v)


@kernel
def find_herringbone(places, squares, squares_v, ratio, high, corner, found):  # type: ignore[no-untyped-def]
    """Find the block at each place.

    squares, squares_v : block widths across and down the tile; ratio : of a block's sides; high : block
    widths down in a width; corner : from `corner_of`.
    """
    for k in range(places.shape[0]):
        x, y = in_tile(places[k, 0]) * np.float32(squares), in_tile(places[k, 1]) * np.float32(squares_v)
        i, j = cell_in(x, squares), cell_in(y, squares_v)
        t = (i - j) % (2 * ratio)
        lies = t < ratio
        # A lying block begins t squares to the left; a standing one ends t - ratio squares below.
        left = i - t if lies else i
        top = j if lies else j + (t - ratio) - (ratio - 1)
        wide, tall = (ratio, 1) if lies else (1, ratio)
        du, dv = np.float64(x) - left, np.float64(y) - top
        found.inward[k] = within_box(
            du / squares, (wide - du) / squares, dv / high, (tall - dv) / high, corner
        )
        found.number[k] = around(top, squares_v) * squares + around(left, squares)
        found.u[k], found.v[k] = (du / ratio, dv) if lies else (dv / ratio, du)
