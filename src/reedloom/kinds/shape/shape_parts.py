"""What all drawn forms share: the profile of their height and the way an edge is softened."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from typing import Any, NamedTuple, Protocol

import numpy as np

from reedloom.kernels.curves import curve_table
from reedloom.kernels.forms import (
    FOLDED,
    NEAR,
    copy_places,
    find_near,
    form_places,
    heights,
    mask_rows,
    mean_covers,
    mean_heights,
    profile_rows,
)
from reedloom.kernels.outlines import ANY, Pieces, outline_distance
from reedloom.kernels.places import tile_places
from reedloom.kernels.reach import measure_footprint
from reedloom.kit import (
    GREY,
    STRAIGHT_CURVE,
    VECTOR,
    Angle,
    Change,
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
THIN = Change(
    "Profile and mask are the means of what samples cover, so that thin forms weigh the same at any size."
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
        nearest = nearest_copy(context, measure, values, reach, symmetric)
        return finish_forms(context, place, nearest, values, depth)
    pieces = Pieces.of(measure)
    around = [(0, 0), *((i, j) for i in (-1, 0, 1) for j in (-1, 0, 1) if i or j)]
    copies = np.array(around if values["wrapped"] else around[:1]) * np.array([1.0, context.aspect])
    c, s = turn_of(values)
    turned = (copies @ np.array([[c, -s], [s, c]])).astype(np.float32)

    def from_outline(seen: FromMiddle, far: float = ANY) -> np.ndarray:
        there = outline_distance(pieces, seen.u, seen.v, turned, far + rounding)
        return there - np.float32(rounding)

    return finish_forms(context, place, from_outline, values, depth)


class FromMiddle(NamedTuple):
    """Places of a band as seen from a form's middle; see `form_places`."""

    u: np.ndarray
    v: np.ndarray
    towards: np.ndarray


class Distance(Protocol):
    """Signed distance to the edge of the nearest of a form's copies; beyond `far` it need not be right."""

    def __call__(self, seen: FromMiddle, far: float = ANY) -> np.ndarray: ...


def turn_of(values: Mapping[str, Any]) -> np.ndarray:
    """Cosine and sine of the angle a form is turned by."""
    angle = math.radians(values["turn"])
    return np.array([math.cos(angle), math.sin(angle)], np.float32)


def seen_from_middle(
    context: Context, place: np.ndarray | None, values: Mapping[str, Any]
) -> Callable[[int, int], FromMiddle]:
    """Gives the places of rows y0 to y1 - 1 as seen from a form's middle."""
    centre = np.array([values["centre_u"], values["centre_v"]], np.float32)
    about = (centre, bool(values["wrapped"]), np.float32(context.aspect), turn_of(values))

    def band(y0: int, y1: int) -> FromMiddle:
        rows = tile_places(context.width, context.height, range(y0, y1)) if place is None else place[y0:y1]
        u, v = (np.empty(rows.shape[:2], np.float32) for _ in range(2))
        seen = FromMiddle(u, v, np.empty((2, *u.shape), np.float32))
        form_places(rows, *about, *seen)
        return seen

    return band


def nearest_copy(
    context: Context, measure: Measure, values: Mapping[str, Any], reach: float, symmetric: bool = False
) -> Distance:
    """The distance to the nearest of a form's copies around the tile; see `draw_form`."""
    shorter = min(1.0, context.aspect)
    alone = not values["wrapped"] or (symmetric and reach <= 0.5 * shorter and values["turn"] % 180 == 0)
    copies = [] if alone else [(0, 1), (1, 0), (1, 1)]
    if values["wrapped"] and reach > 0.75 * shorter:
        copies += [(0, -1), (-1, 0), (-1, -1), (-1, 1), (1, -1)]
    steps = np.array(copies, np.float32).reshape(-1, 2) * np.array([1, context.aspect], np.float32)
    turn = turn_of(values)

    def nearest(seen: FromMiddle, far: float = ANY) -> np.ndarray:
        distance = measure(seen.u, seen.v)
        u, v = np.empty_like(seen.u), np.empty_like(seen.v)
        for step in steps:  # the one whose middle is nearest, and those beyond the nearer edges
            copy_places(*seen, step, turn, u, v)
            np.minimum(distance, measure(u, v), out=distance)
        return distance

    return nearest


class Profile(NamedTuple):
    """A profile as the kernels take it: see `profile_rows` and `mean_heights`."""

    depth: np.float32
    number: int
    table: np.ndarray
    summed: np.ndarray

    @classmethod
    def of(cls, values: Mapping[str, Any], depth: float) -> Profile:
        """From the values of PROFILE and PROFILE_CURVE, and how far inside it is at its full height."""
        table = curve_table(values["profile_curve"])
        steps = np.cumsum((table[1:].astype(np.float64) + table[:-1]) / 2) / (len(table) - 1)
        number = PROFILES.index(values["profile"])
        return cls(np.float32(max(depth, 1e-6)), number, table, np.concatenate([[0.0], steps]))


def finish_forms(
    context: Context, place: np.ndarray | None, nearest: Distance, values: Mapping[str, Any], depth: float
) -> dict[str, np.ndarray]:
    """The wanted ones of profile, mask and distance; of the first two the means of what samples cover."""
    names = ("profile", "mask", "distance")
    outputs: dict[str, np.ndarray] = {name: context.empty() for name in names if name in context.wanted}
    sample = np.broadcast_to(sample_size(context, place), (context.height, context.width))
    rise, softness = Profile.of(values, depth), np.float32(values["softness"])
    see, turn = seen_from_middle(context, place, values), turn_of(values)

    def band(y0: int, y1: int) -> None:
        seen = see(y0, y1)
        width = np.ascontiguousarray(sample[y0:y1])
        far = ANY if "distance" in outputs else float(softness + AROUND * width.max())
        distance = nearest(seen, far)
        if "distance" in outputs:
            outputs["distance"][y0:y1] = distance
        if "mask" in outputs:
            mask_rows(distance, width, softness, outputs["mask"][y0:y1])
        if "profile" in outputs:
            profile_rows(distance, width, *rise[:3], outputs["profile"][y0:y1])
        sharp = "mask" in outputs and softness <= width.max()
        if not sharp and "profile" not in outputs:
            return
        for samples, across, parts in looked_at_closely(seen, distance, width, nearest, turn, depth):
            mean = np.empty(samples.size, np.float32)
            if sharp:
                mean_covers(parts, across, softness, 2 * depth, mean)
                outputs["mask"][y0:y1].reshape(-1)[samples] = mean
            if "profile" in outputs:
                mean_heights(parts, across, rise.depth, 2 * depth, *rise[1:], mean)
                outputs["profile"][y0:y1].reshape(-1)[samples] = mean

    context.bands(band)
    return outputs


def looked_at_closely(
    seen: FromMiddle,
    distance: np.ndarray,
    width: np.ndarray,
    nearest: Distance,
    turn: np.ndarray,
    depth: float,
) -> Iterator[tuple[np.ndarray, np.ndarray, np.ndarray]]:
    """The samples near a form's edge: their numbers, what they cover, and the distances at their parts.

    Where the distance runs on evenly one part is enough.
    """
    told = np.empty(distance.shape, np.uint8)
    find_near(distance, width, told)
    for which in (NEAR, FOLDED):
        samples = np.flatnonzero(told == which)
        if not samples.size:
            continue
        across = width.reshape(-1)[samples]
        if which == NEAR:
            parts = distance.reshape(-1)[samples][:, None]
        else:
            parts = nearest(in_parts(seen, samples, across, turn, parts_of(across.max(), depth)))
        yield samples, across, parts


AROUND = 4.0
"""How many samples outside a form its distance is of use, if it is not wanted itself."""
FEWEST, MOST = 4, 12
"""Parts along each side of such a sample."""


def parts_of(width: float, depth: float) -> int:
    """In how many parts along its side a sample is looked at, so that few are wider than half the form."""
    return int(min(max(FEWEST, math.ceil(2 * width / max(depth, 1e-9))), MOST))


def in_parts(
    seen: FromMiddle, samples: np.ndarray, width: np.ndarray, turn: np.ndarray, count: int
) -> FromMiddle:
    """Some samples in count × count parts each, as seen from the form's middle: (n, count²)."""
    steps = (np.arange(count, dtype=np.float32) + 0.5) / count - 0.5
    down, right = (a.reshape(-1) for a in np.meshgrid(steps, steps, indexing="ij"))
    c, s = turn
    u, v = seen.u.reshape(-1)[samples], seen.v.reshape(-1)[samples]
    towards = np.repeat(seen.towards.reshape(2, -1)[:, samples], count * count, axis=1)
    return FromMiddle(
        u[:, None] + width[:, None] * (c * right + s * down),
        v[:, None] + width[:, None] * (c * down - s * right),
        towards.reshape(2, len(samples), count * count),
    )


def profile_height(inward: np.ndarray, profile: str, curve: Any) -> np.ndarray:
    """Height 0..1 for a depth of 0 (edge) to 1 (middle) within a shape."""
    depth = np.ascontiguousarray(inward, np.float32)
    out = np.empty_like(depth)
    heights(depth.reshape(-1), np.float32(1), PROFILES.index(profile), curve_table(curve), out.reshape(-1))
    return out


def sample_size(context: Context, place: np.ndarray | None) -> Any:
    """How far a sample reaches, in widths: one number for the plain tile, else a map."""
    if place is None:
        return np.float32(context.sample)
    return np.maximum(measure_footprint(place, context.bands, context.aspect), np.float32(1e-7))
