"""Every noise at smoothly bent places and at places inside elements, beside the same noise on the grid."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

import numpy as np

from benchmarks.kinds import HARDEST, NOTHING_CHOSEN
from benchmarks.timing import Row, best_in_turns
from reedloom.kernels.places import tile_places
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from reedloom.kit.kind import Kind, run_kind
from reedloom.kit.ports import Role
from reedloom.laws.draws import make_inputs, smooth_map

SIZE = 2048
ELEMENTS = 9
"""Elements across the tile; each has places of its own, which jump at its borders."""


def rows() -> Iterator[Row]:
    """Two rows for each noise that takes places, and two for the choice of it that takes longest."""
    bent, inside = bent_places(), element_places()
    for kind in built_in_kinds():
        port = next((port for port in kind.inputs if port.role is Role.PLACE), None)
        if kind.family != "noise" or port is None:
            continue
        for chosen in ({}, HARDEST.get(kind.id)):
            if chosen is not None:
                yield from _rows_of(kind, port.name, chosen, bent, inside)


def _rows_of(
    kind: Kind, port: str, chosen: dict[str, Any], bent: np.ndarray, inside: np.ndarray
) -> Iterator[Row]:
    told = "".join(f", {value}," for value in chosen.values())
    calls = [call_of(kind, more, chosen) for more in ({}, {port: bent}, {port: inside})]
    grid, *placed = best_in_turns(calls, 9)
    for (name, aim), seconds in zip((("bent", 1 / 2), ("element", 1 / 3)), placed, strict=True):
        yield Row(f"{kind.id}{told} at {name} places, 2048²", seconds, "on the grid", grid, aim)


def call_of(
    kind: Kind, more: dict[str, np.ndarray], chosen: Mapping[str, Any] = NOTHING_CHOSEN
) -> Callable[[], object]:
    """What makes the first output with the kind's defaults, but for what is chosen."""
    wanted = frozenset([kind.outputs[0].name])
    inputs, values = make_inputs(kind, SIZE, SIZE) | more, kind.defaults() | dict(chosen)
    return lambda: run_kind(kind, Context(SIZE, SIZE, wanted=wanted), inputs, values)


def bent_places() -> np.ndarray:
    """The tile's grid, moved smoothly by up to a tenth of its width."""
    waves = np.stack([smooth_map(SIZE, SIZE, seed) for seed in (0, 1)], axis=-1) - np.float32(0.5)
    return tile_places(SIZE, SIZE) + np.float32(0.1) * waves


def element_places() -> np.ndarray:
    """Places that start anew in each of many elements, turned and moved by its own chance."""
    chance = np.random.default_rng(1)
    place = tile_places(SIZE, SIZE)
    cell = np.floor(place * ELEMENTS).astype(np.intp)
    number = cell[..., 1] * ELEMENTS + cell[..., 0]
    turn = chance.uniform(0, 2 * np.pi, ELEMENTS**2).astype(np.float32)[number]
    within = place - (cell + np.float32(0.5)).astype(np.float32) / np.float32(ELEMENTS)
    u = within[..., 0] * np.cos(turn) - within[..., 1] * np.sin(turn)
    v = within[..., 0] * np.sin(turn) + within[..., 1] * np.cos(turn)
    moved = chance.random((ELEMENTS**2, 2), np.float32)[number]
    return np.stack([u, v], axis=-1).astype(np.float32) + moved
