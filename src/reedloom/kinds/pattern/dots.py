"""Dots: round elements on a grid."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np

from reedloom.kernels.elements import Elements
from reedloom.kernels.hashing import unit_lattice
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
from reedloom.kinds.rows import CLOSING, fitting_rows
from reedloom.kit import Context, Count, Float, kind


@kind(
    id="dots",
    label="Dots",
    family="pattern",
    version=2,
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
    changes={2: CLOSING},
    synonyms=("studs", "rivets", "perforated", "holes", "beads", "polka"),
)
def dots(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    columns, shift, seed = values["columns"], values["row_shift"], values["seed"]
    rows = fitting_rows(context, values["rows"], shift)
    stray_u, stray_v = (
        (unit_lattice(seed, columns, rows, 3 + n) - 0.5) * np.float32(0.6 * values["jitter"]) for n in (0, 1)
    )
    sizes = values["radius"] * (1 - values["size_variation"] * unit_lattice(seed, columns, rows, 6))
    scale = np.float32(min(1 / columns, context.aspect / rows))

    laid = Laid(stray_u, stray_v, sizes.astype(np.float32), np.float32(shift), scale, rows / context.aspect)

    def find(places: np.ndarray, found: Elements) -> None:
        find_dots(places, laid, values["jitter"] > 0, found)

    # Without a gap the elements would cover everything; a hair's breadth keeps their edges.
    return lay_pattern(context, inputs[0], find, {**values, "gap": max(values["gap"], 1e-9)}, columns * rows)


class Laid(NamedTuple):
    """Where dots lie.

    Attributes
    ----------
    stray_u, stray_v : (rows, columns) float32
        How far each is from the middle of its cell, in cells.
    size : (rows, columns) float32
        Its radius, in `scale`.
    shift : float32
        Of every second row, in cells.
    scale : float32
        A cell's shorter side, in widths.
    high : float
        Rows in a width.
    """

    stray_u: np.ndarray
    stray_v: np.ndarray
    size: np.ndarray
    shift: np.float32
    scale: np.float32
    high: float


@kernel
def find_dots(places, laid, strays, found):  # type: ignore[no-untyped-def]
    """Find the dot that each place is farthest in, or nearest to; if any strays, on the farther side too."""
    stray_u, stray_v, size, shift, scale, high = laid
    rows, columns = size.shape
    half = np.float32(0.5)
    for k in range(places.shape[0]):
        y = in_tile(places[k, 1]) * np.float32(rows)
        base_j = np.int32(y)
        nearer_j = -1 if y - np.float32(base_j) < half else 1
        best = np.float32(-1e9)
        for dj in range(-1, 2):
            if not strays and dj not in (0, nearer_j):
                continue
            j = base_j + dj
            row = around(j, rows)
            x = in_tile(places[k, 0]) * np.float32(columns) - (shift if row % 2 == 1 else np.float32(0.0))
            base_i = np.int32(np.floor(x))
            nearer_i = -1 if x - np.float32(base_i) < half else 1
            for di in range(-1, 2):
                if not strays and di not in (0, nearer_i):
                    continue
                i = base_i + di
                column = around(i, columns)
                du = (x - np.float32(i) - half - stray_u[row, column]) / np.float32(columns)
                dv = np.float32((y - np.float32(j) - half - stray_v[row, column]) / high)
                radius = size[row, column] * scale
                inward = radius - np.float32(math.sqrt(du * du + dv * dv))
                if inward > best:
                    best = inward
                    unit = half / max(radius, np.float32(1e-6))
                    found.inward[k] = inward
                    found.number[k] = row * columns + column
                    found.u[k], found.v[k] = du * unit + half, dv * unit + half
