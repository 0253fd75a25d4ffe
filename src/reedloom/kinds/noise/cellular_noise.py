"""Cellular noise: Worley's, with exact distances and what belongs to each cell."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.cells import CHEBYSHEV, EUCLID, MANHATTAN, MINKOWSKI, cell_points, cell_rows
from reedloom.kernels.fractals import Octave, plan_octaves
from reedloom.kernels.hashing import hash_seed
from reedloom.kernels.places import measure_footprint, tile_places
from reedloom.kinds.context import Context
from reedloom.kinds.declare import GREY, VECTOR, Choice, Float, Port, kind
from reedloom.kinds.noise.noise_parts import EVOLUTION, PLACE, SEED, cells_across, octave_parameters

METRICS = {"Euclid": EUCLID, "Manhattan": MANHATTAN, "Chebyshev": CHEBYSHEV, "Minkowski": MINKOWSKI}
MEANS = {"nearest": 0.44, "second": 0.72, "difference": 0.28, "border": 0.16, "random": 0.5}
"""What cells finer than a sample average to (measured at full jitter)."""
PER_CELL = "each cell has a place of its own, which jumps from cell to cell and cannot be averaged over"


@kind(
    id="cellular_noise",
    label="Cellular noise",
    family="noise",
    version=1,
    purpose="Cells around scattered points: plates, pebbles, cracks and skins.",
    inputs=(PLACE,),
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
            exempt={"resolution": PER_CELL, "tiles": PER_CELL},
        ),
        Port(
            "cell_centre",
            VECTOR,
            help="The place of the cell's point on the tile.",
            exempt={"resolution": PER_CELL, "tiles": PER_CELL},
        ),
    ),
    parameters=(
        *cells_across(8),
        Float("jitter", 1.0, (0, 1), (0, 1), help="How far points stray from a regular grid."),
        Choice(
            "metric",
            "Euclid",
            tuple(METRICS),
            help="How distance is measured: round, diamond or square cells.",
        ),
        Float(
            "power",
            3.0,
            (0.5, 8),
            (0.25, 32),
            label="Minkowski power",
            help="Between diamond (1), round (2) and square (large), for the Minkowski metric.",
        ),
        *octave_parameters(1),
        Float("gain", 0.5, (0, 1), (0, 4), help="How strong each finer octave of the distances is."),
        SEED,
        EVOLUTION,
    ),
    synonyms=("worley", "voronoi", "cells", "cracks", "stones", "scales"),
)
def cellular_noise(
    context: Context,
    place: np.ndarray | None,
    *,
    cells: int,
    cells_v: int,
    jitter: float,
    metric: str,
    power: float,
    octaves: float,
    lacunarity: float,
    gain: float,
    seed: int,
    evolution: float,
) -> dict[str, np.ndarray]:
    footprint = None if place is None else measure_footprint(place, context.bands)
    plan = plan_octaves((cells, cells_v or cells), octaves, lacunarity, gain)
    layers = [
        (o, cell_points(hash_seed(seed, n) if n else seed, o.columns, o.rows, jitter, evolution))
        for n, o in enumerate(plan)
    ]
    total = sum(o.amplitude * o.share for o in plan)
    outputs = {name: context.empty(2 if name.startswith("cell_") else 1) for name in sorted(context.wanted)}
    for name in ("nearest", "second", "difference", "border"):
        if name in outputs:
            outputs[name][...] = 0
    want_border = bool({"border", "random"} & context.wanted)

    def band(y0: int, y1: int) -> None:
        rows = tile_places(context.width, context.height, range(y0, y1)) if place is None else place[y0:y1]
        sample: Any = 1 / min(context.width, context.height) if footprint is None else footprint[y0:y1]
        for number, (octave, points) in enumerate(layers):
            found = np.empty((*rows.shape[:2], 8), np.float32)
            cell_rows(
                points,
                rows,
                np.float32(jitter),
                METRICS[metric],
                np.float32(power),
                want_border,
                found,
                0,
                len(rows),
            )
            _add_octave(
                outputs,
                slice(y0, y1),
                found,
                octave,
                octave.amplitude * octave.share / total,
                sample,
                number == 0,
            )
            if number == 0 and "cell_centre" in outputs:
                size = np.array([octave.columns, octave.rows], np.float32)
                outputs["cell_centre"][y0:y1] = (rows - found[..., 5:7] / size) % 1

    context.bands(band, band_rows=32)
    return outputs


def _add_octave(
    outputs: dict[str, np.ndarray],
    rows: slice,
    found: np.ndarray,
    octave: Octave,
    amount: float,
    sample: Any,
    first: bool,
) -> None:
    """Add one octave's distances, and take what belongs to cells from the first."""
    cells = np.float32(max(octave.columns, octave.rows)) * sample
    clear = np.clip(2 - 4 * cells, 0, 1).astype(np.float32)
    values = {
        "nearest": found[..., 0],
        "second": found[..., 1],
        "difference": found[..., 1] - found[..., 0],
        "border": found[..., 2],
    }
    for name, value in values.items():
        if name in outputs:
            mean = np.float32(MEANS[name])
            outputs[name][rows] += np.float32(amount) * (mean + clear * (value - mean))
    if not first:
        return
    if "random" in outputs:
        # A sample on a border carries the share of the cell beyond that its footprint covers.
        beyond = np.clip(0.5 - found[..., 2] / np.maximum(cells, 1e-6), 0, 0.5)
        value = found[..., 3] + beyond * (found[..., 4] - found[..., 3])
        outputs["random"][rows] = MEANS["random"] + clear * (value - MEANS["random"])
    if "cell_place" in outputs:
        outputs["cell_place"][rows] = found[..., 5:7] + np.float32(0.5)
