"""Cellular noise: Worley's, with exact distances and what belongs to each cell."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from reedloom.kernels.cells import CELL_LIMIT, METRICS, Cells, cell_points, cell_rows, swings
from reedloom.kernels.fractals import Octave
from reedloom.kernels.hashing import hash_seed
from reedloom.kernels.jit import read_only
from reedloom.kernels.octaves import CREASED, add_clear, clear_share
from reedloom.kernels.places import FINE, split_places, tile_places
from reedloom.kernels.reach import measure_footprint, usual_reach
from reedloom.kernels.splitting import FAINT, average_fours
from reedloom.kinds.noise.noise_parts import (
    EVOLUTION,
    EVOLUTION_MAP,
    PLACE,
    SEED,
    TURN,
    cells_across,
    octave_parameters,
    octaves_of,
    turned_lattice,
    turning_stops,
)
from reedloom.kinds.place.place_parts import places_of
from reedloom.kit import GREY, ISLANDS, VECTOR, Choice, Context, Float, Port, Role, kind

MEANS = {"nearest": 0.44, "second": 0.72, "difference": 0.28, "border": 0.16, "random": 0.5}
"""What cells finer than a sample average to (measured at full jitter)."""
SUMMED = frozenset({"nearest", "second", "difference", "border"})
"""Outputs to which each octave adds; the others are of the first."""
OF_CELLS = {"cell_place", "cell_centre", "id"}
PER_CELL = "each cell has a place of its own, which jumps from cell to cell and cannot be averaged over"


@kind(
    id="cellular_noise",
    label="Cellular noise",
    family="noise",
    version=1,
    purpose="Cells around scattered points: plates, pebbles, cracks and skins.",
    inputs=(PLACE, EVOLUTION_MAP),
    outputs=(
        Port("nearest", GREY, help="Distance to the nearest point, in cell widths."),
        Port("second", GREY, help="Distance to the second nearest point."),
        Port("difference", GREY, help="Second less nearest distance: 0 on the borders."),
        Port("border", GREY, help="Exact distance to the cell's border, in cell widths."),
        Port("random", GREY, help="One random value for each cell."),
        Port(
            "cell_place",
            VECTOR,
            help="Place within the cell, 0.5 at its point.",
            exempt={"resolution": PER_CELL},
            role=Role.WITHIN,
        ),
        Port(
            "cell_centre",
            VECTOR,
            help="The place of the cell's point on the tile.",
            exempt={"resolution": PER_CELL},
            role=Role.PLACE,
        ),
        Port("id", ISLANDS, help="The cells as islands.", exempt={"resolution": PER_CELL, "tiles": PER_CELL}),
    ),
    parameters=(
        *cells_across(8, most=CELL_LIMIT),
        Float("jitter", 1.0, (0, 1), (0, 1), help="How far points stray from a regular grid."),
        Choice(
            "metric",
            "Euclid",
            tuple(METRICS),
            help="How distance is measured: round, diamond or square cells.",
        ),
        Float(
            "minkowski_power",
            3.0,
            (0.5, 8),
            (0.25, 32),
            former=("power",),
            help="Between diamond (1), round (2) and square (large), for the Minkowski metric.",
            shown_if={"metric": "Minkowski"},
        ),
        *octave_parameters(1),
        Float("gain", 0.5, (0, 1), (0, 4), help="How strong each finer octave of the distances is."),
        SEED,
        EVOLUTION,
        TURN,
    ),
    stops=turning_stops,
    synonyms=("worley", "voronoi", "cells", "cracks", "stones", "scales"),
)
def cellular_noise(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    *,
    cells: int,
    cells_down: int,
    jitter: float,
    metric: str,
    minkowski_power: float,
    octaves: float,
    lacunarity: float,
    gain: float,
    seed: int,
    evolution: float,
    turn: float,
) -> dict[str, np.ndarray]:
    cosets = turned_lattice(context, turn, cells, cells_down, CELL_LIMIT)
    place = place if cosets is None else places_of(context, place)
    footprint = None if place is None else measure_footprint(place, context.bands, context.aspect)
    aspect = context.aspect
    if cosets is not None and place is not None and footprint is not None:
        place, footprint, aspect = cosets.among(place, footprint)
    plan = octaves_of(context, cosets, cells, cells_down, octaves, lacunarity, gain)
    layers = []
    turned = [None if cosets is None else cosets.finer(octave.columns) for octave in plan]
    plan = tuple(
        octave if c is None else replace(octave, columns=c.columns, rows=c.rows)
        for octave, c in zip(plan, turned, strict=True)
    )
    for number, octave in enumerate(plan):
        fits = max(octave.columns, octave.rows) <= CELL_LIMIT
        octave_seed = hash_seed(seed, number) if number else seed
        searched = None
        if fits:
            points = cell_points(octave_seed, octave.columns, octave.rows, jitter, turned[number])
            moving = evolution if evolution_map is None else evolution_map
            searched = Cells.of(points, jitter, METRICS[metric], minkowski_power, moving)
        layers.append((octave, searched))
    total = sum(o.amplitude * o.share for o in plan)
    outputs = {name: context.empty(2 if name.startswith("cell_") else 1) for name in sorted(context.wanted)}
    for name in SUMMED & outputs.keys():
        outputs[name][...] = MEANS[name]
    want_second = bool({"second", "difference"} & context.wanted)
    want_own = bool(context.wanted - {"nearest", "second", "difference", "border"})
    want_border = bool({"border", "random"} & context.wanted)

    usual = footprint_of(context, footprint)
    strong = [
        usual * max(o.columns, o.rows / aspect) if o.amplitude * o.share > FAINT * total else 0.0
        for o in plan
    ]
    # Beside octaves that are fine, one counts as such by the creases between its cells, which are finer.
    limit = FINE / CREASED if max(strong) > FINE else FINE
    is_fine = [cells > limit for cells in strong]
    parts = [[n for n, fine in enumerate(is_fine) if fine is wanted] for wanted in (False, True)]

    first = layers[0][1]
    ids = np.ones(1, np.float32) if first is None or "id" not in outputs else _ids_of(first.points)

    still = swings(evolution)

    def band(y0: int, y1: int) -> None:
        rows = {name: array[y0:y1] for name, array in outputs.items()}
        for numbers, fine in zip(parts, (False, True), strict=True):
            if not numbers:
                continue
            places, sample = _band_places(context, place, footprint, y0, y1, fine)
            swing = still
            if evolution_map is not None:
                moving = evolution_map[y0:y1] + np.float32(evolution)
                swing = swings(np.repeat(np.repeat(moving, 2, axis=0), 2, axis=1) if fine else moving)
            if not fine:
                fill(rows, numbers, places, sample, swing)
                continue
            split = {n: np.zeros((*places.shape[:2], *a.shape[2:]), np.float32) for n, a in rows.items()}
            fill(split, numbers, places, sample, swing)
            for name, made in split.items():
                if name in SUMMED:
                    rows[name] += average_fours(made)
                elif 0 in numbers:
                    # What belongs to one cell cannot be averaged over several; it is taken as it is.
                    rows[name][...] = made[::2, ::2] if name in OF_CELLS else average_fours(made)

    def fill(
        rows: dict[str, np.ndarray],
        numbers: list[int],
        places: np.ndarray,
        sample: np.ndarray,
        swing: np.ndarray,
    ) -> None:
        for number in numbers:
            octave, searched = layers[number]
            amount = octave.amplitude * octave.share / total
            if searched is None:
                continue
            found = np.empty((8, *places.shape[:2]), np.float32)
            cell_rows(
                searched, read_only(places), swing, want_second, want_border, want_own, found, 0, len(places)
            )
            _add_octave(rows, found, octave, amount, sample, number == 0)
            if number == 0 and "id" in rows:
                ids.take(found[7].astype(np.intp), out=rows["id"], mode="clip")
            if number == 0 and "cell_centre" in rows:
                centre = np.empty_like(places)
                for axis, count in enumerate((octave.columns, octave.rows)):
                    np.subtract(places[..., axis], found[5 + axis] / np.float32(count), out=centre[..., axis])
                centre = centre if cosets is None else cosets.places_back(centre)
                np.subtract(centre, np.floor(centre), out=rows["cell_centre"])

    context.bands(band, band_rows=32)
    if "id" in outputs:
        outputs["id"] = outputs["id"].astype(np.int32)
    return outputs


def _ids_of(points: np.ndarray) -> np.ndarray:
    """The ids of cells by their numbers: from 1 up, in the order of their random values."""
    numbers, first = np.unique(points[..., 4].astype(np.intp), return_index=True)
    ids = np.zeros(numbers[-1] + 1, np.float32)
    ids[numbers] = np.unique(points[..., 2].reshape(-1)[first], return_inverse=True)[1] + 1
    return ids


def footprint_of(context: Context, footprint: np.ndarray | None) -> float:
    """What most samples cover of the tile."""
    return context.sample if footprint is None else usual_reach(footprint)


def _band_places(
    context: Context, place: np.ndarray | None, footprint: np.ndarray | None, y0: int, y1: int, fine: bool
) -> tuple[np.ndarray, np.ndarray]:
    """A band's places and how much of the tile each, or all, cover; samples cut into four if `fine`."""
    times = 2 if fine else 1
    if place is None or footprint is None:
        width, height = context.width * times, context.height * times
        return tile_places(width, height, range(y0 * times, y1 * times)), np.full(
            (1, 1), 1 / min(width, height), np.float32
        )
    if not fine:
        return place[y0:y1], footprint[y0:y1]
    return split_places(place, y0, y1), np.repeat(np.repeat(footprint[y0:y1] / 2, 2, axis=0), 2, axis=1)


def _add_octave(
    rows: dict[str, np.ndarray],
    found: np.ndarray,
    octave: Octave,
    amount: float,
    sample: np.ndarray,
    first: bool,
) -> None:
    """Add one octave's distances, and take what belongs to cells from the first."""
    finest = max(octave.columns, octave.rows)
    for name, number in (("nearest", 0), ("second", 1), ("difference", 1), ("border", 2)):
        if name in rows:
            value = found[number] - found[0] if name == "difference" else found[number]
            numbers = map(np.float32, (finest, MEANS[name], amount))
            add_clear(*numbers, sample, value, rows[name])
    if not first:
        return
    if "random" in rows:
        # A sample on a border carries the share of the cell beyond that its footprint covers.
        beyond = np.clip(0.5 - found[2] / np.maximum(finest * sample, 1e-6), 0, 0.5)
        value = found[3] + beyond * (found[4] - found[3])
        rows["random"][...] = MEANS["random"] + clear_share(finest, sample) * (value - MEANS["random"])
    if "cell_place" in rows:
        for axis in (0, 1):
            np.add(found[5 + axis], np.float32(0.5), out=rows["cell_place"][..., axis])
