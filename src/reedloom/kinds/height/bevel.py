"""Bevel: a profile that rises from the edge of a mask."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.curves import curve_table, read_table
from reedloom.kernels.distance import edge_distance, signed_distance
from reedloom.kinds.warp.warp_parts import by_rows, move_map
from reedloom.kit import (
    GREY,
    STRAIGHT_CURVE,
    VECTOR,
    Choice,
    Context,
    Length,
    Port,
    Role,
    ToneCurve,
    driving,
    kind,
    multiplies,
)

SIDES = ("inward", "outward", "both")
PROFILES = ("straight", "round", "hollow", "soft", "custom")


@kind(
    id="bevel",
    label="Bevel",
    family="height",
    version=1,
    purpose="A slope of exact width along the edge of a mask, inward, outward or across it.",
    inputs=(
        Port("mask", GREY, help="Its edge is where it passes a half.", role=Role.MASK),
        driving("width_map", multiplies("width"), "Multiplies the width, point by point."),
        Port(
            "wander_map",
            GREY | VECTOR,
            optional=True,
            help="Moves the edge: in and out, or along u and v.",
            role=Role.WAY,
        ),
    ),
    outputs=(
        Port("bevel", GREY, help="0 outside to 1 inside, over the width of the bevel."),
        Port("distance", GREY, help="Distance to the edge in tiles, negative inside."),
    ),
    parameters=(
        Length("width", 0.03, (0, 0.2), (0, 2), help="How wide the bevel is."),
        Choice("side", "inward", SIDES, help="On which side of the edge it lies."),
        Choice("profile", "round", PROFILES, help="How it rises."),
        ToneCurve(
            "profile_curve",
            STRAIGHT_CURVE,
            help="The custom profile, from its foot to its top.",
            shown_if={"profile": "custom"},
        ),
        Length(
            "rounding", 0.0, (0, 0.1), (0, 0.5), help="Rounds off corners that stick out, to this radius."
        ),
        Length("wander", 0.01, (0, 0.05), (-1, 1), help="How far the wander map moves the edge."),
    ),
    sample={"width": 0.1, "profile": "soft"},
    synonyms=("chamfer", "edge", "fillet", "slope", "distance"),
)
def bevel(
    context: Context,
    mask: np.ndarray,
    width_map: np.ndarray | None,
    wander_map: np.ndarray | None,
    **values: Any,
) -> dict[str, np.ndarray]:
    if wander_map is not None and wander_map.ndim == 3:
        far = np.float32(-values["wander"])
        mask = move_map(context, mask, by_rows(lambda way: way * far, wander_map), "plain")
    # One side alone will do where nothing of the other is asked for.
    whole = "distance" in context.wanted or values["side"] == "both" or wander_map is not None
    inside, outside = (whole or values["side"] == side for side in ("inward", "outward"))
    distance = signed_distance(mask, context.bands, inside or values["rounding"] > 0, outside, context.aspect)
    distance = rounded(context, distance, values["rounding"])
    if wander_map is not None and wander_map.ndim == 2:
        distance = distance - (wander_map - np.float32(0.5)) * np.float32(2 * values["wander"])
    table = curve_table(values["profile_curve"])
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        width: Any = np.float32(max(values["width"], 1e-6))
        if width_map is not None:
            width = np.maximum(width * width_map[y0:y1], np.float32(1e-6))
        start = {"inward": 0.0, "outward": 1.0, "both": 0.5}[values["side"]]
        t = np.clip(np.float32(start) - distance[y0:y1] / width, 0, 1)
        out[y0:y1] = shape_of(t, values["profile"], table)

    context.bands(band)
    return {"bevel": out, "distance": distance}


def shape_of(t: np.ndarray, profile: str, table: np.ndarray) -> np.ndarray:
    """The height of a bevel at a share 0..1 of its width, from its foot."""
    if profile == "round":
        return np.sqrt(np.maximum(1 - (1 - t) ** 2, 0))
    if profile == "hollow":
        return 1 - np.sqrt(np.maximum(1 - t * t, 0))
    if profile == "soft":
        return t * t * (3 - 2 * t)
    return read_table(table, t) if profile == "custom" else t


def rounded(context: Context, distance: np.ndarray, radius: float) -> np.ndarray:
    """The distance to an edge with rounded outer corners: that of what a disc can reach inside."""
    if radius <= 0 or not (distance < -radius).any():
        return distance
    sample = np.float32(context.sample)
    core = np.clip(np.float32(0.5) - (distance + np.float32(radius)) / sample, 0, 1)
    away, _ = edge_distance(core, context.bands, context.aspect)
    return np.where(core >= 0.5, distance, away - np.float32(radius))
