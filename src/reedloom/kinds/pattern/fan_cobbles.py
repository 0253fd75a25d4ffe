"""Fan cobbles: small stones laid in overlapping arcs."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np

from reedloom.kernels.elements import Elements, corner_of, within_box
from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.jit import kernel
from reedloom.kernels.places import around, in_tile
from reedloom.kernels.quick import turn_of
from reedloom.kinds.pattern.pattern_parts import (
    FIXED,
    OUTPUTS,
    PLACE,
    SEED,
    bevelled,
    lay_pattern,
)
from reedloom.kit import Context, Count, Float, Length, kind


@kind(
    id="fan_cobbles",
    label="Fan cobbles",
    family="pattern",
    version=1,
    purpose="Small stones laid in overlapping fans, as in old streets.",
    inputs=(PLACE,),
    outputs=OUTPUTS,
    parameters=(
        Count("columns", 3, (1, 12), (1, 256), help="Fans across."),
        Count("rows", 6, (2, 24), (2, 256), help="Rows of fans down, an even number."),
        Count("rings", 6, (2, 12), (2, 64), help="Arcs of stones in each fan."),
        Float("size_variation", 0.4, (0, 1), (0, 1), help="How different in length stones are."),
        Length("corner", 0.006, (0, 0.03), (0, 0.5), help="The radius of the corners."),
        *bevelled(0.012, 0.006),
        SEED,
    ),
    exempt=FIXED,
    synonyms=("cobblestones", "setts", "paving", "street", "arcs"),
)
def fan_cobbles(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    columns, rings = values["columns"], values["rings"]
    # Fewer rows than two for each fan across would leave bare ground between the fans.
    rows = max(values["rows"] + values["rows"] % 2, math.ceil(2 * columns * context.aspect))
    rows += rows % 2
    high = rows / context.aspect  # rows in a width
    if rows != values["rows"]:
        context.report(f"{rows} rows close at the seam and leave no ground bare.")
    # So far that the fans of one row, cut off half-way to their neighbours, reach up to the row above
    # where rows lie half a fan apart.
    radius = 0.7072 / columns
    most = 4 * rings + 4
    context.room_for(most * columns * rows * rings, "stones")
    chance = unit_lattice(values["seed"], most, columns * rows * rings, 5, check=context.stop.check)
    stray = (chance - np.float32(0.5)) * np.float32(0.7 * values["size_variation"])

    laid = Fans(
        stray.astype(np.float32),
        columns,
        rows,
        rings,
        radius,
        high,
        corner_of(values["corner"], values["gap"]),
    )

    def find(places: np.ndarray, found: Elements) -> None:
        find_stones(places, laid, found)

    return lay_pattern(context, inputs[0], find, values, columns * rows * rings * most)


class Fans(NamedTuple):
    """Fans of stones in rows, each row half a fan beside the next.

    Attributes
    ----------
    stray : (columns × rows × rings, stones) float32
        How far the joint before each stone is from its place, in stones.
    columns, rows, rings : int
        Fans across and down, and arcs in each.
    radius : float
        Of a fan, in widths.
    high : float
        Rows in a width.
    corner : float
        From `corner_of`, in widths.
    """

    stray: np.ndarray
    columns: int
    rows: int
    rings: int
    radius: float
    high: float
    corner: float


@kernel
def find_stones(places, laid, found):  # type: ignore[no-untyped-def]
    """Find the stone at each place: of the lowest fan that reaches there, since it lies over those above.

    It ends where one below it begins, though that does not reach the place.
    """
    stray, columns, rows, rings, radius, high, corner = laid
    reach = math.ceil(radius * high) + 1
    thick = radius / rings
    most = stray.shape[1]
    for k in range(places.shape[0]):
        y = np.float64(in_tile(places[k, 1]) * np.float32(rows))
        cut, far, du, dv, fan = 1e3, -1.0, 0.0, 0.0, 0
        for step in range(reach + 1):
            j = int(y) + step
            row = around(j, rows)
            x = np.float64(in_tile(places[k, 0]) * np.float32(columns)) - (0.5 if row % 2 == 1 else 0.0)
            i = int(np.floor(x))
            across, down = (x - i - 0.5) / columns, (j - y) / high
            length = math.sqrt(across * across + down * down)
            if length < radius and down >= 0.0:
                cut = min(radius - length, 0.5 / columns - abs(across))
                far, du, dv, fan = length, across, down, row * columns + around(i, columns)
            else:
                cut = min(cut, max(length - radius, 0.0))
        ring = max(min(int(far / thick), rings - 1), 0)
        count = max(int(math.pi * (ring + 0.5) / 1.15 + 0.5), 1)
        t = min(2.0 * turn_of(np.float32(du), np.float32(dv)), 1.0) * count
        line = stray[fan * rings + ring]
        stone = min(int(t), count - 1)
        # Joints stray, but the two ends of the arc stay.
        if stone > 0 and t < stone + line[stone]:
            stone -= 1
        if stone < count - 1 and t >= stone + 1 + line[stone + 1]:
            stone += 1
        first = stone + (line[stone] if stone > 0 else np.float32(0.0))
        last = stone + 1 + (line[stone + 1] if stone < count - 1 else np.float32(0.0))
        unit = math.pi * max(far, thick / 2) / count
        part = far / thick - ring
        inward = within_box((t - first) * unit, (last - t) * unit, part * thick, (1 - part) * thick, corner)
        found.inward[k] = min(inward, cut) if far >= 0.0 else -1e-3
        found.number[k] = (fan * rings + ring) * most + stone
        found.u[k], found.v[k] = (t - first) / (last - first), part
