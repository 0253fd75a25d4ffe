"""Hexagons: six-sided tiles."""

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
    either,
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

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        x, y = u * np.float32(columns), v * np.float32(rows) * RISE
        best = None
        for odd in (0, 1):
            j = 2 * np.round((y / RISE - odd) / 2).astype(np.int64) + odd
            i = np.round(x - 0.5 * odd - 0.25).astype(np.int64)
            du, dv = x - (i + np.float32(0.5 * odd + 0.25)), y - j * RISE
            away = du * du + dv * dv
            if best is None:
                best = [away, du, dv, i, j]
            else:
                nearer = away < best[0]
                best = either(nearer, (away, du, dv, i, j), best)
        assert best is not None
        _, du, dv, i, j = best
        half = np.float32(0.5)
        sides = (
            (np.abs(du), 1.0),
            (np.abs(half * du + RISE * dv), slant),
            (np.abs(half * du - RISE * dv), slant),
        )
        inward = np.minimum.reduce([(half - s) / np.float32(columns * steep) for s, steep in sides])
        number = (j % rows) * columns + i % columns
        return Elements(
            inward, number, du + np.float32(0.5), dv / (2 / np.sqrt(np.float32(3))) + np.float32(0.5)
        )

    return lay_pattern(context, inputs[0], find, values, columns * rows)
