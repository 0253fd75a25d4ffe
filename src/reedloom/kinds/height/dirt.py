"""Dirt: what gathers in cavities and along edges, broken up by a noise."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.jit import kernel
from reedloom.kernels.tones import flat_or_one, mean_of
from reedloom.kinds.filter.filter_parts import soften
from reedloom.kinds.height.curvature import mean_curvature
from reedloom.kinds.height.height_parts import HEIGHT_IN, nearly_most
from reedloom.kit import GREY, Context, Float, Length, Port, Switch, driving, kind, multiplies

FULL = 0.98
"""The share of the samples that lie within the range of cavities, and of edges."""


@kind(
    id="dirt",
    label="Dirt",
    family="height",
    version=1,
    physical=True,
    purpose="What gathers in hollows and along creases, or on ridges, as a mask, broken up by a noise.",
    inputs=(
        HEIGHT_IN,
        Port(
            "break_up",
            GREY,
            optional=True,
            help="A noise that breaks the dirt up; its mean counts as middle.",
        ),
        driving("amount_map", multiplies("amount"), "Multiplies the amount, point by point."),
    ),
    outputs=(Port("dirt", GREY, help="1 where it lies thick, 0 where it is clean."),),
    parameters=(
        Length(
            "radius", 0.03, (0.002, 0.2), (0.0001, 0.5), help="How broad the hollows are that it lies in."
        ),
        Float("hollows", 1.0, (0, 1), (-4, 4), help="How much of it lies in what is lower than around it."),
        Float("creases", 0.5, (0, 1), (-4, 4), help="How much of it lies along creases and in corners."),
        Float("amount", 0.45, (0, 1), (0, 1), help="How much of the surface it covers."),
        Float("softness", 0.5, (0, 1), (0, 1), help="How gently it fades out."),
        Float("broken", 0.5, (0, 1), (0, 4), help="How far the noise breaks it up."),
        Length("spread", 0.0, (0, 0.05), (0, 0.5), help="Smears it around by so much."),
        Switch(
            "flipped", False, help="Lies on what stands out instead: rubbed, bleached, dusted from above."
        ),
    ),
    synonyms=("grime", "cavity", "soot", "grease", "edge", "weathering", "mask"),
)
def dirt(
    context: Context,
    height: np.ndarray,
    break_up: np.ndarray | None,
    amount_map: np.ndarray | None,
    *,
    radius: float,
    hollows: float,
    creases: float,
    amount: float,
    softness: float,
    broken: float,
    spread: float,
    flipped: bool,
) -> np.ndarray:
    side = np.float32(-1 if flipped else 1)
    low = context.map_bands(lambda wide, here: (wide - here) * side, soften(context, height, radius), height)
    bent = mean_curvature(context, soften(context, height, radius / 4))
    deepest = max(nearly_most(low, FULL), 1e-9)
    sharpest = max(-nearly_most(bent, 1 - FULL) if side > 0 else nearly_most(bent, FULL), 1e-9)
    middle = 0.0 if break_up is None else float(mean_of(break_up))
    fade, broken = max(softness, 1e-3), broken if break_up is not None else 0.0
    numbers = np.array(
        [
            hollows,
            1 / deepest,
            creases,
            -side / sharpest,
            2 * broken,
            middle,
            amount,
            abs(hollows) + abs(creases) + broken + fade,
            0.5 / fade,
        ],
        np.float32,
    )
    found, driven = context.empty(), [low, bent, break_up, amount_map]

    def band(y0: int, y1: int) -> None:
        rows = (flat_or_one(None if map is None else map[y0:y1]) for map in driven)
        lie_rows(*rows, numbers, found[y0:y1].reshape(-1))

    context.bands(band)
    return soften(context, found, spread)


@kernel
def lie_rows(low, bent, noise, amount, numbers, out):  # type: ignore[no-untyped-def]
    """How much lies at each sample, 0 to 1.

    Parameters
    ----------
    low, bent : (n,) float32
        How much lower a sample lies than what is around it, and how the surface is bent there.
    noise, amount : (n,) or (1,) float32
        What breaks it up, and what multiplies the amount.
    numbers : (9,) float32
        The share of `low` and what it is multiplied by, the same of `bent`, how far the noise breaks it up,
        the noise's mean, the amount, how far all of them reach, and half of what the fade is divided by.
    out : (n,) float32
        Filled.
    """
    hollows, depth, creases, sharpness, broken, middle, most, reach, fade = numbers
    one, two, half = np.float32(1.0), np.float32(2.0), np.float32(0.5)
    by_noise, by_amount = np.uint64(noise.shape[0] > 1), np.uint64(amount.shape[0] > 1)
    for k in range(out.shape[0]):
        gathered = hollows * min(max(low[k] * depth, -one), one)
        gathered += creases * min(max(bent[k] * sharpness, -one), one)
        gathered += broken * (noise[np.uint64(k) * by_noise] - middle)
        # From clean everywhere at an amount of 0 to covered everywhere at 1.
        level = (one - two * most * amount[np.uint64(k) * by_amount]) * reach
        t = min(max((gathered - level) * fade + half, np.float32(0.0)), one)
        out[k] = t * t * (np.float32(3.0) - two * t)
