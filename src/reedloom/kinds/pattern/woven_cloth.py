"""Woven cloth: yarns over and under by any small binding draft."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.cloth import Cloth, Yarns, cross_yarns
from reedloom.kernels.elements import find_borders
from reedloom.kernels.hashing import unit_lattice
from reedloom.kernels.reach import usual_reach
from reedloom.kinds.pattern.pattern_parts import (
    FIXED,
    PER_ELEMENT,
    PLACE,
    covered_by,
    empty_outputs,
    places_about,
    refine,
    splits_for,
)
from reedloom.kinds.shape.shape_parts import sample_size
from reedloom.kit import GREY, ISLANDS, VECTOR, Choice, Context, Count, Draft, Float, Port, Role, Seed, kind

DRAFTS = {
    "plain": ("#.", ".#"),
    "twill": ("##..", ".##.", "..##", "#..#"),
    "satin": ("#....", "..#..", "....#", ".#...", "...#."),
    "basket": ("##..", "##..", "..##", "..##"),
}
"""Binding drafts, a row of weft each: # where the warp lies above."""


@kind(
    id="woven_cloth",
    label="Woven cloth",
    family="pattern",
    version=1,
    purpose="Yarns that really pass over and under one another, by any small binding draft.",
    inputs=(PLACE,),
    outputs=(
        Port("profile", GREY, help="The height of the yarns."),
        Port("mask", GREY, help="1 on yarns, 0 in the holes between."),
        Port("edge", GREY, help="Distance to the edge of the yarn on top, in tiles; below 0 in the holes."),
        Port("warp", GREY, help="1 where a warp yarn (running down) lies above.", exempt=PER_ELEMENT),
        Port("random", GREY, help="One random value for each yarn.", exempt=PER_ELEMENT),
        Port(
            "element_place",
            VECTOR,
            help="Along the yarn (u) and across it (v).",
            exempt=PER_ELEMENT,
            role=Role.WITHIN,
        ),
        Port("id", ISLANDS, help="The yarns as islands.", exempt=PER_ELEMENT),
    ),
    parameters=(
        Choice("binding", "plain", (*DRAFTS, "own draft"), help="How the yarns cross."),
        Draft(
            "draft",
            ("##..", ".##.", "..##", "#..#"),
            help="Your own draft: a filled square is warp above weft.",
            shown_if={"binding": "own draft"},
        ),
        Count(
            "warp_count", 24, (2, 64), (1, 2048), help="Yarns that run down, side by side across the tile."
        ),
        Count("weft_count", 24, (2, 64), (1, 2048), help="Yarns that run across."),
        Float("yarn_width", 0.9, (0.3, 1), (0.05, 1), help="The share of its room that a yarn takes."),
        Float("roundness", 1.0, (0, 1), (0, 1), help="From flat ribbons (0) to round yarns (1)."),
        Float("bow", 0.5, (0, 1), (0, 2), help="How far yarns rise and dive at the crossings."),
        Float("twist", 0.25, (0, 1), (0, 1), help="How deep the grooves of the yarn's twist are."),
        Count("twists", 5, (1, 12), (1, 64), help="Grooves between two crossings."),
        Float("unevenness", 0.2, (0, 1), (0, 1), help="How different in width and height yarns are."),
        Seed(),
    ),
    exempt=FIXED,
    synonyms=("fabric", "textile", "linen", "twill", "satin", "denim", "canvas"),
    sample={"warp_count": 8, "weft_count": 8},
)
def woven_cloth(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    place = inputs[0]
    draft = DRAFTS.get(values["binding"], values["draft"])
    above = np.array([[c == "#" for c in row] for row in draft])
    warps, wefts = (
        -(-values[name] // n) * n
        for name, n in (("warp_count", above.shape[1]), ("weft_count", above.shape[0]))
    )
    if (warps, wefts) != (values["warp_count"], values["weft_count"]):
        context.report(f"{warps} by {wefts} yarns are a whole number of drafts.")
    above = np.tile(above, (wefts // above.shape[0], warps // above.shape[1]))
    sample = sample_size(context, place)
    seed = values["seed"]
    chance = [unit_lattice(seed, n, 1, 20 + k)[0] for k, n in enumerate((warps, wefts))]
    outputs = empty_outputs(context)
    splits = splits_for(usual_reach(sample), 1.0, 1 / max(warps, wefts))

    yarns = Yarns(*(np.float32(values["yarn_width" if name == "width" else name]) for name in Yarns._fields))

    def look(places: np.ndarray, reach: np.ndarray) -> dict[str, np.ndarray]:
        found = Cloth.empty(places.size // 2)
        cross_yarns(places.reshape(-1, 2), reach, above, (chance[0], chance[1]), context.aspect, yarns, found)
        return {
            "profile": found.height,
            "mask": found.cover,
            "warp": found.over,
            "random": found.chance,
            "element_place": np.stack([found.along, found.across], axis=-1),
            "edge": found.inward,
            "number": found.number,
        }

    def band(y0: int, y1: int) -> None:
        rows, width = y1 - y0, context.width
        covered = covered_by(sample, y0, y1)
        about = np.arange(y0 - 1, y1 + 1) % context.height
        around = covered if place is None else sample[about].reshape(-1)
        here = look(places_about(context, place, y0, y1, 1), around)
        here = {name: array.reshape(rows + 2, width, *array.shape[1:]) for name, array in here.items()}
        part = {name: array[1:-1] for name, array in here.items()}
        # From the mask before it is refined, which it is only if it is asked for.
        part["id"] = np.where(part["mask"] >= 0.5, part["number"] + 1, 0)
        if splits and outputs.keys() & {"profile", "mask", "edge"}:
            mask = part["mask"]
            edge = np.empty((rows, width), np.bool_)
            find_borders(here["number"].reshape(-1), edge)
            edge |= (mask > 0) & (mask < 1)
            seen = {name: part[name] for name in ("profile", "mask", "edge")}
            refine(context, place, y0, splits, edge, covered, seen, look)
        for name, array in outputs.items():
            array[y0:y1] = part[name]

    context.bands(band, band_rows=32)
    return outputs
