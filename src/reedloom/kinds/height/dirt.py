"""Dirt: what gathers in cavities and along edges, broken up by a noise."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.tones import mean_of
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
    parts = [(low, np.float32(hollows)), (context.map_bands(lambda b: -b * side, bent), np.float32(creases))]
    reaches = [np.float32(max(nearly_most(np.maximum(part, 0), FULL), 1e-9)) for part, _ in parts]
    noise = np.float32(0) if break_up is None else mean_of(break_up).astype(np.float32)
    fade = np.float32(max(softness, 1e-3))
    reach = np.float32(abs(hollows) + abs(creases) + (broken if break_up is not None else 0)) + fade

    def lie(first: np.ndarray, second: np.ndarray, *more: np.ndarray) -> np.ndarray:
        gathered = parts[0][1] * np.clip(first / reaches[0], -1, 1)
        gathered += parts[1][1] * np.clip(second / reaches[1], -1, 1)
        rest = list(more)
        if break_up is not None:
            gathered += np.float32(2 * broken) * (rest.pop(0) - noise)
        share = np.float32(amount) if amount_map is None else np.float32(amount) * rest.pop(0)
        # From clean everywhere at an amount of 0 to covered everywhere at 1.
        level = (1 - 2 * share) * reach
        t = np.clip((gathered - level) / fade * np.float32(0.5) + np.float32(0.5), 0, 1)
        return t * t * (3 - 2 * t)

    driven = [map for map in (break_up, amount_map) if map is not None]
    found = context.map_bands(lie, parts[0][0], parts[1][0], *driven)
    return soften(context, found, spread)
