"""Draw paths: strokes along paths, as heights that pass over and under one another."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from reedloom.kernels.distance import signed_distance
from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.path_loops import lay_in_samples
from reedloom.kernels.points import is_closed, starts_of
from reedloom.kernels.stroke_pieces import Courses, Pieces
from reedloom.kernels.strokes import AREAS, Brush, Drawn, fill_areas, stroke_rows
from reedloom.kinds.height.island_parts import of_each
from reedloom.kinds.path.path_parts import PATHS_IN, set_in, shares_and_lengths
from reedloom.kinds.pattern.pattern_parts import PER_ELEMENT
from reedloom.kinds.shape.shape_parts import PROFILE, PROFILE_CURVE, Profile
from reedloom.kit import GREY, ISLANDS, Choice, Context, Float, Length, Port, Seed, kind

ORDER = PER_ELEMENT | {"metric": "where a path comes among all goes by how many there are"}
JOINS = ("over", "highest", "add")
CORNER_WORK = 16
"""How many times as long as a sample usually takes a corner of a path does."""


@kind(
    id="draw_paths",
    label="Draw paths",
    family="path",
    version=1,
    purpose="Draws a stroke along every path: cords, fibres, veins, furrows, each over those before it.",
    inputs=(PATHS_IN,),
    outputs=(
        Port("height", GREY, help="The strokes' heights, joined."),
        Port("mask", GREY, help="1 where a stroke is."),
        Port("along", GREY, help="How far along its path, 0 to 1.", exempt=PER_ELEMENT),
        Port(
            "across",
            GREY,
            help="Where across it, 0 at its left and 1 at its right.",
            exempt=PER_ELEMENT,
        ),
        Port("order", GREY, help="Where the path that shows comes among all, 1 the last.", exempt=ORDER),
        Port("distance", GREY, help="How far the nearest path's middle line is, in tiles."),
        Port("random", GREY, help="One random value for each path.", exempt=PER_ELEMENT),
        Port("id", ISLANDS, help="Which path shows.", exempt=PER_ELEMENT),
    ),
    parameters=(
        Length("width", 0.02, (0.001, 0.1), (0, 2), help="How wide a path of width 1 is drawn."),
        Float("thin_start", 0.0, (0, 1), (0, 1), help="Over which share of the path it widens from a point."),
        Float("thin_end", 0.0, (0, 1), (0, 1), help="Over which share of the path it thins to a point."),
        Choice("join", "over", JOINS, help="What shows where paths cross: the later one, or the higher."),
        Choice("ends", "round", ("round", "flat"), help="How strokes end where they do not thin out."),
        Float("resting", 0.0, (0, 1), (0, 1), help="How far strokes lie on top of those before them."),
        Float("base", 0.0, (0, 1), (0, 1), help="How high a rim stands, as a share of its stroke's height."),
        PROFILE,
        PROFILE_CURVE,
        Seed(),
    ),
    exempt={"shift": "paths are no map: they stay where they are"},
    synonyms=("stroke", "line", "curve", "cord", "hair", "fibre", "vein", "spline"),
    sample={"width": 0.06, "resting": 0.5},
)
def draw_paths(context: Context, paths: np.ndarray, **values: Any) -> dict[str, np.ndarray]:
    starts = starts_of(paths)
    courses = courses_of(context, paths, starts, values)
    profile = Profile.of(values, 1.0)
    areas = np.empty(AREAS)
    fill_areas(profile.number, profile.table, profile.summed, areas)
    brush = Brush(
        profile.number,
        profile.table,
        areas,
        JOINS.index(values["join"]),
        np.float32(values["resting"]),
        np.float32(values["base"]),
        values["ends"] == "flat",
        bool(context.wanted - {"height", "mask", "distance"}),
    )
    drawn = strokes(context, courses, brush)
    chances = unit_chances(values["seed"], paths["id"][starts[:-1]], 3)
    makers: dict[str, Callable[[], np.ndarray]] = {
        "height": lambda: drawn.height,
        "mask": lambda: drawn.cover,
        "along": lambda: drawn.along,
        "across": lambda: drawn.across,
        "order": lambda: of_each(context, drawn.labels, np.concatenate([[0.0], order_of(len(chances))])),
        "distance": lambda: distance_to(context, courses, brush),
        "random": lambda: of_each(context, drawn.labels, np.concatenate([[0.0], chances])),
        "id": lambda: drawn.labels,
    }
    return {name: makers[name]() for name in sorted(context.wanted)}


def strokes(context: Context, courses: Courses, brush: Brush) -> Drawn:
    """All paths drawn, band by band."""
    shape = (context.height, context.width)
    told = shape if brush.tells else (1, 1)
    height, cover = (np.zeros(shape, np.float32) for _ in range(2))
    along, across = (np.zeros(told, np.float32) for _ in range(2))
    drawn = Drawn(height, cover, along, across, np.zeros(told, np.int32))
    pieces = Pieces.of(courses, shape)

    def band(y0: int, y1: int) -> None:
        near = reaching(courses, y0, y1, context.height)
        if near.size:
            stroke_rows(near, courses, pieces, brush, drawn, y0, y1)

    context.bands(band, band_rows=32, work=CORNER_WORK * len(courses.x) / (context.width * context.height))
    return drawn


def distance_to(context: Context, courses: Courses, brush: Brush) -> np.ndarray:
    """How far the nearest path's middle line is, in tiles, from lines a sample to each side of it."""
    lines = courses._replace(radius=np.ones_like(courses.radius))
    cover = strokes(context, lines, brush._replace(join=0, tells=False)).cover
    away = signed_distance(cover, context.bands, aspect=context.aspect)
    away += np.float32(context.sample)
    return np.maximum(away, 0, out=away)


def order_of(count: int) -> np.ndarray:
    """Each path's share of the way from the first drawn to the last, which is at 1."""
    return np.arange(1, count + 1) / max(count, 1)


def courses_of(context: Context, paths: np.ndarray, starts: np.ndarray, values: dict[str, Any]) -> Courses:
    """Paths in samples, as wide as they are drawn."""
    along, lengths = shares_and_lengths(context, paths, starts)
    thin = set_in(along, values["thin_start"], values["thin_end"], lambda t: t * (2 - t))
    # Samples are square, but for what rounding to whole numbers of them leaves.
    radius = np.maximum(paths["width"], 0) * thin * values["width"] / 2 * context.width
    places, reach = np.empty((2, len(paths)), np.float32), np.empty((2, len(starts) - 1), np.float32)
    lay_in_samples(paths, starts, radius, (context.width, context.height), places, reach)
    # Copies, since a part of a single corner would be the paths' own, which cannot be written: another type.
    along, radius, height = (np.array(a, np.float32, order="C") for a in (along, radius, paths["height"]))
    x, y, top, bottom = *places, *reach
    length = (lengths * context.width).astype(np.float32)
    return Courses(starts, x, y, along, radius, height, length, is_closed(paths, starts), top, bottom)


def reaching(courses: Courses, y0: int, y1: int, height: int) -> np.ndarray:
    """The paths that reach rows y0 to y1 - 1 of a map, from whatever tile above or below."""
    first = np.ceil((courses.top - y1) / height)
    return np.flatnonzero(first <= np.floor((courses.bottom - y0) / height)).astype(np.int64)
