"""Formula: an expression over up to four maps and the place."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.places import tile_places
from reedloom.kit import GREY, VECTOR, Context, FormulaText, Port, Role, kind
from reedloom.kit.formulas import read_formula

NAMES = ("a", "b", "c", "d", "u", "v")


@kind(
    id="formula",
    label="Formula",
    family="tone",
    version=1,
    purpose="Computes each point by an expression over up to four maps and the place.",
    inputs=(
        *(
            Port(name, GREY, optional=True, help=f"'{name}' in the formula; 0 if nothing is tied.")
            for name in "abcd"
        ),
        Port(
            "place",
            VECTOR,
            optional=True,
            help="Gives u and v; the plain tile if nothing is tied.",
            role=Role.PLACE,
        ),
    ),
    outputs=(Port("map", GREY),),
    parameters=(
        FormulaText(
            "formula",
            "0.5 + 0.5 * sin(2*pi * (3*u + 2*v))",
            names=NAMES,
            tries=(
                "1 - a",
                "a * b",
                "smoothstep(0.4, 0.6, a)",
                "abs(fract(8 * u) - 0.5) * 2",
                "0.5 + 0.5 * sin(2*pi * (6*u + a))",
            ),
            help="Arithmetic, comparisons, 'x if a > b else y', and functions of a, b, c, d, u and v.",
        ),
    ),
    exempt={
        "idle": "only the inputs that stand in the formula are read",
        "metric": "u and v are the place itself, in shares of the tile each way",
        "shift": "u and v are the place itself, which stays while the maps are shifted",
        "tiles": "a formula may be of anything, such as u alone, which ends at the seam",
        "resolution": "a formula may be of anything, such as a hard step, which no footprint is known of",
    },
    synonyms=("expression", "maths", "function", "calculate", "script"),
)
def formula(
    context: Context,
    a: np.ndarray | None,
    b: np.ndarray | None,
    c: np.ndarray | None,
    d: np.ndarray | None,
    place: np.ndarray | None,
    *,
    formula: str,
) -> np.ndarray:
    read = read_formula(formula, frozenset(NAMES))
    maps = {name: map for name, map in zip("abcd", (a, b, c, d), strict=True) if name in read.names}
    wants_place = bool({"u", "v"} & read.names)
    out = context.empty()

    def band(y0: int, y1: int) -> None:
        values = {name: np.float32(0) if map is None else map[y0:y1] for name, map in maps.items()}
        if wants_place:
            rows = range(y0, y1)
            where = tile_places(context.width, context.height, rows) if place is None else place[y0:y1]
            values |= {"u": where[..., 0], "v": where[..., 1]}
        out[y0:y1] = read(values)

    context.bands(band, band_rows=max(1, 2**15 // context.width))
    return out
