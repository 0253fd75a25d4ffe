"""Fold place: mirrors, folds and kaleidoscopes."""

from __future__ import annotations

import math

import numpy as np

from reedloom.kernels.polar import seen_around
from reedloom.kinds.place.place_parts import CENTRE, places_of
from reedloom.kit import VECTOR, Angle, Choice, Context, Count, FormHandles, Port, Role, kind
from reedloom.kit.ways import number_of, numbers_of, towards, ways_of


def zigzag(x: np.ndarray) -> np.ndarray:
    """0 at even and 1 at odd whole numbers, straight between them."""
    half = x * np.float32(0.5)
    return np.float32(1) - np.abs(np.float32(2) * (half - np.floor(half)) - np.float32(1))


@kind(
    id="fold_place",
    label="Fold place",
    family="place",
    version=1,
    purpose="Mirrors whatever is drawn at the place, about axes or around a centre.",
    inputs=(Port("place", VECTOR, optional=True, role=Role.PLACE),),
    outputs=(Port("place", VECTOR, role=Role.PLACE),),
    parameters=(
        Choice(
            "way",
            "u",
            ("u", "v", "both", "around"),
            help="Left and right, top and bottom, both, or around the centre.",
        ),
        Choice(
            "fold",
            "mirror",
            ("mirror", "zigzag"),
            former=("kind_of_fold",),
            help="Mirror keeps the size on both sides of the centre; zigzag draws all of it forth and back.",
            shown_if={"way": ("u", "v", "both")},
        ),
        Count(
            "folds",
            1,
            (1, 12),
            (1, 256),
            help="How often the drawing goes forth and back across the tile, or parts around the centre.",
        ),
        *CENTRE,
        Angle("turn", help="Turns the mirrors around the centre.", shown_if={"way": "around"}),
    ),
    exempt={"shift": "the mirrors stay where they are"},
    synonyms=("mirror", "symmetry", "kaleidoscope", "reflect", "ping-pong"),
    sample={"way": "around", "folds": 6},
    handles=FormHandles(("centre_u", "centre_v"), turn="turn"),
)
def fold_place(
    context: Context,
    place: np.ndarray | None,
    *,
    way: str,
    fold: str,
    folds: int,
    centre_u: float,
    centre_v: float,
    turn: float,
) -> np.ndarray:
    source = places_of(context, place)
    if way == "around":
        parts = folds if folds == 1 or folds % 2 == 0 else folds + 1
        if parts != folds:
            context.report(f"{folds} folds around are snapped to {parts} so that the tile closes.")
        turned = round(turn / 90) * 90.0
        if place is None and turned != turn:
            context.report(f"The turn is snapped to {turned:g}° so that the tile closes.")
        start = np.float32(math.radians(turn if place is not None else turned))
        return context.map_bands(
            lambda rows: _around(context, rows, parts, (centre_u, centre_v), start), source
        )
    axes = {"u": (0,), "v": (1,), "both": (0, 1)}[way]
    centre = np.array([centre_u, centre_v], np.float32)

    def zigzagged(rows: np.ndarray) -> np.ndarray:
        folded = rows.copy()
        for axis in axes:
            away = (rows[..., axis] - centre[axis]) * np.float32(folds)
            if fold == "zigzag":
                folded[..., axis] = zigzag(2 * away)
            else:
                folded[..., axis] = centre[axis] + np.float32(0.5) * zigzag(2 * away)
        return folded

    return context.map_bands(zigzagged, source)


def _around(
    context: Context, rows: np.ndarray, parts: int, centre: tuple[float, float], start: np.float32
) -> np.ndarray:
    radius, turn = seen_around(rows, centre, context.aspect)
    # Mirrored within each part: 0 on one mirror, half a part on the next.
    part = np.float32(2 * math.pi / parts)
    folded = zigzag((turn - start / np.float32(2 * math.pi)) * np.float32(2 * parts)) * part / 2 + start
    there = context.in_tiles(ways_of(towards(folded, radius)))
    return ways_of(numbers_of(there) + number_of(*centre))
