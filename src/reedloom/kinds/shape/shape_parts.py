"""What all drawn forms share: the profile of their height and the way an edge is softened."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from reedloom.kernels.curves import curve_table, read_table
from reedloom.kernels.outlines import outline_distance
from reedloom.kernels.places import measure_footprint
from reedloom.kinds.place.place_parts import places_of
from reedloom.kit import (
    GREY,
    STRAIGHT_CURVE,
    VECTOR,
    Angle,
    Choice,
    Context,
    Length,
    Port,
    Role,
    Switch,
    ToneCurve,
)

PROFILES = ("flat", "dome", "cone", "cushion", "bell", "custom")
PROFILE = Choice("profile", "dome", PROFILES, help="How the height rises from the edge to the middle.")
PROFILE_CURVE = ToneCurve(
    "profile_curve",
    STRAIGHT_CURVE,
    help="The custom profile: from the edge (left) to the middle (right).",
    shown_if={"profile": "custom"},
)


WRAPPED = Switch(
    "wrapped",
    True,
    help="Draws over the tile's edge; off for a drawing set into a cell, which then appears only once.",
)


CENTRE = (
    Length("centre_u", 0.5, (0, 1), (-64, 64), help="The middle, from the left."),
    Length("centre_v", 0.5, (0, 1), (-64, 64), help="The middle, from the top."),
)
TURN = Angle("turn", help="Turns the form clockwise about its middle.")
SOFTNESS = Length("softness", 0.0, (0, 0.2), (0, 4), help="How wide the mask fades at its edge.")
PLACED = (*CENTRE, TURN, SOFTNESS, PROFILE, PROFILE_CURVE, WRAPPED)
"""What every drawn form has besides its own measures."""
SHAPE_INPUTS = (
    Port(
        "place",
        VECTOR,
        optional=True,
        help="Where to draw; the plain tile if nothing is tied.",
        role=Role.PLACE,
    ),
)
SHAPE_OUTPUTS = (
    Port("profile", GREY, help="The height within the form."),
    Port("mask", GREY, help="1 inside, 0 outside."),
    Port("distance", GREY, help="Distance to the edge in tiles, negative inside."),
)
ONE_TILE = {"away": "where it is not wrapped there is just one, on the first tile"}
Measure = Callable[[np.ndarray, np.ndarray], np.ndarray]
"""Signed distance to a form's edge from places beside its middle (u, v)."""


def draw_form(
    context: Context,
    place: np.ndarray | None,
    measure: Measure | np.ndarray,
    values: Mapping[str, Any],
    depth: float,
    reach: float,
    symmetric: bool = False,
) -> dict[str, np.ndarray]:
    """Mask, profile and distance of a form.

    Parameters
    ----------
    measure : callable or (n, 2)
        The distance to the form's edge, or its outline as the corners of straight pieces.
    values : the values of PLACED
    depth : float
        How far inside the edge the profile has risen to its full height.
    reach : float
        How far the form reaches from its middle; beyond half a tile more wrapped copies are joined.
    symmetric : bool
        Whether the form is its own mirror image both ways, so that the copy whose middle is nearest is
        the nearest one; others are measured against the copies beside it too.
    """
    source = places_of(context, place)
    sample = np.broadcast_to(sample_size(context, place), source.shape[:2])
    angle = math.radians(values["turn"])
    c, s = np.float32(math.cos(angle)), np.float32(math.sin(angle))
    centre = np.array([values["centre_u"], values["centre_v"]], np.float32)
    aspect, shorter = np.float32(context.aspect), min(1.0, context.aspect)
    alone = not values["wrapped"] or (symmetric and reach <= 0.5 * shorter and values["turn"] % 180 == 0)
    copies = [(0, 0)] if alone else [(0, 0), (0, 1), (1, 0), (1, 1)]
    if values["wrapped"] and reach > 0.75 * shorter:
        copies += [(0, -1), (-1, 0), (-1, -1), (-1, 1), (1, -1)]
    around = [(0, 0), *((i, j) for i in (-1, 0, 1) for j in (-1, 0, 1) if i or j)]
    all_copies = np.array(around if values["wrapped"] else around[:1]) * np.array([1.0, context.aspect])
    outputs = {name: context.empty() for name in ("profile", "mask", "distance")}

    def band(y0: int, y1: int) -> None:
        away: np.ndarray = source[y0:y1] - centre
        if values["wrapped"]:
            away -= np.round(away)
        away = context.in_widths(away)
        if isinstance(measure, np.ndarray):
            u, v = away[..., 0], away[..., 1]
            turned = all_copies @ np.array([[c, -s], [s, c]])
            finish(y0, y1, outline_distance(measure, c * u + s * v, c * v - s * u, turned))
            return
        distance = None
        towards = np.where(away < 0, np.float32(-1), np.float32(1))
        for du, dv in copies:  # the one whose middle is nearest, and those beyond the nearer edges
            u, v = away[..., 0] - du * towards[..., 0], away[..., 1] - dv * aspect * towards[..., 1]
            found = measure(c * u + s * v, c * v - s * u)
            distance = found if distance is None else np.minimum(distance, found)
        assert distance is not None
        finish(y0, y1, distance)

    def finish(y0: int, y1: int, distance: np.ndarray) -> None:
        width = sample[y0:y1]
        outputs["distance"][y0:y1] = distance
        outputs["mask"][y0:y1] = edge_mask(distance, width, values["softness"])
        inward = (width / 2 - distance) / np.float32(max(depth, 1e-6))
        height = profile_height(inward, values["profile"], values["profile_curve"])
        outputs["profile"][y0:y1] = height * edge_mask(distance, width, 0.0)

    context.bands(band, band_rows=16)
    return outputs


def profile_height(inward: np.ndarray, profile: str, curve: Any) -> np.ndarray:
    """Height 0..1 for a depth of 0 (edge) to 1 (middle) within a shape."""
    t = np.clip(inward, 0, 1)
    if profile == "flat":
        return np.ones_like(t)
    if profile == "dome":
        return np.sqrt(np.maximum(0, 1 - (1 - t) ** 2))
    if profile == "cushion":
        return 1 - (1 - t) ** 4
    if profile == "bell":
        return t * t * (3 - 2 * t)
    if profile == "custom":
        return read_table(curve_table(curve), t)
    return t


def edge_mask(distance: np.ndarray, sample: Any, softness: float) -> np.ndarray:
    """Cover of a shape from its signed distance: a ramp as wide as a sample, or as the softness."""
    width = np.maximum(sample, np.float32(softness))
    return np.clip(np.float32(0.5) - distance / width, 0, 1)


def sample_size(context: Context, place: np.ndarray | None) -> Any:
    """How far a sample reaches, in widths: one number for the plain tile, else a map."""
    if place is None:
        return np.float32(context.sample)
    return np.maximum(measure_footprint(place, context.bands, context.aspect), np.float32(1e-7))
