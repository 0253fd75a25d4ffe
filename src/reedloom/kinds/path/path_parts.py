"""What the kinds of paths share: their output and how corners become paths."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.points import VERTEX
from reedloom.kit import PATHS, Port

PATHS_OUT = Port("paths", PATHS, help="The paths.")
FIXED = {"shift": "the paths stay where they are"}


def make_paths(courses: list[tuple[np.ndarray, np.ndarray]]) -> np.ndarray:
    """Paths of even height and width through corners (u, v) in tiles; a closed one ends where it began."""
    paths = np.zeros(sum(len(u) for u, _ in courses), VERTEX)
    paths["height"] = paths["width"] = 1
    start = 0
    for number, (u, v) in enumerate(courses):
        part = paths[start : start + len(u)]
        part["path"], part["u"], part["v"] = number, u, v
        start += len(u)
    return paths
