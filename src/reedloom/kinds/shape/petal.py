"""Petal: a leaf with a point and a vein."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from reedloom.kernels.curves import evaluate_curve
from reedloom.kernels.jit import kernel
from reedloom.kernels.outlines import deepest
from reedloom.kernels.quick import power_of_two
from reedloom.kinds.shape.shape_parts import (
    ONE_TILE,
    PLACED,
    SHAPE_INPUTS,
    SHAPE_OUTPUTS,
    THIN,
    draw_form,
    nearest_copy,
    sample_size,
    seen_from_middle,
)
from reedloom.kit import Context, Float, FormHandles, Length, ToneCurve, kind

LEAF = ((0.0, 0.0, 0.0), (0.15, 0.55, 0.0), (0.45, 1.0, 0.0), (0.8, 0.5, 0.0), (1.0, 0.0, 0.0))
PIECES = 96
"""Straight pieces along each side."""
FAR = 1e3
"""So many widths from its vein are places beyond a leaf's ends."""


@kind(
    id="petal",
    label="Petal",
    family="shape",
    version=2,
    purpose="A leaf or petal: width along its length by a curve, a point, a vein.",
    inputs=SHAPE_INPUTS,
    outputs=SHAPE_OUTPUTS,
    parameters=(
        Length("length", 0.6, (0.02, 1), (0, 8), help="From the foot to the point."),
        Length("width", 0.3, (0.01, 1), (0, 8), help="At its widest."),
        ToneCurve(
            "width_along",
            LEAF,
            former=("along",),
            help="How wide it is from foot to point.",
        ),
        Float("vein", 0.3, (0, 1), (0, 1), help="How deep the vein along its middle is, in the profile."),
        Length("vein_width", 0.02, (0.002, 0.1), (0, 1), help="How wide the vein is."),
        Float("bend", 0.0, (-1, 1), (-4, 4), help="How far its middle is bent aside, against its length."),
        *PLACED,
    ),
    exempt=ONE_TILE,
    synonyms=("leaf", "feather", "flower", "blade"),
    changes={2: THIN},
    handles=FormHandles(("centre_u", "centre_v"), turn="turn"),
)
def petal(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    length = max(values["length"], 1e-4)
    bend = values["bend"] * length
    t = np.linspace(0, 1, PIECES)
    half = np.maximum(evaluate_curve(values["width_along"], t), 0) * values["width"] / 2
    middle = bend * (1 - (2 * t - 1) ** 2)
    u = (t - 0.5) * length
    outline = np.concatenate([np.stack([u, middle + half], 1), np.stack([u, middle - half], 1)[::-1]])
    depth = deepest(outline)

    reach = length / 2 + abs(bend) + values["width"] / 2
    outputs = draw_form(context, inputs[0], outline, values, depth, reach)
    if values["vein"] > 0 and "profile" in outputs:
        bent = np.array([bend, 4 * bend / length**2, length], np.float32)
        vein = np.array([values["vein"], max(values["vein_width"], 1e-5)], np.float32)

        def from_vein(u: np.ndarray, v: np.ndarray) -> np.ndarray:
            away = np.empty_like(u)
            vein_rows(u, v, bent, away)
            return away

        nearest = nearest_copy(context, from_vein, values, reach)
        see, profile = seen_from_middle(context, inputs[0], values), outputs["profile"]
        sample = np.broadcast_to(sample_size(context, inputs[0]), profile.shape)

        def sink(y0: int, y1: int) -> None:
            if profile[y0:y1].any():
                width = np.ascontiguousarray(sample[y0:y1])
                sink_vein_rows(nearest(see(y0, y1)), width, vein, profile[y0:y1])

        context.bands(sink)
    return outputs


@kernel
def vein_rows(u, v, bent, out):  # type: ignore[no-untyped-def]
    """How far places of a leaf are from its middle; far away where they lie beyond its ends.

    Parameters
    ----------
    u, v : (n, W) float32
        Along the leaf and across it.
    bent : (3,) float32
        How far aside its middle is there, how much less for each square of u, and how long the leaf is.
    out : (n, W) float32
        Filled.
    """
    aside, lean, length = bent
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            along = u[y, x]
            away = abs(v[y, x] - aside + lean * along * along)
            out[y, x] = away if abs(along) <= length else np.float32(FAR)


@kernel
def sink_vein_rows(away, sample, vein, profile):  # type: ignore[no-untyped-def]
    """Lower a profile at a vein.

    Parameters
    ----------
    away, sample : (n, W) float32
        How far samples are from the vein, and how wide they are themselves.
    vein : (2,) float32
        What share of the height it takes, and how wide it is.
    profile : (n, W) float32
        Changed.
    """
    share, width = vein
    for y in range(profile.shape[0]):
        for x in range(profile.shape[1]):
            # What a sample covers blurs the vein: wider, and as much shallower.
            wider = np.float32(math.sqrt(width * width + sample[y, x] * sample[y, x] / np.float32(6.0)))
            part = away[y, x] / wider
            fall = power_of_two(-part * part * np.float32(math.log2(math.e)))
            profile[y, x] *= np.float32(1.0) - share * (width / wider) * fall
