"""Worn ridges: rubs off what stands out."""

from __future__ import annotations

import numpy as np

from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.height.height_parts import HEIGHT_IN, HEIGHT_OUT
from reedloom.kit import GREY, Context, Count, Float, Length, Port, driving, kind, multiplies

RUBS = 3
"""How often a pad passes; each finds the surface the last one left."""


@kind(
    id="wear",
    label="Worn ridges",
    family="height",
    version=1,
    purpose="Rounds and lowers ridges as rubbing does, and leaves cavities alone.",
    inputs=(
        HEIGHT_IN,
        driving("amount_map", multiplies("amount"), "Multiplies the amount, point by point."),
    ),
    outputs=(HEIGHT_OUT, Port("worn", GREY, help="How much was rubbed off, 1 where it was most.")),
    parameters=(
        Length("radius", 0.02, (0.002, 0.1), (0.0001, 0.5), help="How stiff the pad is: it bridges so much."),
        Float("amount", 0.7, (0, 1), (0, 1), help="How far what stands out is taken down."),
        Float("reach", 0.0, (0, 0.2), (-1, 1), help="How far something must stand out before it is rubbed."),
        Count("passes", RUBS, (1, 6), (1, 16), help="How often the pad passes; more is rounder."),
    ),
    exempt={"resolution": "how much was rubbed off is shown against the most, which a single sample sets"},
    synonyms=("rub", "smooth", "polish", "edge wear", "abrade"),
)
def wear(
    context: Context,
    height: np.ndarray,
    amount_map: np.ndarray | None,
    *,
    radius: float,
    amount: float,
    reach: float,
    passes: int,
) -> dict[str, np.ndarray]:
    # The same share in all, however many passes.
    share = np.float32(1 - (1 - amount) ** (1 / passes))
    strength = share if amount_map is None else share * amount_map
    surface = height
    for _ in range(passes):
        pad = soften(context, surface, radius / 2)

        def rub(now: np.ndarray, pad: np.ndarray, *more: np.ndarray) -> np.ndarray:
            proud = np.maximum(now - pad - np.float32(reach), 0)
            return now - proud * (more[0] if more else share)

        maps = (surface, pad) if amount_map is None else (surface, pad, strength)
        surface = context.map_bands(rub, *maps)
    lost = context.map_bands(lambda before, after: before - after, height, surface)
    most = np.float32(max(float(lost.max()), 1e-6))
    return {"height": surface, "worn": context.map_bands(lambda rows: rows / most, lost)}
