"""What the warps share: reading a map at displaced places, and their common values."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from reedloom.kernels.places import tile_places
from reedloom.kernels.reading import RowsOfPlaces, read_at
from reedloom.kit import Change, Choice, Context, Switch

READING = Choice(
    "reading",
    "smooth",
    ("smooth", "plain"),
    help="Between samples by splines, or by straight lines, which is faster.",
)
HELD = Change("A smooth reading stays within what it reads now, and rings no more at sharp edges.")
"""What became different when splines were held."""
CENTRED = Switch(
    "centred", True, help="Takes the mean away, so that more strength does not also shift the picture."
)


def move_map(context: Context, map: np.ndarray, by: RowsOfPlaces, reading: str) -> np.ndarray:
    """A map moved by a displacement in tiles, made by rows: what is there comes from against it."""

    def there(y0: int, y1: int) -> np.ndarray:
        return tile_places(context.width, context.height, range(y0, y1), by(y0, y1))

    return read_at(context.bands, map, there, "cubic" if reading == "smooth" else "linear")


def by_rows(function: Callable[..., np.ndarray], *maps: np.ndarray | None) -> RowsOfPlaces:
    """A displacement made from the rows of those maps that are there, when a band asks for it."""
    tied = [map for map in maps if map is not None]
    return lambda y0, y1: function(*(map[y0:y1] for map in tied))
