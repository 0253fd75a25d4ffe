"""Inputs and parameter values for any kind, made from its declaration alone."""

from __future__ import annotations

import random
from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from reedloom.kernels.jit import read_only
from reedloom.kernels.places import tile_places
from reedloom.kernels.points import make_points
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kinds.path.path_parts import make_paths
from reedloom.kit.channels import CHANNELS
from reedloom.kit.context import Context
from reedloom.kit.data import COLOUR, GREY, ISLANDS, PATHS, POINTS, VECTOR, Data, Material
from reedloom.kit.kind import Kind, Result, run_kind
from reedloom.kit.parameters import Number, Parameter
from reedloom.kit.ports import Port, Role
from reedloom.kit.values import data_of, frozen

ROWS = 3
"""Rows of a list, such as layers, that are tried: those after are declared by the same words."""
EVERYDAY = ("base_colour", "height", "roughness")
WAVES = ((1, 0, 0.3), (0, 2, 1.1), (2, 1, 2.0), (3, -2, 0.7), (5, 4, 4.0))


def smooth_map(width: int, height: int, seed: int = 0) -> np.ndarray:
    """A periodic map of few waves, about 0..1: the same at every size."""
    number = np.arange(1, len(WAVES) + 1)
    along_u, along_v, phase = np.array(WAVES).T
    across = 2 * np.pi * np.outer(np.arange(width) + 0.5, along_u) / width
    down = 2 * np.pi * np.outer(np.arange(height) + 0.5, along_v) / height + phase + seed * number
    # The sine of a sum, so that only rows and columns ask for sines: the laws make many such maps.
    total = (np.sin(down) / number) @ np.cos(across).T + (np.cos(down) / number) @ np.sin(across).T
    return (0.5 + 0.2 * total).astype(np.float32)


def some_points(count: int = 40, seed: int = 0) -> np.ndarray:
    """Points all over the tile, each with a turn, a size and a tone of its own."""
    chance = np.random.default_rng(5 + seed)
    points = make_points(*chance.random((2, count)))
    points["turn"], points["size"] = chance.uniform(-180, 180, count), chance.uniform(0.5, 1.5, count)
    points["tone"], points["level"] = chance.random((2, count))
    return points


def some_paths(seed: int = 0) -> np.ndarray:
    """A wavy closed line and an arc that crosses the seam."""
    t = np.linspace(0, 1, 65)
    low = 0.3 + 0.01 * seed
    return make_paths([(t, low + 0.1 * np.sin(2 * np.pi * t)), (0.9 + 0.3 * t, 0.6 + 0.3 * t * t)])


def some_loops(seed: int = 0) -> np.ndarray:
    """A star that crosses itself, and a ring over the seam: paths that close upon themselves."""
    t = np.linspace(0, 2 * np.pi, 6)
    around = np.linspace(0, 2 * np.pi, 65)
    turned = 0.1 * seed
    star = (0.45 + 0.3 * np.cos(2 * t + turned), 0.5 + 0.3 * np.sin(2 * t + turned))
    return make_paths([star, (0.95 + 0.16 * np.cos(around), 0.2 + 0.1 * np.sin(around))])


def some_islands(width: int, height: int, seed: int = 0) -> np.ndarray:
    """A label map of round islands, the same at every size; longer down than across with an odd seed."""
    place = tile_places(width, height) * 4
    cell = np.floor(place).astype(np.int32)
    longer = np.array([1.5, 1] if seed % 2 else [1, 1.5], np.float32)
    within = np.hypot(*np.moveaxis((place - cell - 0.5) * longer, -1, 0)) < 0.2 + 0.06 * (
        cell.sum(axis=-1) % 4
    )
    return np.where(within, cell[..., 0] + 4 * cell[..., 1] + 1, 0).astype(np.int32)


def some_material(width: int, height: int, seed: int = 0, channels: Iterable[str] = EVERYDAY) -> Material:
    """A material with a smooth map for each of some channels."""
    greys = {name: smooth_map(width, height, seed + 3 * n) for n, name in enumerate(channels)}
    return Material(
        {
            name: np.stack([grey, 1 - grey, grey], axis=-1) if CHANNELS[name].data is COLOUR else grey
            for name, grey in greys.items()
        }
    )


def make_input(port: Port, width: int, height: int, seed: int) -> Any:
    """A smooth input of the first kind of data a port takes."""
    assert isinstance(port.data, Data)
    if port.data is POINTS:
        return some_points(seed=seed)
    if port.data is PATHS:
        return some_loops(seed) if port.role is Role.DRAWING else some_paths(seed)
    if port.data is ISLANDS:
        return some_islands(width, height, seed)
    if port.data is Data.MATERIAL:
        return some_material(width, height, seed)
    if port.data & GREY:
        return smooth_map(width, height, seed)
    if port.data & COLOUR:
        return np.stack([smooth_map(width, height, seed + i) for i in range(3)], axis=-1)
    assert port.data & VECTOR
    bend = np.stack([smooth_map(width, height, seed + i) for i in range(2)], axis=-1)
    moved = 0.05 * (bend - np.float32(0.5))
    # A vector by which something is moved is a way, not a place on the tile.
    return moved if port.role is Role.WAY else tile_places(width, height) + moved


def make_inputs(kind: Kind, width: int, height: int, optional: bool = False) -> dict[str, Any]:
    """All inputs a kind must have, and the optional ones if wanted; read-only, as they come from threads."""
    return {
        port.name: frozen(make_input(port, width, height, seed))
        for seed, port in enumerate(kind.inputs)
        if optional or not port.optional
    }


def varied_inputs(
    kind: Kind, width: int, height: int, chance: random.Random, rows: int = ROWS
) -> dict[str, Any]:
    """All inputs a kind must have and some of the others, with maps of different means and spreads.

    Parameters
    ----------
    width, height : int
        Samples.
    rows : int
        Of a list, from the first on; the others have nothing tied.
    """
    found = {}
    for port in kind.inputs:
        if port.series > rows or (port.optional and chance.random() < 0.4):
            continue
        value = make_input(port, width, height, chance.randrange(100))
        if port.data is Data.MATERIAL:
            # What is laid over another lacks some of its channels, as a stain of colour alone does.
            present = [c for n, c in enumerate(CHANNELS) if port is kind.inputs[0] or n % 5 != 2]
            value = some_material(width, height, chance.randrange(100), present)
        elif isinstance(value, np.ndarray) and value.dtype == np.float32:
            value = altered(value, chance.uniform(0.5, 1.5), chance.uniform(-0.5, 0.3))
        found[port.name] = frozen(value)
    return found


def draws(kind: Kind, count: int) -> list[dict[str, Any]]:
    """The defaults, the creel's sample if it has one, and random values up to so many settings in all.

    A kind without a sample has one setting less, rather than its defaults twice.
    """
    chance = random.Random(kind.id)
    samples = [kind.defaults() | dict(kind.sample)] if kind.sample else []
    random_ones = [{p.name: p.draw(chance) for p in kind.parameters} for _ in range(count - 2)]
    return [kind.defaults(), *samples, *random_ones]


def run(
    kind: Kind, inputs: dict[str, Any], values: dict[str, Any], size: tuple[int, int], **more: Any
) -> Result:
    """Compute all outputs of a kind, each as a map for which the laws can be asked."""
    made = run_as_it_flows(kind, inputs, values, size, **more)
    return Result({name: law_map(value, *size) for name, value in made.outputs.items()}, made.notes)


def flow_of(
    kind_id: str,
    inputs: dict[str, Any] | None = None,
    values: dict[str, Any] | None = None,
    size: tuple[int, int] = (128, 128),
    **more: Any,
) -> Any:
    """A kind's outputs as they flow through threads, or its only one; `more` is for the context."""
    kind = built_in_kinds().get(kind_id)
    made = run_as_it_flows(kind, inputs or {}, kind.defaults() | (values or {}), size, **more).outputs
    return made[kind.outputs[0].name] if len(kind.outputs) == 1 else made


def run_as_it_flows(
    kind: Kind, inputs: dict[str, Any], values: dict[str, Any], size: tuple[int, int], **more: Any
) -> Result:
    """Compute all outputs of a kind as they flow through threads: what comes in cannot be written."""
    wanted = frozenset(p.name for p in kind.outputs)
    given = {name: read_only(it) if isinstance(it, np.ndarray) else it for name, it in inputs.items()}
    return run_kind(kind, Context(*size, wanted=wanted, **more), given, values)


def law_map(value: Any, width: int, height: int) -> np.ndarray:
    """A map that changes with all there is in a value: points as soft bumps, islands by their size."""
    data = data_of(value)
    if data is POINTS:
        weight = value["size"] * (1 + value["tone"]) * (1.5 + np.cos(np.radians(value["turn"])))
        weight = weight * value["stretch"] * (1 + 0.2 * value["level"])
        return soft_bumps(value, weight, width, height)
    if data is PATHS:
        return soft_bumps(value, value["width"] + value["height"], width, height)
    if data is ISLANDS:
        area = np.bincount(value.reshape(-1)) / value.size
        return np.where(value > 0, area[value], 0).astype(np.float32)
    if isinstance(value, Material):
        parts = [value[name].reshape(height, width, -1) for name in sorted(value)]
        return np.concatenate([*parts, np.zeros((height, width, 1), np.float32)], axis=2)
    return value


def soft_bumps(places: np.ndarray, weight: np.ndarray, width: int, height: int) -> np.ndarray:
    """A periodic bump of a given weight at each place: (height, width) float32."""
    bumps = [
        np.exp((np.cos(np.float32(2 * np.pi) * away) - np.float32(1)) / np.float32(0.14))
        for away in (_from_middles(width, places["u"]), _from_middles(height, places["v"]))
    ]
    return ((bumps[1] * weight) @ bumps[0].T / max(1, len(places))).astype(np.float32)


def _from_middles(count: int, places: np.ndarray) -> np.ndarray:
    """The ways from places to the middles of samples along a tile's side: (count, places) float32."""
    middles = (np.arange(count, dtype=np.float32) + np.float32(0.5)) / np.float32(count)
    return middles[:, None] - places.astype(np.float32)


def run_stacked(kind: Kind, inputs: Mapping[str, Any], values: dict[str, Any], size: int) -> Result:
    """All outputs on a tile twice as high as wide, which has each square input twice, one below the other."""
    tall = {port.name: stacked(inputs[port.name], port.role) for port in kind.inputs if port.name in inputs}
    return run(kind, tall, values, (size, 2 * size), physical=(1.0, 2.0))


def stacked(value: Any, role: Role, is_map: bool = False) -> Any:
    """A value of a square tile twice on a tall one: maps one below the other, places in its measure."""
    if isinstance(value, Material):
        return Material({name: stacked(array, Role.VALUE) for name, array in value.items()})
    if value.dtype.names is not None:
        both = np.concatenate([value, value])
        both["v"] = both["v"] / 2
        both["v"][len(value) :] += 0.5
        return frozen(both)
    if value.dtype == np.int32 and not is_map:
        below = np.where(value > 0, value + value.max(), 0)
        return frozen(np.concatenate([value, below]).astype(np.int32))
    if role in {Role.PLACE, Role.WAY} and value.ndim == 3 and value.shape[2] == 2:
        half = value * np.array([1, 0.5], np.float32)
        below = half + np.array([0, 0.5 if role is Role.PLACE else 0], np.float32)
        return frozen(np.concatenate([half, below]))
    return frozen(np.concatenate([value, value]))


def rolled(value: Any, down: int, right: int, size: int) -> Any:
    """A value moved by whole samples of a square map, around the tile."""
    if isinstance(value, Material):
        return Material({name: rolled(array, down, right, size) for name, array in value.items()})
    if value.dtype.names is None:
        return np.ascontiguousarray(np.roll(value, (down, right), axis=(0, 1)))
    moved = value.copy()
    moved["u"], moved["v"] = value["u"] + right / size, value["v"] + down / size
    if data_of(value) is POINTS:
        moved["u"], moved["v"] = moved["u"] % 1, moved["v"] % 1
    return moved


def altered(value: Any, times: float, plus: float) -> Any:
    """A value unlike the usual: maps multiplied and raised, points sized, or none of them if `times` is 0."""
    if isinstance(value, Material):
        return Material({name: altered(array, times, plus) for name, array in value.items()})
    if value.dtype.names is not None:
        changed = value.copy() if times else value[:0].copy()
        if "size" in value.dtype.names:
            changed["size"] = changed["size"] * times + plus
        return changed
    if value.dtype == np.int32:
        return value if times else np.zeros_like(value)
    return (value * np.float32(times) + np.float32(plus)).astype(np.float32)


def is_place(kind: Kind, name: str) -> bool:
    """Whether an output is a vector, whose whole steps are the same place."""
    return kind.output(name).role in {Role.PLACE, Role.WITHIN}


def other_values(parameter: Parameter, chance: random.Random) -> list[Any]:
    """Values a parameter may take, unlike one another."""
    if isinstance(parameter, Number):
        return [*map(parameter.plain, parameter.useful), parameter.draw(chance)]
    ends = list(parameter.ends())
    return ends if len(ends) > 1 else []


def varied_values(kind: Kind, chance: random.Random) -> dict[str, Any]:
    """The defaults or the creel's sample, but for about half of the parameters, switches included."""
    values = kind.defaults() | chance.choice([{}, dict(kind.sample)])
    for parameter in kind.parameters:
        others = other_values(parameter, chance)
        if others and chance.random() < 0.5:
            values[parameter.name] = chance.choice(others)
    return values
