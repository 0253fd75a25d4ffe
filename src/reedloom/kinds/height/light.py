"""Raking light: shade and cast shadow of a surface lit from one side."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from reedloom.kernels.horizon import cast_shadow_rows, shadow_steps
from reedloom.kinds.height.height_parts import HEIGHT_IN, true_slope
from reedloom.kit import GREY, Angle, Context, Float, Port, kind
from reedloom.kit.handles import FreeHandles, Mark
from reedloom.kit.ways import numbers_of

FARTHEST = 0.4
"""How far from the tile's middle, in widths, the mark of a light on the horizon is."""


def _stands(values: Mapping[str, Any], aspect: float) -> tuple[float, float]:
    away = FARTHEST * (1 - min(max(values["elevation"], 0), 90) / 90)
    turn = math.radians(values["direction"])
    return 0.5 + away * math.cos(turn), 0.5 + away * math.sin(turn) / aspect


def _moved(values: Mapping[str, Any], u: float, v: float, aspect: float) -> dict[str, Any]:
    du, dv = u - 0.5, (v - 0.5) * aspect
    up = 90 * (1 - min(math.hypot(du, dv) / FARTHEST, 1))
    direction = math.degrees(math.atan2(dv, du)) if du or dv else values["direction"]
    return {"direction": round(direction, 1), "elevation": round(max(up, 1.0), 1)}


@kind(
    id="light",
    label="Raking light",
    family="height",
    version=1,
    physical=True,
    purpose="The shade and cast shadow of a surface lit from one side: for looking, or for baked stains.",
    inputs=(HEIGHT_IN,),
    outputs=(
        Port("light", GREY, help="Shade and shadow together: 1 is where the light falls straight."),
        Port("shadow", GREY, help="The cast shadow alone: 1 is lit, 0 is in shadow."),
    ),
    parameters=(
        Angle("direction", -135.0, help="Where the light comes from, clockwise from the right."),
        Angle("elevation", 25.0, useful=(1.0, 90.0), help="How high the light stands over the surface."),
        Float("depth", 1.0, (0, 4), (0, 100), help="Makes the relief deeper than it is; 1 is true."),
        Float("softness", 0.1, (0, 1), (0, 10), help="How soft the edges of shadows are."),
    ),
    synonyms=("shaded relief", "shadow", "sun", "hillshade", "lambert"),
    handles=FreeHandles((Mark("rim", ("direction", "elevation"), _stands, _moved),)),
)
def light(
    context: Context, height: np.ndarray, *, direction: float, elevation: float, depth: float, softness: float
) -> dict[str, np.ndarray]:
    angle, up = math.radians(direction), math.radians(min(max(abs(elevation), 0.5), 90.0))
    to = np.array([math.cos(angle) * math.cos(up), math.sin(angle) * math.cos(up), math.sin(up)], np.float32)
    rise = true_slope(context, height, depth)
    surface = height * np.float32(context.depth * depth)
    tangent = math.tan(up)
    reach = float(np.ptp(surface)) / max(tangent, 1e-6)
    steps, is_wide = shadow_steps(context.width, context.height, context.physical, reach, angle)
    soft = np.float32(max(softness, 1e-3))
    shade, shadow = context.empty(), context.empty()

    def band(y0: int, y1: int) -> None:
        cast_shadow_rows(surface, steps, is_wide, np.float32(tangent), soft, shadow, y0, y1)
        rows = rise[y0:y1]
        lit = to[2] - rows[..., 0] * to[0] - rows[..., 1] * to[1]
        steep = np.abs(numbers_of(rows))
        lit = np.maximum(lit / np.sqrt(steep * steep + 1), 0)
        shade[y0:y1] = lit * shadow[y0:y1]

    context.bands(band)
    return {"light": shade, "shadow": shadow}
