"""Drawn outline: a radius over the angle, drawn as a curve."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

import numpy as np

from reedloom.kernels.curves import Knots, evaluate_curve, plain_knots
from reedloom.kernels.outlines import deepest
from reedloom.kinds.shape.shape_parts import ONE_TILE, PLACED, SHAPE_INPUTS, SHAPE_OUTPUTS, THIN, draw_form
from reedloom.kit import Context, Count, FormHandles, KnotPlaces, Length, Switch, ToneCurve, kind

PEBBLE = ((0.0, 0.95, 0.0), (0.2, 0.75, 0.0), (0.42, 1.0, 0.0), (0.7, 0.8, 0.0), (1.0, 0.95, 0.0))
PIECES = 256
"""Straight pieces around the turn."""


def to_form(values: Mapping[str, Any], x: float, y: float) -> tuple[float, float]:
    """Where a knot of the curve lies on the form."""
    angle = 2 * math.pi * x / (values["parts"] * (2 if values["mirrored"] else 1))
    return y * values["radius"] * math.cos(angle), y * values["radius"] * math.sin(angle)


def from_form(values: Mapping[str, Any], u: float, v: float) -> tuple[float, float]:
    """The knot of the curve for a place on the form."""
    turn = math.atan2(v, u) / (2 * math.pi) % 1
    x = turn * values["parts"] * (2 if values["mirrored"] else 1)
    return x, math.hypot(u, v) / max(values["radius"], 1e-6)


@kind(
    id="drawn_outline",
    label="Drawn outline",
    family="shape",
    version=2,
    purpose="Any closed form around a middle: its radius over the angle is a drawn curve.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("radius", 0.4, (0.02, 0.5), (0, 8), help="The radius where the curve is 1."),
        ToneCurve("outline", PEBBLE, help="The radius around the turn, from the right clockwise."),
        Count("parts", 1, (1, 12), (1, 64), help="How often the curve is run through in one turn."),
        Switch("mirrored", False, help="Runs each part through forth and back, which makes it symmetric."),
        *PLACED,
    ),
    exempt=ONE_TILE,
    handles=FormHandles(
        ("centre_u", "centre_v"),
        turn="turn",
        knots=KnotPlaces("outline", to_form, from_form, closed=lambda values: not values["mirrored"]),
    ),
    synonyms=("freeform", "blob", "pebble", "silhouette", "radial curve"),
    changes={2: THIN},
)
def drawn_outline(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    knots = values["outline"] if values["mirrored"] else closed(values["outline"])
    outline, depth, reach = corners_of(
        plain_knots(knots), values["parts"], values["mirrored"], values["radius"]
    )
    return draw_form(context, inputs[0], outline, values, depth, reach)


@lru_cache(64)
def corners_of(knots: Knots, parts: float, mirrored: bool, size: float) -> tuple[np.ndarray, float, float]:
    """An outline's corners, (PIECES, 2); how deep it is; and how far it reaches. Not to be changed."""
    turn = np.linspace(0, 1, PIECES, endpoint=False)
    at = turn * parts % 1
    if mirrored:
        at = 1 - np.abs(2 * at - 1)
    radius = np.maximum(evaluate_curve(knots, at), 1e-4) * size
    outline = np.stack([radius * np.cos(2 * np.pi * turn), radius * np.sin(2 * np.pi * turn)], axis=1)
    outline.flags.writeable = False
    return outline, deepest(outline), float(radius.max())


def closed(knots: Any) -> list[tuple[float, ...]]:
    """Knots whose end meets their beginning, so that the outline has no step there."""
    mean = (knots[0][1] + knots[-1][1]) / 2
    return [(knots[0][0], mean, *knots[0][2:]), *knots[1:-1], (knots[-1][0], mean, *knots[-1][2:])]
