"""Dots: round elements on a grid."""

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
    id="dots",
    label="Dots",
    family="pattern",
    version=1,
    purpose="Round elements on a grid, straight or set off: studs, rivets, holes, beads.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("columns", 8, (1, 48), (1, 2048), help="Dots across."),
        Count("rows", 8, (1, 48), (1, 2048), help="Dots down."),
        Float("radius", 0.3, (0.05, 0.6), (0.001, 0.9), help="In distances between dots."),
        Float("row_shift", 0.5, (0, 1), (-64, 64), help="How far every second row is moved, in dots."),
        Float("jitter", 0.0, (0, 1), (0, 1), help="How far dots stray from the grid."),
        Float("size_variation", 0.0, (0, 1), (0, 1), help="How different in size dots are."),
        *bevelled(0.03, 0.0),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("studs", "rivets", "perforated", "holes", "beads", "polka"),
)
def dots(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    columns, rows, seed = values["columns"], values["rows"], values["seed"]
    shift = values["row_shift"] if rows % 2 == 0 else 0.0
    if shift != values["row_shift"]:
        context.report("An odd number of rows closes at the seam only without a shift.")
    stray = [
        (unit_lattice(seed, columns, rows, 3 + n) - 0.5) * np.float32(0.6 * values["jitter"]) for n in (0, 1)
    ]
    sizes = values["radius"] * (1 - values["size_variation"] * unit_lattice(seed, columns, rows, 6))
    scale = np.float32(min(1 / columns, context.aspect / rows))

    def steps(at: np.ndarray) -> tuple[Any, ...]:
        """Which cells beside its own hold the dot nearest to a place: on the nearer side, if none strays."""
        return (-1, 0, 1) if values["jitter"] > 0 else (0, np.where(at - np.floor(at) < 0.5, -1, 1))

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        best: list[np.ndarray] | None = None
        y = v * np.float32(rows)
        for dj in steps(y):
            j = np.floor(y).astype(np.int64) + dj
            row = j % rows
            x = u * np.float32(columns) - np.where(row % 2 == 1, np.float32(shift), np.float32(0))
            for di in steps(x):
                i = np.floor(x).astype(np.int64) + di
                column = i % columns
                du = (x - i - np.float32(0.5) - stray[0][row, column]) / np.float32(columns)
                dv = (y - j - np.float32(0.5) - stray[1][row, column]) / np.float32(rows / context.aspect)
                inward = sizes[row, column] * scale - np.hypot(du, dv)
                found = [inward, row * columns + column, du, dv]
                if best is None:
                    best = found
                else:
                    nearer = inward > best[0]
                    best = either(nearer, found, best)
        assert best is not None
        inward, number, du, dv = best
        half = np.float32(0.5)
        radius = np.maximum(sizes.ravel()[number] * scale, np.float32(1e-6))
        return Elements(
            inward.astype(np.float32), number, du / radius * half + half, dv / radius * half + half
        )

    # Without a gap the elements would cover everything; a hair's breadth keeps their edges.
    return lay_pattern(context, inputs[0], find, {**values, "gap": max(values["gap"], 1e-9)}, columns * rows)
