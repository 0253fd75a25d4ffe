"""Move points: along a vector map, in as many steps as it takes to follow a flow."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import read_at, wrapped
from reedloom.kinds.points.points_parts import POINTS_IN, POINTS_OUT
from reedloom.kit import VECTOR, Angle, Context, Integer, Length, Port, Role, Switch, kind


@kind(
    id="move_points",
    label="Move points",
    family="points",
    version=1,
    purpose="Moves each point: by a vector map at its place, or the way it faces.",
    inputs=(
        POINTS_IN,
        Port(
            "along",
            VECTOR,
            optional=True,
            help="The way to move; the way it faces if not tied.",
            role=Role.WAY,
        ),
    ),
    outputs=(POINTS_OUT,),
    parameters=(
        Length(
            "distance", 0.05, (-0.25, 0.25), (-64, 64), help="How far a vector of length 1 moves a point."
        ),
        Angle("turn", help="Turns the way they move, clockwise."),
        Integer("steps", 1, (1, 32), (1, 256), help="More steps follow a curved flow, each reading it anew."),
        Switch("face_it", False, help="Turns each point the way it moved last."),
    ),
    sample={"distance": 0.2},
    synonyms=("displace", "advect", "flow", "push", "offset"),
)
def move_points(
    context: Context, points: np.ndarray, along: np.ndarray | None, distance: float, turn: float, steps: int,
    face_it: bool,
) -> np.ndarray:  # fmt: skip
    moved = points.copy()
    c, s = np.cos(np.radians(turn)) * distance, np.sin(np.radians(turn)) * distance
    spin = np.array([[c, s], [-s, c]])

    def way_at(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        if along is None:
            facing = np.radians(moved["turn"].astype(np.float64))
            return np.stack([np.cos(facing), np.sin(facing)], axis=1) @ spin
        return context.in_widths(read_at(along, u, v).astype(np.float64)) @ spin / steps

    way = np.zeros((len(points), 2))
    for _ in range(steps if along is not None else 1):
        half = context.in_tiles(way_at(moved["u"], moved["v"]) / 2)
        way = way_at(moved["u"] + half[:, 0], moved["v"] + half[:, 1])
        step = context.in_tiles(way)
        moved["u"], moved["v"] = wrapped(moved["u"] + step[:, 0]), wrapped(moved["v"] + step[:, 1])
    if face_it:
        still = np.hypot(way[:, 0], way[:, 1]) < 1e-9
        facing = np.degrees(np.arctan2(way[:, 1], way[:, 0]))
        moved["turn"] = np.where(still, moved["turn"], facing)
    return moved
