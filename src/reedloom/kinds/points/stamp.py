"""Stamp: draws pictures at points."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Any

import numpy as np
from msgspec import Struct

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import read_at
from reedloom.kernels.stamp_lanes import JOINS
from reedloom.kernels.stamps import (
    FARTHEST_BOW,
    Layer,
    Sheets,
    Stamps,
    make_sheets,
    rest_stamps,
    stamp_rows,
)
from reedloom.kernels.vectors import LANES
from reedloom.kinds.height.island_parts import of_each, ways_from_middles
from reedloom.kinds.pattern.pattern_parts import PER_ELEMENT
from reedloom.kinds.points.points_parts import POINTS_IN, SEED
from reedloom.kit import GREY, ISLANDS, VECTOR, Choice, Context, Float, Length, Port, Role, kind

DRAWINGS = 16
STAMP_WORK = 8
"""How many times as long as a sample usually takes a stamp does that lies over it."""
GROUND = 512
"""Cells a side of the ground on which resting stamps are laid: the same for all maps but the smallest."""
MOST_LAID, FEWEST = 2.0**28, 32
"""Cells covered by all stamps together beyond which the ground is coarser, down to so many a side."""
CELLS_A_SAMPLE = 2
"""Cells of the ground, at most, for a sample of the map, each way."""
LAID_AT_ONCE = 2.0**19
"""Cells that are covered between two looks at whether to stop."""
ORDERS = ("as laid", "by level", "by size", "by chance")


@kind(
    id="stamp",
    label="Stamp",
    family="points",
    version=1,
    purpose="Draws a picture at every point, turned and sized as the point is.",
    inputs=(
        POINTS_IN,
        Port(
            "drawing",
            GREY,
            help="What is drawn: the whole tile of it, at the stamp's size.",
            role=Role.DRAWING,
            series=1,
        ),
        *(
            Port(f"drawing_{n}", GREY, optional=True, help="Another drawing to choose from.", series=n)
            for n in range(2, DRAWINGS + 1)
        ),
        Port("drawing_mask", GREY, optional=True, help="Where the drawings are; above 0 if not tied."),
        Port("choice_map", GREY, optional=True, help="Which drawing, read at the point: 0 first, 1 last."),
        Port("tone_map", GREY, optional=True, help="A tone for each stamp, times its own."),
    ),
    outputs=(
        Port("height", GREY, help="The stamps' heights, joined."),
        Port("mask", GREY, help="1 where a stamp is."),
        Port("random", GREY, help="One random value for each stamp.", exempt=PER_ELEMENT),
        Port(
            "stamp_place",
            VECTOR,
            help="The place within each stamp, 0 to 1.",
            exempt=PER_ELEMENT,
            role=Role.WITHIN,
        ),
        Port("tone", GREY, help="The tone of each stamp.", exempt=PER_ELEMENT),
        Port("id", ISLANDS, help="Which stamp shows.", exempt=PER_ELEMENT),
    ),
    parameters=(
        Length("size", 0.1, (0.005, 0.5), (0, 2), help="How large a point of size 1 is drawn."),
        Choice("join", "highest", JOINS, help="What shows where stamps overlap."),
        Choice("order", "as laid", ORDERS, help="Which stamps are laid first and so lie below."),
        Float("resting", 0.0, (0, 1), (0, 1), help="How far stamps lie on top of those laid before them."),
        Float("underside", 0.5, (0, 1), (0, 4), help="How round they are below: rounder settle deeper."),
        Choice("choice", "by chance", ("by chance", "in turn", "by map"), help="Which of several drawings."),
        Float("tone_height", 0.0, (0, 1), (0, 1), help="How much the tone lowers the height."),
        Float("mirrored", 0.0, (0, 1), (0, 1), help="The share of the stamps that are drawn mirrored."),
        Float(
            "bend_from", 0.0, (-0.5, 0.5), (-1, 1), help="The least bend: how deep the bow is for its length."
        ),
        Float("bend_to", 0.0, (-0.5, 0.5), (-1, 1), help="The greatest bend; each stamp has its own."),
        *(
            Float(
                f"weight_{n}",
                1.0,
                (0, 1),
                (0, 1000),
                label="Weight",
                help="How often the drawing is chosen by chance, against the others.",
                series=n,
                group=f"Drawing {n}",
            )
            for n in range(1, DRAWINGS + 1)
        ),
        SEED,
    ),
    sample={"size": 0.24},
    exempt={
        "metric": "the drawing fills the tile, whatever its shape, and each stamp has that shape",
        "shift": "the drawing is cut at the tile's edge, so that moving it moves it within each stamp",
    },
    synonyms=("scatter", "sprinkle", "repeat a drawing", "place copies", "strew"),
)  # fmt: skip
def stamp(
    context: Context, points: np.ndarray, *maps: np.ndarray | None, **values: Any
) -> dict[str, np.ndarray]:
    *drawn, mask, choice_map, tone_map = maps
    tied = [n for n, map in enumerate(drawn) if map is not None]
    drawings = [map for map in drawn if map is not None]
    weights = np.array([values[f"weight_{n + 1}"] for n in tied])
    tone = points["tone"].copy()
    if tone_map is not None:
        tone *= read_at(tone_map, points["u"], points["v"])
    laid = _Laid.of(context, points, values)
    which = choose(points, weights, choice_map, values)
    sheets = make_sheets(drawings, mask, which, laid.size_u, laid.size_v, context.bands)
    scale = (1 - values["tone_height"] * (1 - tone)).astype(np.float32)
    order = in_order(points, laid, values)
    lift = np.zeros(len(points), np.float32)
    if values["resting"] > 0 and len(points):
        rest(context, laid, sheets, order, scale, lift, values)
    shape = (context.height, context.width)
    layer = Layer(np.zeros(shape, np.float32), np.zeros(shape, np.float32), np.zeros(shape, np.int32))
    stamps = Stamps(sheets, *laid.to_texels(sheets, context.width, context.height), scale)
    join = JOINS.index(values["join"])

    def band(y0: int, y1: int) -> None:
        near = order[laid.reaches(order, stamps, y0, y1, context.height)]
        stamp_rows(near, stamps, laid.amount, lift, join, layer, y0, y1)

    if len(points):
        over_each = float((laid.size_u * laid.size_v).sum()) / context.aspect  # stamps over a sample
        context.bands(band, band_rows=32, work=STAMP_WORK * over_each)

    def of_stamps(each: np.ndarray) -> np.ndarray:
        return of_each(context, layer.labels, np.concatenate([[0.0], each]))

    makers: dict[str, Callable[[], np.ndarray]] = {
        "height": lambda: layer.out,
        "mask": lambda: layer.cover,
        "random": lambda: of_stamps(unit_chances(values["seed"], points["id"], 11)),
        "tone": lambda: of_stamps(tone),
        "id": lambda: layer.labels,
        "stamp_place": lambda: laid.places_within(context, layer.labels),
    }
    return {name: makers[name]() for name in sorted(context.wanted)}


def choose(
    points: np.ndarray, weights: np.ndarray, choice_map: np.ndarray | None, values: dict[str, Any]
) -> np.ndarray:
    """Which drawing each stamp shows, by chance as often as they weigh: (N,) whole numbers."""
    count = len(weights)
    if values["choice"] == "in turn":
        return np.arange(len(points)) % count
    if values["choice"] == "by map" and choice_map is not None:
        share = read_at(choice_map, points["u"], points["v"])
    else:
        share = unit_chances(values["seed"], points["id"], 12)
        if np.ptp(weights) > 0:
            ends = np.cumsum(weights) / weights.sum()
            return np.minimum(np.searchsorted(ends, share, side="right"), count - 1)
    return np.clip(np.floor(share * count), 0, count - 1).astype(np.int64)


def in_order(points: np.ndarray, laid: _Laid, values: dict[str, Any]) -> np.ndarray:
    """The stamps' numbers, first laid first."""
    keys = {
        "by level": points["level"],
        "by size": -(laid.size_u * laid.size_v),
        "by chance": unit_chances(values["seed"], points["id"], 13),
    }
    if values["order"] == "as laid":
        return np.arange(len(points))
    return np.argsort(keys[values["order"]], kind="stable")


def rest(
    context: Context,
    laid: _Laid,
    sheets: Sheets,
    order: np.ndarray,
    scale: np.ndarray,
    lift: np.ndarray,
    values: dict[str, Any],
) -> None:
    """Lay the stamps one after another on a ground, and fill in how high they lie."""
    cells = GROUND
    while cells > FEWEST and cells >= 2 * CELLS_A_SAMPLE * max(context.width, context.height):
        cells //= 2  # the drawings are as coarse as the map
    stamps = Stamps(sheets, *laid.to_texels(sheets, cells, cells), scale)
    while cells > FEWEST and 4.0 * np.sum(stamps.ways[:, 4] * stamps.ways[:, 5]) > MOST_LAID:
        cells //= 2
        stamps = Stamps(sheets, *laid.to_texels(sheets, cells, cells), scale)
    ground = np.zeros((cells, cells + LANES), np.float32)
    share, underside = np.float32(values["resting"]), np.float32(values["underside"])
    covered = np.cumsum(4.0 * stamps.ways[order, 4] * stamps.ways[order, 5])
    ends = np.unique((covered // LAID_AT_ONCE).astype(np.int64), return_index=True)[1][1:]
    for first, end in pairwise([0, *(int(end) for end in ends), len(order)]):
        context.stop.check()
        rest_stamps(order[first:end], stamps, share, underside, ground, lift)


class _Laid(Struct, frozen=True):
    """Where stamps lie, in tiles, how large they are, in widths, how they are turned, mirrored and bent."""

    u: np.ndarray
    v: np.ndarray
    size_u: np.ndarray
    size_v: np.ndarray
    cos: np.ndarray
    sin: np.ndarray
    facing: np.ndarray
    bend: np.ndarray
    amount: np.ndarray
    aspect: float

    @classmethod
    def of(cls, context: Context, points: np.ndarray, values: dict[str, Any]) -> _Laid:
        """Stamps at points; stretching keeps the area, and a stamp below a sample hides a part of it."""
        side = values["size"] * np.maximum(points["size"].astype(np.float64), 0)
        long = np.sqrt(np.clip(points["stretch"].astype(np.float64), 1e-2, 1e2))
        turn = np.radians(points["turn"].astype(np.float64))
        # A drawing has the tile's own shape, so that what is round on the tile is round in each stamp.
        true_u, true_v = (np.clip(side * s, 1e-6, 4) for s in (long, context.aspect / long))
        size_u = np.maximum(true_u, 1 / context.width)
        size_v = np.maximum(true_v, context.spacing[1])
        amount = (true_u * true_v / (size_u * size_v)).astype(np.float32)
        mirrored = unit_chances(values["seed"], points["id"], 14) < values["mirrored"]
        bend = values["bend_from"] + (values["bend_to"] - values["bend_from"]) * unit_chances(
            values["seed"], points["id"], 15
        )
        return cls(
            points["u"],
            points["v"],
            size_u,
            size_v,
            np.cos(turn),
            np.sin(turn),
            np.where(mirrored, -1.0, 1.0),
            bend * size_u / size_v,
            amount,
            context.aspect,
        )

    def to_texels(self, sheets: Sheets, width: int, height: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """For a map of so many samples: the `ways`, `places` and `bows` of `Stamps`."""
        bows = self.bend * sheets.rows
        per_u, per_v = sheets.columns / self.size_u, sheets.rows / self.size_v
        # A border of one texel around the sheet is drawn too, for its soft edge.
        half_u = self.size_u * (0.5 + 0.5 / sheets.columns)
        half_v = self.size_v * (0.5 + 0.5 / sheets.rows + np.abs(self.bend) * FARTHEST_BOW)
        high = height / self.aspect  # rows in a width
        turns = np.stack(
            [
                per_u * self.facing * self.cos / width,
                per_u * self.facing * self.sin / high,
                -per_v * self.sin / width,
                per_v * self.cos / high,
                (np.abs(self.cos) * half_u + np.abs(self.sin) * half_v) * width,
                (np.abs(self.sin) * half_u + np.abs(self.cos) * half_v) * high,
            ],
            axis=1,
        )
        return turns, np.stack([self.u * width, self.v * height], axis=1), bows

    @staticmethod
    def reaches(order: np.ndarray, stamps: Stamps, y0: int, y1: int, height: int) -> np.ndarray:
        """Which of the stamps, in order, touch any of some rows, wrapped."""
        low = stamps.places[order, 1] - stamps.ways[order, 5] - y1
        high = stamps.places[order, 1] + stamps.ways[order, 5] - y0
        return np.floor(high / height) >= np.ceil(low / height)

    def places_within(self, context: Context, labels: np.ndarray) -> np.ndarray:
        """The place within the stamp that shows, 0 to 1; labels : the stamps, from 1, 0 where none shows."""
        along, across = self.facing / self.size_u, 1 / self.size_v
        ways = np.zeros((len(self.u) + 1, 2, 3))
        ways[1:, 0, 0], ways[1:, 0, 1] = along * self.cos, along * self.sin * self.aspect
        ways[1:, 1, 0], ways[1:, 1, 1] = -across * self.sin, across * self.cos * self.aspect
        ways[:, :, 2] = 0.5
        u, v, bows = (np.concatenate([[0.0], each]) for each in (self.u, self.v, self.bend))
        return ways_from_middles(context, labels, u, v, ways, bows)
