"""Lays octaves of lattices at given places, for checks of the loop that does so."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from reedloom.kernels.lattice import PlacedCorners
from reedloom.kernels.lattice_reads import DONE, NOT_GIVEN, Octaves, Places, lay_octaves

ONCE = 0.0
"""The limit of a fineness where samples are read once however fine an octave is."""


def lay(
    corners: PlacedCorners | Sequence[PlacedCorners],
    finest: float | Sequence[Sequence[float]],
    place: np.ndarray,
    reach: np.ndarray | None,
    amount: float | Sequence[float] = 1.0,
    *,
    evolution: np.ndarray | None = None,
    rows: tuple[int, int] | None = None,
    aspect: float = 1.0,
    beside: tuple[float, float] = (0.0, 0.0),
    begin: float = 0.0,
    apart: bool = False,
) -> np.ndarray:
    """One octave, or several, in rows of places (H, W, 2); read once, or as finenesses tell."""
    octaves = [corners] if isinstance(corners, PlacedCorners) else list(corners)
    finenesses = [(finest, finest, finest, ONCE)] if isinstance(finest, float) else finest
    y0, y1 = rows or (0, len(place))
    out = np.full((len(octaves) if apart else 1, y1 - y0, place.shape[1]), np.nan, np.float32)
    told = Octaves(
        np.stack([octave.wholes for octave in octaves]),
        np.stack([octave.numbers for octave in octaves]),
        np.array(finenesses, float),
        np.broadcast_to(np.float32(amount), len(octaves)).astype(np.float32),
    )
    where = Places(
        place,
        y0,
        np.float32(aspect),
        NOT_GIVEN if reach is None else reach[y0:y1],
        NOT_GIVEN if evolution is None else evolution[y0:y1],
        np.array(beside, np.float32),
    )
    assert lay_octaves(told, where, np.float32(begin), np.zeros(2, np.int64), out) == DONE
    return out if apart else out[0]
