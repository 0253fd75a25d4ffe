"""Cracks: a net of borders, broken up, with dead ends."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from reedloom.kernels.fractals import plan_octaves
from reedloom.kernels.hashing import hash_seed
from reedloom.kernels.jit import kernel
from reedloom.kernels.octaves import Reader
from reedloom.kernels.places import split_places, tile_places
from reedloom.kernels.quick import logarithm_of_two, power_of_two
from reedloom.kernels.reach import measure_footprint
from reedloom.kernels.splitting import average_fours
from reedloom.kinds.noise.cellular_noise import cellular_noise
from reedloom.kinds.noise.noise_parts import PLACE, cells_of, move_band, sum_rows
from reedloom.kinds.pattern.pattern_parts import PER_ELEMENT, repeated
from reedloom.kit import (
    GREY,
    ISLANDS,
    VECTOR,
    Change,
    Context,
    Count,
    Float,
    Length,
    Port,
    Role,
    Seed,
    driving,
    kind,
    multiplies,
)

NEEDED = {"random": "random", "id": "id", "element_place": "cell_place"}
"""What the cells must tell for an output."""
FINE_LINE = 12
"""Samples across, below which lines are drawn at twice the size and averaged."""
FINE_BEND = 4
"""Samples in a cell of the finest wandering, below which the same is done."""
BENDS = (4.0, 2.0, 0.55)
"""Octaves, lacunarity and gain of the wandering."""


def in_quarters(
    context: Context,
    compute: Callable[..., Mapping[str, np.ndarray]],
    maps: Mapping[str, np.ndarray | None],
    values: Mapping[str, Any],
) -> dict[str, np.ndarray]:
    """A kind's outputs at twice the size, averaged down; random values are taken as they are."""
    double = context.within(context.wanted, times=2)
    double.split_again = False
    fine = [
        None if m is None else split_places(m, 0, len(m)) if m.ndim == 3 else repeated(m, 1)
        for m in maps.values()
    ]
    outputs = compute(double, *fine, **values)
    whole = {"random", "element_place", "id"}
    return {
        name: np.ascontiguousarray(a[::2, ::2]) if name in whole else average_fours(a)
        for name, a in outputs.items()
    }


@kind(
    id="cracks",
    label="Cracks",
    family="pattern",
    version=2,
    purpose="A net of cracks, as whole or broken up as wanted, with dead ends: glaze, mud, old paint.",
    inputs=(
        PLACE,
        driving("width_map", multiplies("width"), "Multiplies the width, point by point."),
    ),
    outputs=(
        Port("profile", GREY, help="The depth of the cracks as height: 1 is whole, 0 the deepest."),
        Port("mask", GREY, help="1 in cracks."),
        Port("distance", GREY, help="Distance to the nearest line of the net, in tiles."),
        Port("random", GREY, help="One random value for each field.", exempt=PER_ELEMENT),
        Port(
            "element_place",
            VECTOR,
            help="The place within each field, 0.5 at its middle.",
            exempt=PER_ELEMENT,
            role=Role.WITHIN,
        ),
        Port("id", ISLANDS, help="The fields as islands, parted by cracks.", exempt=PER_ELEMENT),
    ),
    changes={2: Change("Along fine cracks fields have their own numbers now, not others'.")},
    parameters=(
        Count("cells", 7, (2, 16), (1, 1024), help="Fields across the tile."),
        Length("width", 0.008, (0.002, 0.04), (0, 0.5), help="How wide cracks are at their widest."),
        Float(
            "broken",
            0.4,
            (0, 1),
            (0, 1),
            help="How much of the net is missing; cracks thin out towards their ends.",
        ),
        Count("break_scale", 9, (2, 48), (1, 1024), help="How fine the breaks are, in cells across."),
        Length("wander", 0.02, (0, 0.03), (0, 1), help="How far the lines wander."),
        Count("wander_scale", 14, (2, 24), (1, 1024), help="How fine they wander, in cells across."),
        Float(
            "depth_shape", 1.0, (0.2, 4), (0.01, 64), help="Below 1 cracks are steep, above 1 like valleys."
        ),
        Seed(),
    ),
    synonyms=("fissures", "craquelure", "broken", "network", "mud", "veins"),
    exempt={"shift": "the net stays where it is"},
)
def cracks(
    context: Context,
    place: np.ndarray | None,
    width_map: np.ndarray | None,
    *,
    cells: int,
    width: float,
    broken: float,
    break_scale: int,
    wander: float,
    wander_scale: int,
    depth_shape: float,
    seed: int,
) -> dict[str, np.ndarray]:
    finest_bend = 1 / (wander_scale * BENDS[1] ** (BENDS[0] - 1)) if wander > 0 else 1.0
    if context.split_again and (
        width < FINE_LINE * context.sample or finest_bend < FINE_BEND * context.sample
    ):
        maps = {"place": place, "width_map": width_map}
        settings = {
            "cells": cells, "width": width, "broken": broken, "break_scale": break_scale, "wander": wander,
            "wander_scale": wander_scale, "depth_shape": depth_shape, "seed": seed,
        }  # fmt: skip
        return in_quarters(context, cracks.compute, maps, settings)
    size = context.width, context.height
    plain = Reader.over(context.width, context.height, place, 0.0, context.bands, context.aspect)
    bends = [
        sum_rows(
            plain,
            "gradient",
            plan_octaves(cells_of(context, wander_scale), *BENDS),
            hash_seed(seed, 40 + n),
            wander,
        )
        for n in (0, 1)
    ]
    breaks = sum_rows(
        plain,
        "gradient",
        plan_octaves(cells_of(context, break_scale), 2.0, 2.0, 0.5),
        hash_seed(seed, 50),
        0.5,
    )
    bent, half = context.empty(2), context.full(0.5)
    in_tiles = np.array([1, 1 / context.aspect], np.float32)

    def bend(y0: int, y1: int) -> None:
        start = tile_places(*size, range(y0, y1)) if place is None else place[y0:y1]
        move_band(start, bends, in_tiles, bent[y0:y1], y0)
        rows = half[y0:y1]
        breaks(1.0, rows, y0, y1)
        rows -= np.float32(broken)
        rows /= np.float32(0.25)
        rows += np.float32(0.5)
        np.clip(rows, 0, 1, out=rows)
        rows *= np.float32(width / 2)
        if width_map is not None:
            rows *= width_map[y0:y1]

    context.bands(bend)
    wanted = {"border"} | {NEEDED[name] for name in context.wanted & NEEDED.keys()}
    values = cellular_noise.defaults() | {"cells": cells, "seed": seed}
    found = cellular_noise.compute(context.within(wanted), bent, None, **values)
    distance = context.map_bands(lambda border: border * np.float32(1 / cells), found["border"])
    sample = measure_footprint(bent, context.bands, context.aspect)

    mask, profile, shape = context.empty(), context.empty(), np.float32(depth_shape)

    def sink(y0: int, y1: int) -> None:
        sink_crack_rows(*(map[y0:y1] for map in (distance, half, sample)), shape, mask[y0:y1], profile[y0:y1])

    context.bands(sink)
    outputs = {"mask": mask, "distance": distance, "profile": profile}
    if "random" in context.wanted:
        outputs["random"] = found["random"]
    if "element_place" in context.wanted:
        outputs["element_place"] = found["cell_place"]
    if "id" in context.wanted:
        outputs["id"] = context.map_bands(lambda number, covered: number * (covered < 0.5), found["id"], mask)
    return outputs


@kernel
def sink_crack_rows(distance, half, sample, shape, mask, profile):  # type: ignore[no-untyped-def]
    """How much of each sample is in a crack, and how deep that goes.

    Parameters
    ----------
    distance, half, sample : (n, W) float32
        To the middle line of the nearest crack, half that crack's width, and what a sample covers, in widths.
    shape : float32
        The power by which a crack rises to its rims, above 0.
    mask, profile : (n, W) float32
        Filled, 0 to 1.
    """
    zero, one, least = np.float32(0.0), np.float32(1.0), np.float32(1e-7)
    for y in range(mask.shape[0]):
        away, wide, cover, share, height = distance[y], half[y], sample[y], mask[y], profile[y]
        for x in range(share.shape[0]):
            # Thinner than a sample, a crack shows by the share of the sample that it fills.
            edge, most = max(cover[x], least), max(wide[x], zero)
            most = min(one, (most + most) / edge)
            share[x] = min(max((wide[x] - away[x]) / edge + np.float32(0.5), zero), most)
        for x in range(share.shape[0]):
            height[x] = min(max(away[x] / max(wide[x], least), zero), one)
        if shape != one:
            for x in range(share.shape[0]):
                rise = height[x]
                power = power_of_two(logarithm_of_two(rise) * shape)
                height[x] = power if rise > zero else zero
        for x in range(share.shape[0]):
            height[x] = one - share[x] * (one - height[x])
