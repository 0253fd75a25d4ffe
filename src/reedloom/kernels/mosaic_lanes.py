"""Cells of one value each, averaged over what a sample covers, in LLVM's own vectors: sixteen at once.

Corners of cells are loaded as those of lattices are; see `kernels/lattice_lanes.py`.
"""

from __future__ import annotations

from typing import Any

from reedloom.kernels.jit import lowered
from reedloom.kernels.lattice_lanes import Table, give_corners
from reedloom.kernels.vectors import Vectors


@lowered
def average_row(b, table, pairs, reach, out, x, end, wide, numbers):  # type: ignore[no-untyped-def]
    """Average cells over samples of a row from x on, as long as sixteen of them lie before an end.

    Parameters
    ----------
    table : ((rows + 3) × wide) float32
        Each cell's value; the first rows and columns stand again at the end, as `lattice_lanes.RING` tells.
    pairs : (2 × W) float32
        Places u, v in tiles.
    reach : (W) float32
        How far each sample reaches, in widths; beyond a cell no more of it is averaged.
    out : (W) float32
        Filled.
    x, end : int64
    wide : int32
        Cells in a row of the table.
    numbers : (4,) float32
        Cells across and down the tile; and in a width, across and down.

    Returns
    -------
    int32, the first sample that was not looked at
    """
    v = Vectors(b)
    across, down, *per_width = v.numbers(numbers, 4)
    axes = [(v.splat(count), v.splat(cells)) for count, cells in zip((across, down), per_width, strict=True)]
    per_cell = [v.splat(b.fdiv(v.single(1), cells)) for cells in per_width]
    with v.each(x, end) as (at, _):
        covered = v.load(reach, at)
        per_reach = b.fdiv(v.constant(1), v.higher(covered, v.constant(1e-12)))
        found = [
            _two_cells(v, place, *axis, covered, b.fmul(per_reach, cell))
            for place, axis, cell in zip(v.load_pairs(pairs, at), axes, per_cell, strict=True)
        ]
        (left, beyond), (upper, below) = found

        def take(
            above: list[Any], under: list[Any], at: Any = at, beyond: Any = beyond, below: Any = below
        ) -> None:
            mean = v.mix(below, v.mix(beyond, *above), v.mix(beyond, *under))
            b.store(mean, v.pointer(out, at), align=4)

        give_corners(v, Table(v, table, wide, 1), (left, upper), (take, take))
    return b.trunc(at, v.int)


def _two_cells(v: Vectors, place: Any, count: Any, cells: Any, covered: Any, most: Any) -> tuple[Any, Any]:
    """The first of the cells at both ends of what samples cover, and the share of that in the second."""
    b = v.b
    within = b.fmul(b.fsub(place, v.all_of("floor", place)), count)
    half = v.lower(b.fmul(b.fmul(covered, cells), v.constant(0.5)), v.constant(0.5))
    first = v.all_of("floor", b.fsub(within, half))
    second = b.fsub(b.fsub(b.fadd(within, half), first), v.constant(1))
    share = v.held(b.fmul(second, v.higher(most, v.constant(1))), v.constant(0), v.constant(1))
    # Held at both ends for places that are no numbers; what lies before the first cell lies in the last.
    first = v.lower(v.higher(first, v.constant(-1)), count)
    return b.select(b.fcmp_ordered("<", first, v.constant(0)), b.fadd(first, count), first), share
