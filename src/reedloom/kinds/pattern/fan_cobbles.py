"""Fan cobbles: small stones laid in overlapping arcs."""

from __future__ import annotations

import math
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
    within_box,
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

    def find(u: np.ndarray, v: np.ndarray) -> Elements:
        y = v * np.float32(rows)
        result: list[np.ndarray] | None = None
        cut = np.full(u.shape, 1e3)
        reach = int(np.ceil(radius * high)) + 1
        for step in range(0, reach + 1):  # what lies farther down lies over what is above
            context.stop.check()
            j = np.floor(y).astype(np.int64) + step
            row = j % rows
            x = u * np.float32(columns) - np.where(row % 2 == 1, np.float32(0.5), np.float32(0))
            i = np.floor(x).astype(np.int64)
            du, dv = (x - i - np.float32(0.5)) / np.float32(columns), (y - j) / np.float32(high)
            far = np.hypot(du, dv)
            covers = (far < radius) & (dv <= 0)
            beside = np.minimum(0.5 / columns - np.abs(du), 1e3)
            cut = np.where(
                covers, np.minimum(radius - far, beside), np.minimum(cut, np.maximum(far - radius, 0))
            )
            fan = row * columns + i % columns
            found = [far, np.arctan2(-dv, du), fan.astype(np.float64)]
            if result is None:
                result = [np.where(covers, f, 0.0) for f in found]
                result[0] = np.where(covers, far, -1.0)
            else:
                result = either(covers, found, result)
        assert result is not None
        far, angle, fan_ = result
        laid = stones(far, angle, fan_.astype(np.int64), radius, rings, stray, values)
        laid.inward = np.minimum(laid.inward, cut).astype(np.float32)
        return laid

    return lay_pattern(context, inputs[0], find, values, columns * rows * rings * most)


def stones(
    far: np.ndarray,
    angle: np.ndarray,
    fan: np.ndarray,
    radius: float,
    rings: int,
    stray: np.ndarray,
    values: dict[str, Any],
) -> Elements:
    """Stones along the arcs of a fan: `far` from its middle (below 0 for none) and at an angle."""
    thick = radius / rings
    ring = np.clip((far / thick).astype(np.int64), 0, rings - 1)
    count = np.maximum(np.round(np.pi * (ring + 0.5) / 1.15), 1).astype(np.int64)
    t = np.clip(angle / np.pi, 0, 1) * count
    line = fan * rings + ring
    k = np.minimum(t.astype(np.int64), count - 1)
    # Joints stray, but the two ends of the arc stay.
    k -= (k > 0) & (t < k + stray[line, k])
    k += (k < count - 1) & (t >= k + 1 + stray[line, np.minimum(k + 1, stray.shape[1] - 1)])
    first = k + np.where(k > 0, stray[line, k], 0)
    last = k + 1 + np.where(k < count - 1, stray[line, np.minimum(k + 1, stray.shape[1] - 1)], 0)
    unit = np.pi * np.maximum(far, thick / 2) / count
    part = far / thick - ring
    inward = within_box(
        (t - first) * unit,
        (last - t) * unit,
        part * thick,
        (1 - part) * thick,
        values["corner"],
        values["gap"],
    )
    inward = np.where(far < 0, -1e-3, inward)
    number = line * stray.shape[1] + k
    return Elements(
        inward.astype(np.float32),
        number,
        ((t - first) / (last - first)).astype(np.float32),
        part.astype(np.float32),
    )
