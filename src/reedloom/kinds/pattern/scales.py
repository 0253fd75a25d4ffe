"""Scales: rounded leaves that overlap, row over row."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.hashing import unit_lattice
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
    length, seed = np.float32(values["overlap"]), values["seed"]
    there = unit_lattice(seed, columns, rows, 4) >= values["missing"]
    uneven = unit_lattice(seed, columns, rows, 5) * np.float32(values["unevenness"])
    tall = np.float32(columns * context.aspect / rows)  # a row's height in widths of a scale

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        y = v * np.float32(rows)
        result: list[np.ndarray] | None = None
        # From the lowest row that reaches here up to the uppermost, which lies over all others.
        for step in range(0, 3):
            j = np.floor(y).astype(np.int64) - step
            row = j % rows
            down = (y - j) / length  # 0 at the scale's root, 1 at its end
            x = u * np.float32(columns) - np.where(row % 2 == 1, np.float32(0.5), np.float32(0))
            i = np.floor(x).astype(np.int64)
            column = i % columns
            across = x - i - np.float32(0.5)
            inward = scale_inward(across, (1 - down) * length * tall, values) / np.float32(columns)
            part = uneven[row, column]
            tilt = np.float32(values["tilt"]) * (1 - part)
            raised = (1 - tilt * (1 - down)) * (1 - np.float32(0.35) * part)
            under = np.zeros_like(raised) if result is None else result[4]
            found = [inward, row * columns + column, across + np.float32(0.5), down, raised, under]
            covers = (inward > 0) & there[row, column] & (down <= 1)
            if result is None:
                ground = [np.full_like(inward, -1e-3), *found[1:4], under, under]
                result = either(covers, found, ground)
            else:
                result = either(covers, found, result)
        assert result is not None
        inward, number, along, down, raised, under = result
        return Elements(inward.astype(np.float32), number, along, down, raised.astype(np.float32), under)

    return lay_pattern(
        context, inputs[0], find, {**values, "gap": 0.0}, columns * rows, 1 / max(columns, rows)
    )


def scale_inward(across: np.ndarray, left: np.ndarray, values: dict[str, Any]) -> np.ndarray:
    """Distance inward to a scale's side or lower end, in widths of a scale.

    across : -0.5..0.5 of its width; left : how far its lower end still is, in widths.
    """
    half = np.float32(0.5)
    round_ = np.float32(0.5 * values["roundness"])
    side = half - np.abs(across)
    reach = np.float32(1 + 0.8 * values["point"])
    corner_u, corner_v = np.maximum(round_ - side, 0), np.maximum(round_ - left / reach, 0)
    corner = round_ - np.hypot(corner_u, corner_v)
    return np.where((side < round_) & (left / reach < round_), corner, np.minimum(side, left))
