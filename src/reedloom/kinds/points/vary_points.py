"""Vary points: another turn, size, stretch, tone and place for each, by chance or from maps."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import wrapped
from reedloom.kinds.points.points_parts import POINTS_IN, POINTS_OUT, SEED, chance_or_map
from reedloom.kit import GREY, Angle, Choice, Context, Float, Length, Port, kind
from reedloom.kit.parameters import Parameter

SPREADS = ("even", "mostly middle", "mostly low", "mostly high", "either end")
VARIED = ("turn", "size", "stretch", "tone", "offset")


def _ranges() -> tuple[Parameter, ...]:
    turn = (
        Angle("turn_from", -180.0, help="The least turn."),
        Angle("turn_to", 180.0, help="The greatest turn."),
    )
    factors = [
        (
            Float(f"{name}_from", low, (0, top), (0, 100), help=f"The least {what}."),
            Float(f"{name}_to", high, (0, top), (0, 100), help=f"The greatest {what}."),
        )
        for name, low, high, top, what in (
            ("size", 0.7, 1.3, 3, "size, as a factor"),
            ("stretch", 1.0, 1.0, 4, "length over width, as a factor"),
            ("tone", 0.0, 1.0, 1, "tone"),
        )
    ]
    offset = (
        Length("offset_from", 0.0, (0, 0.1), (0, 1), help="The least way moved, in any direction."),
        Length("offset_to", 0.0, (0, 0.1), (0, 1), help="The greatest way moved."),
    )
    return tuple(
        parameter
        for name, pair in zip(VARIED, (turn, *factors, offset), strict=True)
        for parameter in (
            *pair,
            Choice(f"{name}_spread", "even", SPREADS, help="How values lie between the two."),
        )
    )  # fmt: skip


@kind(
    id="vary_points",
    label="Vary points",
    family="points",
    version=1,
    purpose="Turns, sizes, stretches, tones and moves each point by chance, or by maps at the point.",
    inputs=(
        POINTS_IN,
        *(
            Port(f"{name}_map", GREY, optional=True, help=f"Takes the place of chance for the {name}: 0..1.")
            for name in VARIED
        ),
    ),
    outputs=(POINTS_OUT,),
    parameters=(*_ranges(), SEED),
    synonyms=("randomise", "jitter", "scale", "scatter"),
)
def vary_points(context: Context, points: np.ndarray, *maps: np.ndarray | None, **values: Any) -> np.ndarray:
    varied = points.copy()
    for stream, (name, map) in enumerate(zip(VARIED, maps, strict=True)):
        low, high = values[f"{name}_from"], values[f"{name}_to"]
        share = spread_out(chance_or_map(points, map, values["seed"], stream), values[f"{name}_spread"])
        value = low + (high - low) * share
        if name == "turn":
            varied["turn"] += value
        elif name == "offset":
            way = 2 * np.pi * unit_chances(values["seed"], points["id"], 31)
            varied["u"] = wrapped(points["u"] + value * np.cos(way))
            varied["v"] = wrapped(points["v"] + value * np.sin(way))
        else:
            varied[name] *= value
    return varied


def spread_out(chance: np.ndarray, spread: str) -> np.ndarray:
    """Chances 0..1 drawn to the middle or to an end."""
    if spread == "mostly middle":  # the inverse of a smooth step, by its closed form
        return 0.5 - np.sin(np.arcsin(1 - 2 * np.clip(chance, 0, 1)) / 3)
    if spread == "mostly low":
        return chance * np.abs(chance)
    if spread == "mostly high":
        return 1 - (1 - chance) * np.abs(1 - chance)
    if spread == "either end":
        return np.where(chance < 0.5, np.float32(0), np.float32(1))
    return chance
