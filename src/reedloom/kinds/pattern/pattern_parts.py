"""What all patterns share: their outputs, gap and bevel, and how elements become maps."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.places import split_places, tile_places
from reedloom.kinds.shape.shape_parts import PROFILES, profile_height, sample_size
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


@dataclass(slots=True)
class Elements:
    """What a pattern says of a band of places.

    Attributes
    ----------
    inward : (n, W)
        Distance to the element's edge without the gap, in tiles.
    number : (n, W) whole
        The element's id.
    u, v : (n, W)
        The place within the element, 0 to 1.
    raised : (n, W) or None
        A height that multiplies the profile, for elements that lie over or under others.
    beneath : (n, W) or None
        The height on which an element lies, to which its edge goes down; 0 if not given.
    """

    inward: np.ndarray
    number: np.ndarray
    u: np.ndarray
    v: np.ndarray
    raised: np.ndarray | None = None
    beneath: np.ndarray | None = None

    def rows(self, first: int, last: int) -> Elements:
        """Those of some rows only."""
        parts = (self.inward, self.number, self.u, self.v, self.raised, self.beneath)
        return Elements(*(None if p is None else p[first:last] for p in parts))  # type: ignore[arg-type]


def lay_pattern(
    context: Context,
    place: np.ndarray | None,
    find: Callable[[np.ndarray, np.ndarray], Elements],
    values: Mapping[str, Any],
    count: int,
    overlap: float = 0.0,
) -> dict[str, np.ndarray]:
    """All wanted outputs of a pattern.

    find : gives the elements at places (u, v), both within 0..1.
    count : how many elements there are; their ids are below it.
    """
    context.room_for(count, "elements")
    chance = unit_lattice(values["seed"], count, 1, 90, check=context.stop.check)[0]
    outputs = empty_outputs(context)
    sample = sample_size(context, place)
    middle = float(np.median(sample))
    splits = splits_for(middle, values["bevel"], overlap)
    fine = splits > 0 and middle > COARSE / 13 * values["bevel"]

    def look(found: Elements, covered: np.ndarray) -> dict[str, np.ndarray]:
        return _look(found, covered, values)

    def band(y0: int, y1: int) -> None:
        here = find(*np.moveaxis(halo_places(context, place, y0, y1), -1, 0))
        covered = sample if place is None else sample[y0:y1]
        found = here.rows(1, -1)
        part = look(found, covered)
        if splits:
            near = found.inward - np.float32(values["gap"] / 2)
            reach = np.float32(values["bevel"]) if fine else np.float32(0)
            edge = (near > -values["gap"] - 1.5 * covered) & (near < reach + 1.5 * covered)
            if overlap:
                edge |= differs(here.number)
            refine(context, place, y0, splits, edge, covered, part, lambda u, v, c: look(find(u, v), c))
        for name, array in part.items():
            if name in outputs:
                outputs[name][y0:y1] = array
        number = found.number.astype(np.int64) % count
        if "random" in outputs:
            outputs["random"][y0:y1] = chance[number]
        if "id" in outputs:
            outputs["id"][y0:y1] = np.where(found.inward > values["gap"] / 2, number + 1, 0)
        if "element_place" in outputs:
            outputs["element_place"][y0:y1] = np.stack([found.u, found.v], axis=-1)

    context.bands(band, band_rows=16)
    return outputs


def empty_outputs(context: Context) -> dict[str, np.ndarray]:
    """Room for all outputs of a pattern that are wanted, by name."""
    outputs = {name: context.empty(2 if name == "element_place" else 1) for name in sorted(context.wanted)}
    if "id" in outputs:
        outputs["id"] = np.zeros((context.height, context.width), np.int32)
    return outputs


def either(where: np.ndarray, first: Sequence[Any], second: Sequence[Any]) -> list[np.ndarray]:
    """Of two rows of maps those of the first where it says so, else those of the second."""
    return [np.where(where, a, b) for a, b in zip(first, second, strict=True)]


def differs(number: np.ndarray) -> np.ndarray:
    """Where a sample's number is not that of all eight around it; `number` has a row more on either side."""
    middle = number[1:-1]
    found = np.zeros(middle.shape, np.bool_)
    for rows in (number[:-2], middle, number[2:]):
        for step in (-1, 0, 1):
            found |= np.roll(rows, step, axis=1) != middle
    return found


def refine(
    context: Context,
    place: np.ndarray | None,
    y0: int,
    splits: int,
    edge: np.ndarray,
    covered: Any,
    part: dict[str, np.ndarray],
    look: Callable[[np.ndarray, np.ndarray, Any], dict[str, np.ndarray]],
) -> None:
    """Where a band has an edge, put in the mean of what is seen in many places of each sample.

    edge : (n, W) bool; look : gives maps at places (u, v) that cover so much of the tile.
    """
    y, x = np.nonzero(edge)
    if len(y) == 0:
        return
    n = 2**splits
    where = band_places(context, place, y0, y0 + len(edge), splits)
    where = where.reshape(len(edge), n, -1, n, 2)[y, :, x].reshape(len(y), n * n, 2)
    size = covered if np.ndim(covered) == 0 else covered[y, x][:, None]
    for name, array in look(where[..., 0], where[..., 1], size / np.float32(n)).items():
        if name in part:
            part[name][y, x] = array.mean(axis=1, dtype=np.float32)


def splits_for(covered: float, bevel: float, overlap: float = 0.0) -> int:
    """How often each sample is cut into four, from about how much of the tile it covers."""
    finest = covered / max(min(bevel, 1.0), 1e-6)
    if overlap and covered > overlap / 96:
        return 2
    return 2 if finest > COARSE else 1 if finest > COARSE / 4 or overlap else 0


def _look(found: Elements, covered: Any, values: Mapping[str, Any]) -> dict[str, np.ndarray]:
    """Profile, mask and edge of elements found at places each of which covers so much of the tile."""
    inward = (found.inward - np.float32(values["gap"] / 2)).astype(np.float32)
    width = np.maximum(covered, np.float32(1e-7))
    cover = np.clip(inward / width + np.float32(0.5), 0, 1)
    if values["gap"] <= 0:
        cover = np.where(found.inward < 0, np.float32(0), np.float32(1))
    depth = np.float32(max(values["bevel"], 1e-6))
    height = profile_height(np.maximum(inward, 0) / depth, values["profile"], values["profile_curve"]) * cover
    if found.raised is not None:
        beneath = 0 if found.beneath is None else found.beneath
        height = beneath + (found.raised - beneath) * height
    return {"profile": height.astype(np.float32), "mask": cover, "edge": inward}


def band_places(context: Context, place: np.ndarray | None, y0: int, y1: int, splits: int) -> np.ndarray:
    """The places of a band, each sample cut into four `splits` times, brought into the tile."""
    if place is None:
        n = 2**splits
        where = tile_places(n * context.width, n * context.height, range(n * y0, n * y1))
    elif splits == 0:
        where = place[y0:y1]
    else:
        where = split_places(place, y0, y1)
        if splits == 2:
            where = split_places(where, 0, len(where))
    return where - np.floor(where)


def halo_places(context: Context, place: np.ndarray | None, y0: int, y1: int) -> np.ndarray:
    """The places of a band and of one row above and below it, around the tile, brought into the tile."""
    if place is None:
        where = tile_places(context.width, context.height, range(y0 - 1, y1 + 1))
    else:
        where = place[np.arange(y0 - 1, y1 + 1) % len(place)]
    return where - np.floor(where)


def repeated(rows: np.ndarray, splits: int) -> np.ndarray:
    """Each sample's value for all the parts it is cut into."""
    n = 2**splits
    return np.repeat(np.repeat(rows, n, axis=0), n, axis=1)


def within_box(
    left: np.ndarray, right: np.ndarray, top: np.ndarray, bottom: np.ndarray, corner: float, gap: float
) -> np.ndarray:
    """Distance inward to the edge of a box with rounded corners, from the distances to its four sides.

    `gap` is what will be taken from it later, so that corners keep their radius.
    """
    u, v = np.minimum(left, right), np.minimum(top, bottom)
    plain = np.minimum(u, v)
    if corner <= 0:
        return plain
    r = np.float32(corner + gap / 2)
    short = np.hypot(np.maximum(r - u, 0), np.maximum(r - v, 0))
    return np.where((u < r) & (v < r), r - short, plain)
