"""Linear gradient: a rise, tent or arc across the tile, in a direction that closes at the seam."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from reedloom.kernels.curves import curve_table, read_table
from reedloom.kinds.place.place_parts import places_of
from reedloom.kinds.shape.shape_parts import sample_size
from reedloom.kit import (
    GREY,
    STRAIGHT_CURVE,
    VECTOR,
    Angle,
    Choice,
    Context,
    Count,
    Float,
    Port,
    Role,
    ToneCurve,
    kind,
)
from reedloom.kit.handles import FreeHandles, Mark


def snap_direction(angle: float, repeats: int, aspect: float) -> tuple[int, int]:
    """The whole steps along u and v nearest to `repeats` in the direction of `angle` (degrees)."""
    u = round(repeats * math.cos(math.radians(angle)))
    v = round(repeats * math.sin(math.radians(angle)) * aspect)
    return (u, v) if u or v else (1, 0)


def _begins(values: Mapping[str, Any], aspect: float) -> tuple[float, float]:
    """Where the first rise begins, straight from the tile's middle."""
    u, v = snap_direction(values["angle"], values["repeats"], aspect)
    square = u * u + (v / aspect) ** 2
    t = ((u + v) / 2 + values["phase"] + 0.5) % 1 - 0.5
    return 0.5 - t * u / square, 0.5 - t * v / aspect / aspect / square


def _begun(values: Mapping[str, Any], u: float, v: float, aspect: float) -> dict[str, Any]:
    across, down = snap_direction(values["angle"], values["repeats"], aspect)
    return {"phase": round(-(u * across + v * down) % 1, 4)}


def _ends(values: Mapping[str, Any], aspect: float) -> tuple[float, float]:
    """Where the first rise ends."""
    u, v = snap_direction(values["angle"], values["repeats"], aspect)
    square = u * u + (v / aspect) ** 2
    from_u, from_v = _begins(values, aspect)
    return from_u + u / square, from_v + v / aspect / aspect / square


def _ended(values: Mapping[str, Any], u: float, v: float, aspect: float) -> dict[str, Any]:
    from_u, from_v = _begins(values, aspect)
    du, dv = u - from_u, (v - from_v) * aspect
    repeats = min(max(round(1 / max(math.hypot(du, dv), 1e-3)), 1), 1024)
    return {"angle": round(math.degrees(math.atan2(dv, du)), 1), "repeats": repeats}


@kind(
    id="linear_gradient",
    label="Linear gradient",
    family="shape",
    version=1,
    purpose="A value that rises across the tile, once or several times.",
    inputs=(
        Port(
            "place",
            VECTOR,
            optional=True,
            help="Where to draw; the plain tile if nothing is tied.",
            role=Role.PLACE,
        ),
    ),
    outputs=(Port("gradient", GREY),),
    parameters=(
        Choice("profile", "tent", ("tent", "rise", "arc", "custom"), help="The form of one rise."),
        Count("repeats", 1, (1, 16), (1, 1024), help="How many rises there are."),
        Angle("angle", help="The direction of the rise, snapped to one that closes at the seam."),
        Float("phase", 0.0, (0, 1), (-64, 64), help="Where the first rise begins."),
        ToneCurve(
            "profile_curve",
            STRAIGHT_CURVE,
            help="The custom form of one rise.",
            shown_if={"profile": "custom"},
        ),
    ),
    exempt={"tiles": "a rise falls back to 0 in one step, once per repeat, which may lie on the seam"},
    synonyms=("ramp", "stripes", "fade", "slope"),
    handles=FreeHandles(
        (Mark("centre", ("phase",), _begins, _begun), Mark("rim", ("angle", "repeats"), _ends, _ended))
    ),
)
def linear_gradient(
    context: Context,
    place: np.ndarray | None,
    *,
    profile: str,
    repeats: int,
    angle: float,
    phase: float,
    profile_curve: tuple[tuple[float, ...], ...],
) -> np.ndarray:
    u, v = snap_direction(angle, repeats, context.aspect)
    rises = math.hypot(u, v / context.aspect)
    true_angle = math.degrees(math.atan2(v / context.aspect, u))
    if abs((true_angle - angle + 180) % 360 - 180) > 1e-3:
        context.report(
            f"The direction is snapped to {true_angle:.4g}° with {rises:.4g} rises so that the tile closes."
        )
    source = places_of(context, place)
    table = curve_table(profile_curve)
    across = np.broadcast_to(sample_size(context, place) * np.float32(rises), source.shape[:2])

    def draw(rows: np.ndarray, width: np.ndarray) -> np.ndarray:
        t = rows[..., 0] * np.float32(u) + rows[..., 1] * np.float32(v) + np.float32(phase)
        t -= np.floor(t)
        if profile == "tent":
            return 1 - np.abs(2 * t - 1)
        if profile == "arc":
            return np.sqrt(np.maximum(0, 1 - (2 * t - 1) ** 2))
        ends = (np.float32(0), np.float32(1)) if profile == "rise" else (table[0], table[-1])
        value = t if profile == "rise" else read_table(table, t)
        # The step back is as wide as a sample: halves of it lie before and after the turn.
        before = np.clip((t - 1) / width + np.float32(0.5), 0, 0.5)
        after = np.clip(np.float32(0.5) - t / width, 0, 0.5)
        return value + (before - after) * (ends[0] - ends[1])

    return context.map_bands(draw, source, across, channels=1)
