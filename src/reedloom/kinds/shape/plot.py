"""Plot: the area under a drawn curve or a formula."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from reedloom.kernels.curves import evaluate_curve
from reedloom.kernels.outlines import deepest
from reedloom.kinds.shape.shape_parts import ONE_TILE, PLACED, SHAPE_INPUTS, SHAPE_OUTPUTS, THIN, draw_form
from reedloom.kit import (
    Choice,
    Context,
    FormHandles,
    FormulaText,
    KnotPlaces,
    Length,
    Switch,
    ToneCurve,
    kind,
)
from reedloom.kit.formulas import read_formula

HILL = ((0.0, 0.2, 1.0), (0.2, 0.8, 0.0), (0.5, 0.35, 0.0), (0.8, 1.0, 0.0), (1.0, 0.1, 1.0))
PIECES = 160
"""Straight pieces along the curve."""


def to_form(values: Mapping[str, Any], x: float, y: float) -> tuple[float, float]:
    """Where a knot of the curve lies on the form."""
    lift = 0.0 if values["mirrored"] else values["height"] / 2
    return (x - 0.5) * values["width"], lift - y * values["height"]


def from_form(values: Mapping[str, Any], u: float, v: float) -> tuple[float, float]:
    """The knot of the curve for a place on the form."""
    lift = 0.0 if values["mirrored"] else values["height"] / 2
    return u / values["width"] + 0.5, (lift - v) / max(values["height"], 1e-6)


@kind(
    id="plot",
    label="Plot",
    family="shape",
    version=2,
    purpose="The area under a drawn curve or a formula, mirrored if wanted: turned parts, mouldings.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("width", 0.8, (0.05, 1), (0.001, 8), help="From the beginning of the curve to its end."),
        Length("height", 0.4, (0.02, 1), (0, 8), help="Where the curve is 1."),
        Choice("drawn_by", "curve", ("curve", "formula"), help="What gives the height at each place."),
        ToneCurve("curve", HILL, help="The height from left to right.", shown_if={"drawn_by": "curve"}),
        FormulaText(
            "formula",
            "sin(pi * u)",
            names=("u",),
            tries=("sin(pi * u)", "1 - abs(2*u - 1)", "sqrt(u)", "u ** 2", "abs(sin(3 * pi * u))"),
            help="The height at u, from 0 on the left to 1 on the right.",
            shown_if={"drawn_by": "formula"},
        ),
        Switch(
            "mirrored", True, help="Mirrors the area below its base line, like a thing turned on a lathe."
        ),
        *PLACED,
    ),
    exempt=ONE_TILE,
    handles=FormHandles(
        ("centre_u", "centre_v"),
        turn="turn",
        knots=KnotPlaces("curve", to_form, from_form, lambda values: values["drawn_by"] == "curve"),
    ),
    synonyms=("graph", "lathe", "moulding", "profile", "function"),
    changes={2: THIN},
)
def plot(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    t = np.linspace(0, 1, PIECES)
    if values["drawn_by"] == "curve":
        rise = evaluate_curve(values["curve"], t)
    else:
        rise = np.broadcast_to(read_formula(values["formula"], frozenset({"u"}))({"u": t}), t.shape)
    rise = np.clip(rise, 0, 16) * values["height"]
    u = (t - 0.5) * values["width"]
    below = -rise if values["mirrored"] else np.zeros_like(rise)
    lift = 0.0 if values["mirrored"] else values["height"] / 2
    outline = np.concatenate([np.stack([u, lift - rise], 1), np.stack([u, lift - below], 1)[::-1]])

    reach = float(np.hypot(outline[:, 0], outline[:, 1]).max())
    return draw_form(context, inputs[0], outline, values, deepest(outline), reach)
