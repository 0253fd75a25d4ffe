"""Hexagons: six-sided tiles."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from reedloom.kernels.elements import Elements
from reedloom.kernels.jit import kernel
from reedloom.kernels.places import around, in_tile
from reedloom.kinds.pattern.pattern_parts import (
    FIXED,
    OUTPUTS,
    PLACE,
    SEED,
    bevelled,
    lay_pattern,
)
from reedloom.kit import Context, Count, kind

RISE = np.float32(np.sqrt(3) / 2)
"""Rows lie this far apart, in widths of a regular hexagon."""


@kind(
    id="hexagons",
    label="Hexagons",
    family="pattern",
    version=1,
    purpose="Six-sided tiles: floors, honeycomb, columns of basalt.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("columns", 7, (1, 32), (1, 2048), help="Hexagons across; 7 by 8 are nearly regular."),
        Count("rows", 8, (2, 32), (2, 2048), help="Rows down, an even number."),
        *bevelled(0.012, 0.006),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("honeycomb", "hex", "six sided", "basalt"),
)
def hexagons(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    columns, rows = values["columns"], values["rows"] + values["rows"] % 2
    if rows != values["rows"]:
        context.report(f"{rows} rows close at the seam.")

    # How fast the distance to a slanted side grows on the tile, where hexagons are stretched.
    slant = float(np.hypot(0.5, 0.75 * rows / (columns * context.aspect)))

    def find(places: np.ndarray, found: Elements) -> None:
        find_hexagons(places, columns, rows, slant, found)

    return lay_pattern(context, inputs[0], find, values, columns * rows)


@kernel
def find_hexagons(places, columns, rows, slant, found):  # type: ignore[no-untyped-def]
    """Find the hexagon at each place.

    columns, rows : hexagons across and down; slant : how fast the distance to a slanted side grows.
    """
    half = 0.5
    for k in range(places.shape[0]):
        x = np.float64(in_tile(places[k, 0])) * columns
        y = np.float64(in_tile(places[k, 1])) * rows * RISE
        best = 1e30
        du, dv, i, j = 0.0, 0.0, 0, 0
        for odd in range(2):
            q = 2 * math.floor((y / RISE - odd) / 2 + half) + odd
            p = math.floor(x - half * odd - 0.25 + half)
            pu, pv = x - (p + half * odd + 0.25), y - q * RISE
            away = pu * pu + pv * pv
            if away < best:
                best, du, dv, i, j = away, pu, pv, p, q
        straight = (half - abs(du)) / columns
        falling = (half - abs(half * du + RISE * dv)) / (columns * slant)
        rising = (half - abs(half * du - RISE * dv)) / (columns * slant)
        found.inward[k] = min(straight, falling, rising)
        found.number[k] = around(j, rows) * columns + around(i, columns)
        found.u[k], found.v[k] = du + half, dv * (math.sqrt(3.0) / 2) + half
