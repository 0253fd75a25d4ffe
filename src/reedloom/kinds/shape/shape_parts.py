"""What all drawn forms share: the profile of their height and the way an edge is softened."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

import numpy as np

from reedloom.kernels.curves import curve_table
from reedloom.kernels.forms import form_places, heights, mask_rows, profile_rows
from reedloom.kernels.outlines import outline_distance
from reedloom.kernels.places import measure_footprint, tile_places
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
    rounding: float = 0.0,
) -> dict[str, np.ndarray]:
    """The wanted ones of profile, mask and distance of a form.

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
    rounding : float
        By how much an outline is swollen, which rounds its corners.
    """
    if not isinstance(measure, np.ndarray):
        return finish_forms(
            context, place, form_distance(context, place, measure, values, reach, symmetric), values, depth
        )
    outline = measure
    around = [(0, 0), *((i, j) for i in (-1, 0, 1) for j in (-1, 0, 1) if i or j)]
    copies = np.array(around if values["wrapped"] else around[:1]) * np.array([1.0, context.aspect])
    c, s = turn_of(values)
    turned = copies @ np.array([[c, -s], [s, c]])

    def measure_band(seen: FromMiddle) -> np.ndarray:
        return outline_distance(outline, seen.u, seen.v, turned) - np.float32(rounding)

    return finish_forms(context, place, over_bands(context, place, values, measure_band), values, depth)


class FromMiddle(NamedTuple):
    """Places of a band as seen from a form's middle; see `form_places`."""

    u: np.ndarray
    v: np.ndarray
    towards: np.ndarray


Bands = Callable[[int, int], np.ndarray]
"""Gives the signed distance in rows y0 to y1 - 1."""


def turn_of(values: Mapping[str, Any]) -> np.ndarray:
    """Cosine and sine of the angle a form is turned by."""
    angle = math.radians(values["turn"])
    return np.array([math.cos(angle), math.sin(angle)], np.float32)


def over_bands(
    context: Context,
    place: np.ndarray | None,
    values: Mapping[str, Any],
    measure: Callable[[FromMiddle], np.ndarray],
) -> Bands:
    """Measures bands of a form from where their places lie beside its middle."""
    centre = np.array([values["centre_u"], values["centre_v"]], np.float32)
    about = (centre, bool(values["wrapped"]), np.float32(context.aspect), turn_of(values))

    def band(y0: int, y1: int) -> np.ndarray:
        rows = tile_places(context.width, context.height, range(y0, y1)) if place is None else place[y0:y1]
        u, v = (np.empty(rows.shape[:2], np.float32) for _ in range(2))
        seen = FromMiddle(u, v, np.empty(rows.shape, np.float32))
        form_places(rows, *about, *seen)
        return measure(seen)

    return band


def form_distance(
    context: Context,
    place: np.ndarray | None,
    measure: Measure,
    values: Mapping[str, Any],
    reach: float,
    symmetric: bool = False,
) -> Bands:
    """The distance to the nearest of a form's copies around the tile; see `draw_form`."""
    shorter = min(1.0, context.aspect)
    alone = not values["wrapped"] or (symmetric and reach <= 0.5 * shorter and values["turn"] % 180 == 0)
    copies = [] if alone else [(0, 1), (1, 0), (1, 1)]
    if values["wrapped"] and reach > 0.75 * shorter:
        copies += [(0, -1), (-1, 0), (-1, -1), (-1, 1), (1, -1)]
    c, s = turn_of(values)

    def nearest(seen: FromMiddle) -> np.ndarray:
        distance = measure(seen.u, seen.v)
        for du, dv in copies:  # the one whose middle is nearest, and those beyond the nearer edges
            a, b = du * seen.towards[..., 0], dv * np.float32(context.aspect) * seen.towards[..., 1]
            found = measure(seen.u - (c * a + s * b), seen.v - (c * b - s * a))
            np.minimum(distance, found, out=distance)
        return distance

    return over_bands(context, place, values, nearest)


def finish_forms(
    context: Context, place: np.ndarray | None, distances: Bands, values: Mapping[str, Any], depth: float
) -> dict[str, np.ndarray]:
    """The wanted ones of profile, mask and distance."""
    names = ("profile", "mask", "distance")
    outputs: dict[str, np.ndarray] = {name: context.empty() for name in names if name in context.wanted}
    sample = np.broadcast_to(sample_size(context, place), (context.height, context.width))
    profile, table = PROFILES.index(values["profile"]), curve_table(values["profile_curve"])
    deep, softness = np.float32(max(depth, 1e-6)), np.float32(values["softness"])

    def band(y0: int, y1: int) -> None:
        distance = distances(y0, y1)
        width = np.ascontiguousarray(sample[y0:y1])
        if "distance" in outputs:
            outputs["distance"][y0:y1] = distance
        if "mask" in outputs:
            mask_rows(distance, width, softness, outputs["mask"][y0:y1])
        if "profile" in outputs:
            profile_rows(distance, width, deep, profile, table, outputs["profile"][y0:y1])

    context.bands(band, band_rows=16)
    return outputs


def profile_height(inward: np.ndarray, profile: str, curve: Any) -> np.ndarray:
    """Height 0..1 for a depth of 0 (edge) to 1 (middle) within a shape."""
    depth = np.ascontiguousarray(inward, np.float32)
    out = np.empty_like(depth)
    heights(depth.reshape(-1), PROFILES.index(profile), curve_table(curve), out.reshape(-1))
    return out


def sample_size(context: Context, place: np.ndarray | None) -> Any:
    """How far a sample reaches, in widths: one number for the plain tile, else a map."""
    if place is None:
        return np.float32(context.sample)
    return np.maximum(measure_footprint(place, context.bands, context.aspect), np.float32(1e-7))
