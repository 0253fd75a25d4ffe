"""Settle: dust or silt that gathers in cavities or lies on what is level."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.height.height_parts import HEIGHT_IN, HEIGHT_OUT, nearly_most, smooth_step, true_slope
from reedloom.kit import GREY, Choice, Context, Float, Length, Port, driving, kind, multiplies

FULL = 0.98
"""The share of the samples that lie less deep than what counts as the deepest cavity."""


@kind(
    id="settle",
    label="Settle",
    family="height",
    version=1,
    physical=True,
    purpose="Dust, silt or snow: it fills cavities, or lies on tops, and evens out what it covers.",
    inputs=(
        HEIGHT_IN,
        driving("amount_map", multiplies("amount"), "Multiplies the amount, point by point."),
    ),
    outputs=(Port("mask", GREY, help="Where it lies."), HEIGHT_OUT),
    parameters=(
        Choice("where", "cavities", ("cavities", "tops", "both"), help="Where it stays."),
        Float("amount", 0.4, (0, 1), (0, 2), help="How much there is: how full the cavities are."),
        Length(
            "radius",
            0.03,
            (0.002, 0.1),
            (0.0001, 0.5),
            help="The breadth of the cavities it fills.",
        ),
        Float(
            "thickness",
            0.05,
            (0, 0.2),
            (0, 2),
            help="How thick it lies on tops.",
            shown_if={"where": ("tops", "both")},
        ),
        Float(
            "steepest",
            35.0,
            (5, 80),
            (0, 90),
            unit="°",
            help="On steeper ground than this it slides off.",
            shown_if={"where": ("tops", "both")},
        ),
        Float("softness", 0.3, (0, 1), (0, 1), help="How softly its border fades."),
    ),
    exempt={
        "resolution": "how deep the deepest cavities are is measured, and a smaller map has shallower ones"
    },
    synonyms=("dust", "silt", "snow", "dirt", "fill", "deposit", "sediment"),
)
def settle(
    context: Context,
    height: np.ndarray,
    amount_map: np.ndarray | None,
    *,
    where: str,
    amount: float,
    radius: float,
    thickness: float,
    steepest: float,
    softness: float,
) -> dict[str, np.ndarray]:
    share = np.float32(amount) if amount_map is None else np.float32(amount) * amount_map
    surface, lies = height, np.zeros_like(height)
    if where != "tops":
        surface, lies = fill(context, height, share, radius, softness)
    if where != "cavities":
        rise = true_slope(context, soften(context, surface, radius / 4))
        steep = np.sqrt((rise * rise).sum(axis=-1))
        limit = float(np.tan(np.radians(min(max(steepest, 0.5), 89.5))))
        # Sheltered tops keep more; what stands right out in the wind keeps less.
        stays = np.float32(1) - smooth_step(limit * (0.9 - 0.6 * softness), limit * 1.1, steep)
        layer = np.clip(stays * share * np.float32(2), 0, 1)
        surface = surface + layer * np.float32(thickness)
        lies = np.maximum(lies, layer)
    return {"mask": lies, "height": surface}


def fill(
    context: Context, height: np.ndarray, share: np.ndarray | np.float32, radius: float, softness: float
) -> tuple[np.ndarray, np.ndarray]:
    """Fill cavities up to a share of their depth; returns the surface and where it is covered."""
    level = soften(context, height, radius)
    depth = level - height
    deepest = max(nearly_most(depth, FULL), 1e-6)
    # The fill's own surface: the lie of the land, let down by what is not yet full.
    top = level - (np.float32(1) - share) * np.float32(deepest)
    rise = top - height
    soft = 0.02 + 0.6 * softness
    lies = smooth_step(0.0, soft * deepest, rise)
    return height + np.maximum(rise, 0), lies
