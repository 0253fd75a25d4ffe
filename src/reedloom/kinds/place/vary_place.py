"""Vary place: moves, turns, scales and mirrors what is drawn in each element by chances of its own."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.regions import measure_regions
from reedloom.kinds.height.island_parts import ways_from_middles
from reedloom.kit import ISLANDS, VECTOR, Angle, Context, Float, Length, Port, Role, Seed, Switch, kind
from reedloom.kit.ways import number_of, numbers_of, ways_of

JUMPS = {
    "tiles": "each element has a place of its own, at the seam as elsewhere",
    "resolution": "each element has a place of its own, which jumps from one to the next",
    "metric": "each element is moved by chances of its own, wherever it is laid again",
    "away": "a place a whole tile away is turned and scaled to another",
    "grid": "where no place is tied, each element has its own",
    "shift": "which element has which chances goes by its number",
}
TURN, SCALE, MOVE_U, MOVE_V, MIRROR_U, MIRROR_V = range(40, 46)


@kind(
    id="vary_place",
    label="Vary place",
    family="place",
    version=1,
    purpose="Moves, turns, scales and mirrors the drawing in each element by chances of its own.",
    inputs=(
        Port(
            "place",
            VECTOR,
            optional=True,
            help="The place within each element; the way from its middle, true to scale, if not tied.",
            role=Role.WITHIN,
        ),
        Port("elements", ISLANDS, help="Which element is where: the id of a pattern, cells or islands."),
    ),
    outputs=(Port("place", VECTOR, role=Role.PLACE),),
    parameters=(
        Length("move_u", 0.5, (0, 0.5), (0, 64), help="How far it is moved to either side, at most."),
        Length("move_v", 0.5, (0, 0.5), (0, 64), help="How far it is moved up or down, at most."),
        Angle("turn_from", 0.0, help="The least turn, clockwise."),
        Angle("turn_to", 0.0, help="The greatest turn, clockwise."),
        Switch("quarters", False, help="Turns by whole quarters only."),
        Float("scale_from", 1.0, (0.1, 4), (0.005, 64), unit="×", help="The smallest it is drawn."),
        Float("scale_to", 1.0, (0.1, 4), (0.005, 64), unit="×", help="The largest it is drawn."),
        Float("mirrored_u", 0.0, (0, 1), (0, 1), help="The share that is mirrored from left to right."),
        Float("mirrored_v", 0.0, (0, 1), (0, 1), help="The share that is mirrored from top to bottom."),
        Seed(),
    ),
    exempt=JUMPS,
    synonyms=("random offset", "per element", "random rotation", "texture in each element", "cell place"),
    sample={"turn_from": -180.0, "turn_to": 180.0, "scale_from": 0.6, "scale_to": 1.4},
)
def vary_place(context: Context, place: np.ndarray | None, elements: np.ndarray, **values: Any) -> np.ndarray:
    matrix, start = drawn_moves(int(elements.max()) + 1, values)
    if place is None:
        table = measure_regions(elements, context.stop.check, context.aspect)
        ways = np.concatenate([matrix, start[..., None]], axis=2)
        ways[:, 0, 1] *= context.aspect
        ways[:, 1, 0] /= context.aspect
        return ways_from_middles(context, elements, table.u, table.v, ways)
    # A matrix of two by two is a number times a place's, and another times the place mirrored up and down.
    (a, b), (c, d) = matrix.transpose(1, 2, 0)
    plain, mirrored, to = (a + d + 1j * (c - b)) / 2, (a - d + 1j * (c + b)) / 2, numbers_of(start)
    middle = number_of(0.5, 0.5)

    def moved(rows: np.ndarray, element: np.ndarray) -> np.ndarray:
        away = numbers_of(rows) - middle
        return ways_of(plain[element] * away + mirrored[element] * away.conj() + to[element])

    return context.map_bands(moved, place, elements)


def drawn_moves(count: int, values: dict[str, Any]) -> tuple[np.ndarray, np.ndarray]:
    """For each of so many elements how places about its middle are turned (n, 2, 2) and moved (n, 2)."""
    numbers = np.arange(count)

    def chance(stream: int) -> np.ndarray:
        return unit_chances(values["seed"], numbers, stream)

    def between(name: str, stream: int) -> np.ndarray:
        return values[f"{name}_from"] + (values[f"{name}_to"] - values[f"{name}_from"]) * chance(stream)

    turn = between("turn", TURN)
    turn = np.radians(np.round(turn / 90) * 90 if values["quarters"] else turn)
    size = 1 / between("scale", SCALE)
    flip_u = np.where(chance(MIRROR_U) < values["mirrored_u"], -size, size)
    flip_v = np.where(chance(MIRROR_V) < values["mirrored_v"], -size, size)
    c, s = np.cos(turn), np.sin(turn)
    matrix = np.stack([np.stack([flip_u * c, flip_u * s], -1), np.stack([-flip_v * s, flip_v * c], -1)], 1)
    moved = [
        np.float32(0.5) + (2 * chance(stream) - 1) * values[name]
        for stream, name in ((MOVE_U, "move_u"), (MOVE_V, "move_v"))
    ]
    return matrix.astype(np.float32), np.stack(moved, axis=-1).astype(np.float32)
