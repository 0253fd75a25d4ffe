"""What all drawn forms share: the profile of their height and the way an edge is softened."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.curves import curve_table, read_table
from reedloom.kernels.places import measure_footprint
from reedloom.kinds.context import Context
from reedloom.kinds.declare import STRAIGHT_CURVE, Choice, Switch, ToneCurve

PROFILES = ("flat", "dome", "cone", "cushion", "bell", "custom")
PROFILE = Choice("profile", "dome", PROFILES, help="How the height rises from the edge to the middle.")
PROFILE_CURVE = ToneCurve(
    "profile_curve", STRAIGHT_CURVE, help="The custom profile: from the edge (left) to the middle (right)."
)


WRAPPED = Switch(
    "wrapped",
    True,
    help="Draws over the tile's edge; off for a drawing set into a cell, which then appears only once.",
)


def profile_height(inward: np.ndarray, profile: str, curve: Any) -> np.ndarray:
    """Height 0..1 for a depth of 0 (edge) to 1 (middle) within a shape."""
    t = np.clip(inward, 0, 1)
    if profile == "flat":
        return np.ones_like(t)
    if profile == "dome":
        return np.sqrt(np.maximum(0, 1 - (1 - t) ** 2))
    if profile == "cushion":
        return 1 - (1 - t) ** 4
    if profile == "bell":
        return t * t * (3 - 2 * t)
    if profile == "custom":
        return read_table(curve_table(curve), t)
    return t


def edge_mask(distance: np.ndarray, sample: Any, softness: float) -> np.ndarray:
    """Cover of a shape from its signed distance: a ramp as wide as a sample, or as the softness."""
    width = np.maximum(sample, np.float32(softness))
    return np.clip(np.float32(0.5) - distance / width, 0, 1)


def sample_size(context: Context, place: np.ndarray | None) -> Any:
    """How much of the tile a sample covers: one number for the plain tile, else a map."""
    if place is None:
        return np.float32(1 / min(context.width, context.height))
    return np.maximum(measure_footprint(place, context.bands), np.float32(1e-7))
