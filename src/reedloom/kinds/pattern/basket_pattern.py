"""Basket pattern: strands in blocks, over and under."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from reedloom.kernels.elements import Elements
from reedloom.kernels.jit import kernel
from reedloom.kernels.places import cell_in, in_tile, part_places
from reedloom.kinds.pattern.pattern_parts import (
    FIXED,
    OUTPUTS,
    PLACE,
    SEED,
    bevelled,
    lay_pattern,
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

    def find(places: np.ndarray, found: Elements) -> None:
        find_strands(
            places,
            columns,
            rows,
            strands,
            high,
            np.float32(values["gap"] / 2),
            np.float32(values["arch"]),
            found,
        )

    return lay_pattern(context, inputs[0], find, values, columns * rows * strands, 1 / max(columns, rows))


@kernel
def find_strands(places, columns, rows, strands, high, half_gap, arch, found):  # type: ignore[no-untyped-def]
    """Find the strand at each place.

    columns, rows, strands : blocks across and down, and strands in each; high : rows in a width; half_gap :
    half the gap, in widths; arch : how much lower a strand's ends lie, 0 to 1.
    """
    one, two, parts = np.float32(1.0), np.float32(2.0), np.float32(strands)
    per_column, per_high = np.float32(1 / columns), np.float32(1 / high)
    part_places(places.reshape(-1), found.u, found.v)
    for k in range(found.number.shape[0]):
        x, y = in_tile(found.u[k]) * np.float32(columns), in_tile(found.v[k]) * np.float32(rows)
        i, j = cell_in(x, columns), cell_in(y, rows)
        x, y, lies = x - np.float32(i), y - np.float32(j), (i + j) & np.int32(1) == 0
        along, across = x if lies else y, (y if lies else x) * parts
        unit_along, unit_across = per_column if lies else per_high, per_high if lies else per_column
        strand = cell_in(across, strands)
        part = across - np.float32(strand)
        side = min(part, one - part) * unit_across / parts
        found.inward[k] = min(side, min(along, one - along) * unit_along + half_gap)
        found.number[k] = (j * np.int32(columns) + i) * np.int32(strands) + strand
        found.u[k], found.v[k] = along, part
    for k in range(found.raised.shape[0]):
        bow = two * found.u[k] - one
        found.raised[k] = one - arch + arch * np.float32(math.sqrt(max(one - bow * bow, np.float32(0.0))))
