"""What all patterns share: their outputs, gap and bevel, and how elements become maps."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from reedloom.kernels.curves import curve_table
from reedloom.kernels.elements import (
    Edge,
    Elements,
    Seen,
    find_edges,
    look_at,
    put_numbers,
    spread_grid,
)
from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.places import spread_places, tile_places
from reedloom.kernels.reach import usual_reach
from reedloom.kernels.splitting import AT_ONCE, in_order, put_means, repeat_some
from reedloom.kinds.shape.shape_parts import PROFILES, sample_size
from reedloom.kit import (
    GREY,
    ISLANDS,
    STRAIGHT_CURVE,
    VECTOR,
    Choice,
    Context,
    Length,
    Port,
    Role,
    Seed,
    ToneCurve,
)
from reedloom.kit.parameters import Parameter

PER_ELEMENT = {
    "resolution": "each element has a value of its own, which jumps to the next one's in the gap between",
    "tiles": "it jumps from element to element, at the seam as elsewhere",
}
PLACE = Port(
    "place", VECTOR, optional=True, help="Where to lay it; the plain tile if not tied.", role=Role.PLACE
)
OUTPUTS = (
    Port("profile", GREY, help="The height of the elements."),
    Port("mask", GREY, help="1 on elements, 0 in the gaps."),
    Port("edge", GREY, help="Distance to the element's edge in tiles; below 0 in the gaps."),
    Port("random", GREY, help="One random value for each element.", exempt=PER_ELEMENT),
    Port(
        "element_place",
        VECTOR,
        help="The place within each element, 0 to 1.",
        exempt=PER_ELEMENT,
        role=Role.WITHIN,
    ),
    Port("id", ISLANDS, help="The elements as islands.", exempt=PER_ELEMENT),
)
FIXED = {"shift": "the pattern stays where it is"}
PROFILE = Choice("profile", "cushion", PROFILES, help="How the height rises from the edge over the bevel.")
PROFILE_CURVE = ToneCurve(
    "profile_curve",
    STRAIGHT_CURVE,
    help="The custom profile: from the edge (left) to the bevel's end (right).",
    shown_if={"profile": "custom"},
)
SEED = Seed()


def bevelled(bevel: float, gap: float) -> tuple[Parameter, ...]:
    """How elements are parted and how their edges rise."""
    return (
        Length("gap", gap, (0, 0.02), (0, 0.5), help="Between neighbouring elements."),
        Length(
            "bevel", bevel, (0.001, 0.1), (1e-5, 1), help="How far from the edge the full height is reached."
        ),
        PROFILE,
        PROFILE_CURVE,
    )


COARSE = 0.3
"""Where a bevel is less than three samples wide, each sample is looked at in sixteen places; where it is
less than thirteen, in four."""


Find = Callable[[np.ndarray, Elements], None]
"""Finds the element at each of some places (n, 2), in tiles, and fills the room `Elements.level` gives."""


def lay_pattern(
    context: Context,
    place: np.ndarray | None,
    find: Find,
    values: Mapping[str, Any],
    count: int,
    overlap: float = 0.0,
) -> dict[str, np.ndarray]:
    """All wanted outputs of a pattern.

    count : how many elements there are; their numbers are below it.
    overlap : a width of those that lie over one another, whose borders are looked at closely; 0 if none do.
    """
    context.room_for(count, "elements")
    chance = unit_lattice(values["seed"], count, 1, 90, check=context.stop.check)[0]
    outputs = empty_outputs(context)
    sample = sample_size(context, place)
    middle = usual_reach(sample)
    splits = splits_for(middle, values["bevel"], overlap)
    fine = splits > 0 and middle > COARSE / 13 * values["bevel"]
    table = curve_table(values["profile_curve"])
    deep = np.float32(max(values["bevel"], 1e-6))
    edge = Edge(np.float32(values["gap"]), deep, PROFILES.index(values["profile"]), table)
    reach = np.float32(values["bevel"] if fine else 0)
    rim = 1 if overlap else 0

    def found_at(places: np.ndarray) -> Elements:
        found = Elements.level(places.size // 2)
        find(places.reshape(-1, 2), found)
        return found

    def look(found: Elements, covered: np.ndarray) -> Seen:
        seen = Seen.empty(len(found.inward))
        look_at(found, covered, edge, seen)
        return seen

    def band(y0: int, y1: int) -> None:
        shape = (y1 - y0, context.width)
        around = found_at(places_about(context, place, y0, y1, rim))
        covered = covered_by(sample, y0, y1)
        found = around.part(rim * shape[1], (y1 - y0 + rim) * shape[1])
        seen = Seen(*(part.reshape(shape) for part in look(found, covered)))
        if splits:
            near = np.empty(shape, np.bool_)
            find_edges(around, covered, edge, reach, overlap > 0, rim, near)
            targets = {name: getattr(seen, name) for name in Seen._fields if name in outputs}
            refine(
                context,
                place,
                y0,
                splits,
                near,
                covered,
                targets,
                lambda where, c: look(found_at(where), c)._asdict(),
            )
        for name, array in seen._asdict().items():
            if name in outputs:
                outputs[name][y0:y1] = array
        flat = [
            outputs[name][y0:y1].reshape(-1, *more) if name in outputs else room for name, more, room in PARTS
        ]
        put_numbers(found, chance, edge.gap, *flat)

    context.bands(band, band_rows=32)
    return outputs


PARTS = (
    ("random", (), np.empty(0, np.float32)),
    ("id", (), np.empty(0, np.int32)),
    ("element_place", (2,), np.empty((0, 2), np.float32)),
)
"""What belongs to an element as a whole: its output, what each sample of it holds, and no room for any."""


def covered_by(sample: Any, y0: int, y1: int) -> np.ndarray:
    """How far each sample of some rows reaches, one after the other, or one number for all."""
    return np.atleast_1d(np.asarray(sample if np.ndim(sample) == 0 else sample[y0:y1], np.float32)).reshape(
        -1
    )


def empty_outputs(context: Context) -> dict[str, np.ndarray]:
    """Room for all outputs of a pattern that are wanted, by name."""
    outputs = {name: context.empty(2 if name == "element_place" else 1) for name in sorted(context.wanted)}
    if "id" in outputs:
        outputs["id"] = np.zeros((context.height, context.width), np.int32)
    return outputs


def refine(
    context: Context,
    place: np.ndarray | None,
    y0: int,
    splits: int,
    edge: np.ndarray,
    covered: np.ndarray,
    targets: Mapping[str, np.ndarray],
    look: Callable[[np.ndarray, np.ndarray], Mapping[str, np.ndarray]],
) -> None:
    """Where a band has an edge, put in the mean of what is seen in many places of each sample.

    edge : (n, W) bool; covered : from `covered_by`; targets : (n, W) maps to be changed; look : gives maps
    at places (k, 2) that cover so much.
    """
    if not targets:
        return
    n = 2**splits
    order, ends = in_order(edge.view(np.uint8), 2)
    ys, xs = order[:, ends[0] :]
    size = covered / np.float32(n)
    for start in range(0, len(ys), AT_ONCE):
        y, x = ys[start : start + AT_ONCE], xs[start : start + AT_ONCE]
        where = np.empty((n, len(y), n, 2), np.float32)
        if place is None:
            spread_grid(y + y0, x, context.width, context.height, where)
        else:
            spread_places(place, y + y0, x, where)
        each = size
        if len(covered) > 1:
            each = np.empty(where.shape[:3], np.float32)
            repeat_some(size.reshape(edge.shape), y, x, np.float32(1), each)
        seen = look(where.reshape(-1, 2), each.reshape(-1))
        for name, target in targets.items():
            put_means(seen[name].reshape(where.shape[:3]), y, x, False, target)


def splits_for(covered: float, bevel: float, overlap: float = 0.0) -> int:
    """How often each sample is cut into four, from about how much of the tile it covers."""
    finest = covered / max(min(bevel, 1.0), 1e-6)
    if overlap and covered > overlap / 96:
        return 2
    return 2 if finest > COARSE else 1 if finest > COARSE / 4 or overlap else 0


def places_about(context: Context, place: np.ndarray | None, y0: int, y1: int, rim: int) -> np.ndarray:
    """The places of a band and of `rim` rows above and below it, around the tile."""
    if place is None:
        return tile_places(context.width, context.height, range(y0 - rim, y1 + rim))
    return place[np.arange(y0 - rim, y1 + rim) % len(place)] if rim else place[y0:y1]


def repeated(rows: np.ndarray, splits: int) -> np.ndarray:
    """Each sample's value for all the parts it is cut into."""
    n = 2**splits
    return np.repeat(np.repeat(rows, n, axis=0), n, axis=1)
