"""Formula: an expression over up to eight maps of any kind, and the place."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.colours import luminance
from reedloom.kernels.jit import BAND_ROWS
from reedloom.kernels.places import tile_places
from reedloom.kit import (
    COLOUR,
    GREY,
    VECTOR,
    Change,
    Context,
    Float,
    FormulaText,
    Port,
    Role,
    kind,
)
from reedloom.kit.formulas import read_formula
from reedloom.kit.map_formulas import length
from reedloom.kit.programs import reader_of

INPUTS = ("a", "b", "c", "d", "f", "g", "h", "k")
"""The maps; 'e' is a number of its own."""
OWN = ("p", "q", "r", "s")
"""Numbers of the node itself, which can be dragged, and follow dials."""
NAMES = (*INPUTS, "u", "v", *OWN)


@kind(
    id="formula",
    label="Formula",
    family="tone",
    version=2,
    purpose="Computes each point by an expression over up to eight maps, colours or vectors, and the place.",
    inputs=(
        *(
            Port(name, GREY | COLOUR | VECTOR, optional=True, help=f"'{name}' in the formula; 0 if not tied.")
            for name in INPUTS
        ),
        Port(
            "place",
            VECTOR,
            optional=True,
            help="Gives u and v; the plain tile if nothing is tied.",
            role=Role.PLACE,
        ),
    ),
    outputs=(
        Port("map", GREY, help="The result as grey: a colour's luminance, a vector's length."),
        Port("colour", COLOUR, help="The result as a colour; a vector's parts are red and green."),
        Port("vector", VECTOR, help="The result as a vector; a grey one points to the right.", role=Role.WAY),
    ),
    parameters=(
        FormulaText(
            "formula",
            "0.5 + 0.5 * sin(2*pi * (3*u + 2*v))",
            names=NAMES,
            of_maps=True,
            tries=(
                "1 - a",
                "a * b",
                "smoothstep(0.4, 0.6, a)",
                "abs(fract(8 * u) - 0.5) * 2",
                "0.5 + 0.5 * sin(2*pi * (6*u + a))",
                "chance(floor(8*u) + 8*floor(8*v))",
                "colour(a, 0.5*a, 1 - a)",
            ),
            help="Arithmetic, comparisons, 'x if a > b else y', functions; of the inputs, u, v, and p to s.",
        ),
        *(
            Float(
                name, 0.0, (0, 1), group="Its own numbers", help=f"What '{name}' in the formula stands for."
            )
            for name in OWN
        ),
    ),
    exempt={
        "idle": "only the inputs that stand in the formula are read",
        "metric": "u and v are the place itself, in shares of the tile each way",
        "shift": "u and v are the place itself, which stays while the maps are shifted",
        "tiles": "a formula may be of anything, such as u alone, which ends at the seam",
        "resolution": "a formula may be of anything, such as a hard step, which no footprint is known of",
    },
    synonyms=("expression", "maths", "function", "calculate", "script", "vector", "colour"),
    changes={
        2: Change("Colours and vectors come in as they are; To grey makes of a colour what came before.")
    },
)
def formula(context: Context, *inputs: np.ndarray | None, **values: Any) -> dict[str, np.ndarray]:
    read = read_formula(values["formula"], frozenset(NAMES), True)
    *tied, place = inputs
    named = {name: map for name, map in zip(INPUTS, tied, strict=True) if name in read.names}
    maps = {name: map for name, map in named.items() if map is not None}
    wants_place = bool({"u", "v"} & read.names)
    own = {name: np.float32(values[name]) for name in OWN}
    own |= {name: np.float32(0) for name, map in named.items() if map is None}
    names = (*maps, *(("u", "v") if wants_place else ()))
    reader = reader_of(read, names, own, are_grey=all(map.ndim == 2 for map in maps.values()))
    outputs = {n: context.empty(CHANNELS[n]) for n in sorted(context.wanted)}

    def band(y0: int, y1: int) -> None:
        given = {name: _channels(context, map, y0, y1) for name, map in maps.items()}
        if wants_place:
            rows = range(y0, y1)
            where = tile_places(context.width, context.height, rows) if place is None else place[y0:y1]
            given |= {"u": where[..., :1], "v": where[..., 1:]}
        room = outputs["map"][y0:y1, :, None] if "map" in outputs else None
        result = reader.read(given, room)
        for name, out in outputs.items():
            if name != "map" or result is not room:
                out[y0:y1] = AS_OUTPUT[name](context, np.asarray(result, np.float32))

    context.bands(band, band_rows=BAND_ROWS if reader.in_one_pass else 1)
    return outputs


def _channels(context: Context, map: np.ndarray, y0: int, y1: int) -> np.ndarray:
    """Rows of a map with its channels last, vectors in widths."""
    rows = map[y0:y1]
    if rows.ndim == 2:
        return rows[..., None]
    return context.in_widths(rows) if rows.shape[2] == 2 else rows


def _as_grey(context: Context, result: np.ndarray) -> np.ndarray:
    if result.ndim == 0 or result.shape[-1] == 1:
        return result if result.ndim == 0 else result[..., 0]
    grey: np.ndarray = luminance(result) if result.shape[-1] == 3 else length(result)[..., 0]
    return grey


def _as_colour(context: Context, result: np.ndarray) -> np.ndarray:
    if result.ndim and result.shape[-1] == 2:
        return np.concatenate([result, np.zeros_like(result[..., :1])], axis=-1)
    return result


def _as_vector(context: Context, result: np.ndarray) -> np.ndarray:
    if result.ndim == 0 or result.shape[-1] == 1:
        result = result * np.array([1, 0], np.float32)
    return context.in_tiles(result[..., :2])


CHANNELS = {"map": 1, "colour": 3, "vector": 2}
AS_OUTPUT = {"map": _as_grey, "colour": _as_colour, "vector": _as_vector}
