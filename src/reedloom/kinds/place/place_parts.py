"""What several place kinds share: laws that jumps break, their centre, and the tile's own places."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.places import tile_places
from reedloom.kit import Context, Length
from reedloom.kit.parameters import Parameter

JUMPS = {
    "tiles": "a coordinate jumps back where it has run through, and for a plain place that is the seam",
    "resolution": "a coordinate jumps back where it has run through, and a jump cannot be averaged over",
}
LOCAL = {"resolution": "each cell has a place of its own, which jumps from cell to cell"}

CENTRE: tuple[Parameter, ...] = (
    Length("centre_u", 0.5, (0, 1), (-64, 64), help="The centre from the left."),
    Length("centre_v", 0.5, (0, 1), (-64, 64), help="The centre from the top."),
)


def places_of(context: Context, place: np.ndarray | None) -> np.ndarray:
    """The tied place, or the tile's own."""
    return tile_places(context.width, context.height) if place is None else place
