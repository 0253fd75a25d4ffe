"""Scales: rounded leaves that overlap, row over row."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.elements import Elements
from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.scales import Rows, find_scales
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
    id="scales",
    label="Scales",
    family="pattern",
    version=1,
    purpose="Rounded leaves that overlap row over row: fish, shingles, feathers, armour.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("columns", 7, (1, 24), (1, 1024), help="Scales across."),
        Count(
            "rows", 10, (2, 32), (2, 1024), help="Rows down, an even number; upper ones lie over lower ones."
        ),
        Float("overlap", 1.9, (1.1, 2.8), (1.0, 2.95), help="How many rows a scale reaches down."),
        Float("roundness", 1.0, (0, 1), (0, 1), help="How round its lower end is: 0 is a straight shingle."),
        Float("point", 0.0, (0, 1), (0, 1), help="How far its lower end is drawn to a point."),
        Float("tilt", 0.7, (0, 1), (0, 1), help="How much each scale rises towards its lower end."),
        Float("unevenness", 0.2, (0, 1), (0, 1), help="How different in height and tilt scales are."),
        Float("missing", 0.0, (0, 0.5), (0, 1), help="The share of scales that are gone."),
        *bevelled(0.015, 0.0)[1:],
        SEED,
    ),
    exempt={
        **FIXED,
        "tiles": "where a scale is missing its neighbours have an edge, which may lie on the seam",
    },
    synonyms=("fish", "shingles", "roof tiles", "dragon", "armour", "feathers"),
)
def scales(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    columns, rows = values["columns"], values["rows"] + values["rows"] % 2
    if rows != values["rows"]:
        context.report(f"{rows} rows close at the seam.")
    seed = values["seed"]
    uneven = unit_lattice(seed, columns, rows, 5) * np.float32(values["unevenness"])
    laid = Rows(
        np.where(unit_lattice(seed, columns, rows, 4) >= values["missing"], uneven, np.float32(-1)),
        np.float32(values["overlap"]),
        np.float32(columns * context.aspect / rows),
        *(np.float32(values[name]) for name in ("roundness", "point", "tilt")),
    )

    def find(places: np.ndarray, found: Elements) -> None:
        find_scales(places, laid, found)

    return lay_pattern(
        context, inputs[0], find, {**values, "gap": 0.0}, columns * rows, 1 / max(columns, rows)
    )
