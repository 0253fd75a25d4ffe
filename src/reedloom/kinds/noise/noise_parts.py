"""Declarations that all noise kinds share, so that one wording serves them all."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from reedloom.kernels.fractals import Octave, plan_octaves, sum_deviation
from reedloom.kernels.grains import Scatter
from reedloom.kernels.hashing import hash_seed
from reedloom.kernels.jit import BAND_ROWS, read_only
from reedloom.kernels.octaves import DEVIATIONS, AddRows, Layer, Reader
from reedloom.kernels.places import move_rows
from reedloom.kernels.turned import Cosets, turned_by, ways
from reedloom.kinds.place.place_parts import places_of
from reedloom.kit import VECTOR, Angle, Context, Count, Float, Port, Role, Seed, Switch, adds_to, driving
from reedloom.kit.parameters import Parameter
from reedloom.kit.stops import Stop

MOST_CORNERS = 4096
"""Along a side of a turned lattice's table."""
PLACE = Port(
    "place",
    VECTOR,
    optional=True,
    help="Where to compute; the plain tile if nothing is tied.",
    role=Role.PLACE,
)
EVOLUTION_MAP = driving("evolution_map", adds_to("evolution"), "Added to the evolution, point by point.")
SEED = Seed()
EVOLUTION = Float(
    "evolution",
    0.0,
    (0, 1),
    help="Changes the noise without moving it; whole steps return to the start.",
    group="Arrangement",
)


def cells_across(default: int, most: int = 4096) -> tuple[Parameter, ...]:
    """The two counts that set a noise's scale."""
    down = "Cells from top to bottom; 0 keeps cells square."
    return (
        Count("cells", default, (1, 64), (1, most), help="Cells across the tile: more is finer."),
        Count("cells_down", 0, (0, 64), (0, most), help=down, former=("cells_v",)),
    )


def cells_of(context: Context, cells: int, cells_down: int = 0) -> tuple[int, int]:
    """Cells across and down; as many down as keep them square where no number is given."""
    return cells, cells_down or max(1, round(cells * context.aspect))


def octave_parameters(default: float) -> tuple[Parameter, ...]:
    """How finer octaves are added."""
    return (
        Float(
            "octaves",
            default,
            (1, 10),
            (1, 16),
            help="How many finer copies are added; a fraction fades the last in.",
        ),
        Float("lacunarity", 2.0, (1, 4), (0, 16), help="How much finer each octave is than the one before."),
    )


TURN = Angle(
    "turn",
    help="Turns the noise clockwise, by those angles at which its cells meet at the seam.",
    group="Arrangement",
)


_TURNS = {"turn": tuple(Stop(round(angle, 4), f"{angle:.4g}°") for angle, _, _ in ways())}


def turning_stops(values: Mapping[str, Any], aspect: float) -> dict[str, tuple[Stop, ...]]:
    """The angles by which a noise can be turned, which are the same whatever else is set."""
    return _TURNS


def turned_lattice(
    context: Context, turn: float, cells: int, cells_down: int = 0, most: int = MOST_CORNERS
) -> Cosets | None:
    """How a noise's lattice is turned, or None; where that is not as asked, the maker is told."""
    across, down = cells_of(context, cells, cells_down)
    cosets = turned_by(turn, across, down, context.aspect)
    angle = 0.0 if cosets is None else math.degrees(math.atan2(cosets.b, cosets.a))
    if abs((angle - turn + 180) % 360 - 180) > 1e-3:
        context.report(f"The turn is snapped to {angle:.4g}°, so that the tile closes.")
    if cosets is not None and max(cosets.table().columns, cosets.table().rows) > most:
        context.report("There are too many cells to be turned; the noise stays straight.")
        return None
    return cosets


def octaves_of(
    context: Context, cosets: Cosets | None, cells: int, cells_down: int, *manner: float
) -> tuple[Octave, ...]:
    """The octaves of a noise, in cells along the ways of its lattice; `manner` is that of `plan_octaves`."""
    first = cells_of(context, cells, cells_down) if cosets is None else (cosets.g, cosets.h)
    return plan_octaves(first, *manner)


def make_reader(
    context: Context,
    place: np.ndarray | None,
    evolution_map: np.ndarray | None,
    evolution: float,
    cosets: Cosets | None = None,
) -> Reader:
    """The reader for a noise kind's place and evolution, and how its lattice is turned."""
    moving = evolution if evolution_map is None else evolution_map + np.float32(evolution)
    return Reader.over(context.width, context.height, place, moving, context.bands, context.aspect, cosets)


SPREAD = 2.5
"""How many standard deviations reach from the middle to 0 or 1."""
GAIN = Float(
    "gain", 0.5, (0, 1), (0, 4), help="How strong each octave is against the one before: more is rougher."
)
CONTRAST = Float("contrast", 1.0, (0, 3), (0, 100), help="How far the noise departs from its middle.")
SIGNED = Switch("signed", False, help="Runs about 0 from -1 to 1 instead of about the middle from 0 to 1.")


def sum_layers(basis: str, plan: Sequence[Octave], seed: int, reach: float) -> list[Layer]:
    """The octaves of an fBm sum, scaled so that nearly all lies within ± reach."""
    scale = reach / (SPREAD * max(sum_deviation(plan, DEVIATIONS[basis]), 1e-9))
    return [
        Layer(hash_seed(seed, number), o.columns, o.rows, o.amplitude * o.share * scale)
        for number, o in enumerate(plan)
    ]


def sum_rows(reader: Reader, basis: str, plan: Sequence[Octave], seed: int, reach: float) -> AddRows:
    """A function that adds an fBm sum of octaves to rows; see `sum_layers`."""
    return reader.sum(basis, sum_layers(basis, plan, seed, reach))


def noise_map(
    context: Context,
    reader: Reader,
    basis: str,
    plan: Sequence[Octave],
    seed: int,
    *,
    contrast: float,
    signed: bool,
    fade: int = 0,
) -> np.ndarray:
    """An fBm sum as a map about 0.5 within 0..1, or signed about 0."""
    lay = reader.laid(basis, sum_layers(basis, plan, seed, contrast * (1.0 if signed else 0.5)), fade)
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        lay(1.0, 0.0 if signed else 0.5, out[y0:y1], y0, y1)

    # At places a band is one call, whose set-up counts.
    context.bands(band, band_rows=BAND_ROWS if reader.place is None else 2 * BAND_ROWS)
    return out


def moved_places(
    context: Context, place: np.ndarray | None, adds: Sequence[AddRows], amounts: np.ndarray
) -> np.ndarray:
    """Places moved by sums of octaves along u and along v, or by one along both, times an amount each."""
    start, out = places_of(context, place), context.empty(2)
    context.bands(lambda y0, y1: move_band(start[y0:y1], adds, amounts, out[y0:y1], y0))
    return out


def move_band(
    start: np.ndarray, adds: Sequence[AddRows], amounts: np.ndarray, out: np.ndarray, y0: int
) -> None:
    """Fill in the rows of `moved_places` from y0 on, from where they start: (n, W, 2) each."""
    rows, width, _ = start.shape
    ways = np.zeros((len(adds), rows, width), np.float32)
    for add, way in zip(adds, ways, strict=True):
        add(1.0, way, y0, y0 + rows)
    move_rows(read_only(start), ways[0], ways[-1], amounts, out)


SCATTERED_WORK = 8
"""How many times as long as usual a sample of scattered forms takes."""


def scatter_map(
    context: Context, reader: Reader, layers: Sequence[tuple[Scatter, float]], start: float
) -> np.ndarray:
    """A map of `start` and scattered forms, each times its amount."""
    start += sum(scatter.mean * amount for scatter, amount in layers)
    adds = [(amount, scatter.reader(reader)) for scatter, amount in layers if not scatter.is_lost(reader)]
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        rows = out[y0:y1]
        rows[...] = start
        for amount, add in adds:
            add(amount, rows, y0, y1)

    context.bands(band, work=SCATTERED_WORK)
    return out
