"""Drawn paths: drawn and edited by hand over the flat view."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.knots import through_knots
from reedloom.kernels.points import VERTEX
from reedloom.kinds.path.path_parts import FIXED, PATHS_OUT
from reedloom.kit import Context, DrawnPaths, kind
from reedloom.kit.parameters.drawn import Drawn

PATHS = DrawnPaths("paths", (), help="The paths, each with its knots; draw and move them in the flat view.")
SKETCH = (
    ((-0.1, 0.35), (0.2, 0.2), (0.45, 0.5), (0.7, 0.25), (0.9, 0.35)),
    ((0.3, 0.7, 1), (0.62, 0.72), (0.6, 0.93), (0.38, 0.9), (0.3, 0.7, 1)),
)


@kind(
    id="drawn_path",
    label="Drawn paths",
    family="path",
    version=1,
    purpose="Paths that you draw by hand over the flat view, knot by knot or freely.",
    outputs=(PATHS_OUT,),
    parameters=(PATHS,),
    exempt=FIXED,
    synonyms=("pen", "spline", "freehand", "sketch", "polyline", "line", "curve", "stroke"),
    sample={"paths": PATHS.check(SKETCH)},
)
def drawn_path(context: Context, paths: Drawn) -> np.ndarray:
    if not paths:
        context.report("Nothing is drawn yet; show the flat view and draw over it.")
    knots, sharp = knots_of(paths)
    return through_knots(knots, sharp, context.aspect)[0]


def knots_of(paths: Drawn) -> tuple[np.ndarray, np.ndarray]:
    """A `DrawnPaths` value's knots as an array of `VERTEX`, and how sharp each is."""
    numbers = np.array([knot for path in paths for knot in path], np.float64).reshape(-1, 5)
    knots = np.zeros(len(numbers), VERTEX)
    knots["path"] = knots["id"] = np.repeat(np.arange(len(paths)), [len(path) for path in paths])
    for column, name in ((0, "u"), (1, "v"), (3, "width"), (4, "height")):
        knots[name] = numbers[:, column]
    return knots, numbers[:, 2]
