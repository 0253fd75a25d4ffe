"""Inputs and parameter values for any kind, made from its declaration alone."""

from __future__ import annotations

import random
from typing import Any

import numpy as np

from reedloom.kernels.places import tile_places
from reedloom.kinds.context import Context
from reedloom.kinds.declare import (
    COLOUR,
    GREY,
    VECTOR,
    Data,
    Kind,
    Parameter,
    ParameterType,
    Port,
    Result,
    SameAs,
    run_kind,
)

WAYS = {"by", "along"}
"""Inputs that take displacements."""
WAVES = ((1, 0, 0.3), (0, 2, 1.1), (2, 1, 2.0), (3, -2, 0.7), (5, 4, 4.0))


def smooth_map(width: int, height: int, seed: int = 0) -> np.ndarray:
    """A periodic map of few waves, about 0..1: the same at every size."""
    place = tile_places(width, height).astype(np.float64)
    total = np.zeros((height, width))
    for number, (fu, fv, phase) in enumerate(WAVES):
        total += np.sin(
            2 * np.pi * (fu * place[..., 0] + fv * place[..., 1]) + phase + seed * (number + 1)
        ) / (number + 1)
    return (0.5 + 0.2 * total).astype(np.float32)


def make_input(port: Port, width: int, height: int, seed: int) -> np.ndarray:
    """A smooth input of the first kind of data a port takes."""
    assert isinstance(port.data, Data)
    if GREY in port.data:
        return smooth_map(width, height, seed)
    if COLOUR in port.data:
        return np.stack([smooth_map(width, height, seed + i) for i in range(3)], axis=-1)
    assert VECTOR in port.data
    bend = np.stack([smooth_map(width, height, seed + i) for i in range(2)], axis=-1)
    moved = 0.05 * (bend - np.float32(0.5))
    # A vector by which something is moved is a way, not a place on the tile.
    return moved if port.name in WAYS else tile_places(width, height) + moved


def make_inputs(kind: Kind, width: int, height: int, optional: bool = False) -> dict[str, np.ndarray]:
    """All inputs a kind must have, and the optional ones if wanted."""
    return {
        port.name: make_input(port, width, height, seed)
        for seed, port in enumerate(kind.inputs)
        if optional or not port.optional
    }


def draw_value(parameter: Parameter, chance: random.Random) -> Any:
    """A value from the useful range, or any choice."""
    if parameter.type is ParameterType.CHOICE:
        return chance.choice(parameter.choices)
    if parameter.type is ParameterType.BOOLEAN:
        return parameter.default
    if not parameter.is_number:
        return parameter.default
    low, high = parameter.useful
    value = chance.uniform(low, high)
    return round(value) if parameter.is_whole else value


def draws(kind: Kind, count: int) -> list[dict[str, Any]]:
    """The defaults, the creel's sample, and random values."""
    chance = random.Random(kind.id)
    found = [kind.defaults(), kind.defaults() | dict(kind.sample)]
    while len(found) < count:
        found.append({p.name: draw_value(p, chance) for p in kind.parameters})
    return found[:count]


def run(
    kind: Kind, inputs: dict[str, np.ndarray], values: dict[str, Any], size: tuple[int, int], **more: Any
) -> Result:
    """Compute all outputs of a kind."""
    wanted = frozenset(p.name for p in kind.outputs)
    return run_kind(kind, Context(*size, wanted=wanted, **more), inputs, values)


def is_place(kind: Kind, name: str) -> bool:
    """Whether an output is a vector, whose whole steps are the same place."""
    data = kind.output(name).data
    return not isinstance(data, SameAs) and data == VECTOR
