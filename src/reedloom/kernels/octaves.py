"""Reads one noise octave after another into a band of rows, on the tile's grid or at given places.

A `Reader` is made once per evaluation; `reader.basis(...)` prepares one octave and gives back a
function that adds rows of it. So sums of octaves know nothing of lattices, cells or places.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from reedloom.kernels.cells import EUCLID, cell_points, cell_rows
from reedloom.kernels.lattice import (
    GRADIENT_DEVIATION,
    VALUE_DEVIATION,
    Lattice,
    add_lattice_places,
    add_lattice_rows,
    add_turning_places,
    gradient_lattice,
    lattice_phases,
    octave_weight,
    value_lattice,
)
from reedloom.kernels.places import measure_footprint, tile_places

AddRows = Callable[[float, np.ndarray, int, int], None]
"""``add(amount, out, y0, y1)``: add rows y0..y1 of an octave, times amount, to the band ``out``."""

DEVIATIONS = {"gradient": GRADIENT_DEVIATION, "value": VALUE_DEVIATION, "cellular": 0.245}
"""Standard deviation of one octave of each basis (measured)."""
CELLULAR_MEAN = 0.48
"""Mean distance to the nearest point, in cell widths (measured with full jitter)."""


@dataclass(slots=True)
class Reader:
    """Where noise is read.

    Attributes
    ----------
    place : (H, W, 2) float32 or None
        Tile units; the tile's own grid when None.
    evolution : float or (H, W) float32
        The third coordinate; a map gives each sample its own.
    """

    width: int
    height: int
    place: np.ndarray | None
    evolution: float | np.ndarray
    footprint: np.ndarray

    @classmethod
    def over(
        cls,
        width: int,
        height: int,
        place: np.ndarray | None,
        evolution: float | np.ndarray,
        bands: Callable[..., None],
    ) -> Reader:
        """A reader with its footprint measured, band by band."""
        if place is None and isinstance(evolution, float):
            return cls(width, height, None, evolution, np.empty((0, 0), np.float32))
        if place is None:
            place = tile_places(width, height)
            footprint = np.full((height, width), 1 / min(width, height), np.float32)
        else:
            footprint = measure_footprint(place, bands)
        return cls(width, height, place, evolution, footprint)

    @property
    def finest(self) -> float:
        """Octaves with more cells than this lie below every sample's reach."""
        least = self.footprint.min() if self.footprint.size else 1 / min(self.width, self.height)
        return float(0.6 / max(least, 1e-6))

    def basis(self, name: str, seed: int, columns: int, rows: int) -> AddRows:
        """Prepare one octave of "gradient", "value" or "cellular" noise, centred on 0."""
        if name == "cellular":
            return self._cellular(seed, columns, rows)
        if isinstance(self.evolution, np.ndarray):
            return self._turning(seed, columns, rows, name == "value")
        make = value_lattice if name == "value" else gradient_lattice
        return self._lattice(make(seed, columns, rows, self.evolution))

    def _lattice(self, lattice: Lattice) -> AddRows:
        planes = np.ascontiguousarray(lattice.planes, np.float32)
        if self.place is not None:
            place, footprint = self.place, self.footprint

            def add_places(amount: float, out: np.ndarray, y0: int, y1: int) -> None:
                add_lattice_places(planes, place, footprint, np.float32(amount), out, y0, y1)

            return add_places
        columns, rows = lattice.cells
        weight = octave_weight(np.float32(max(columns / self.width, rows / self.height)))
        u = (np.arange(self.width) + 0.5) * columns / self.width
        cell = np.floor(u).astype(np.int32)
        t = (u - cell).astype(np.float32)
        faded = t * t * t * (t * (t * 6 - 15) + 10)

        def add_rows(amount: float, out: np.ndarray, y0: int, y1: int) -> None:
            if weight > 0:
                add_lattice_rows(
                    planes, cell, t, faded, self.height, np.float32(weight * amount), out, y0, y1
                )

        return add_rows

    def _turning(self, seed: int, columns: int, rows: int, value_noise: bool) -> AddRows:
        phases = lattice_phases(seed, columns, rows, value_noise)

        def add(amount: float, out: np.ndarray, y0: int, y1: int) -> None:
            add_turning_places(
                phases,
                value_noise,
                self.place,
                self.footprint,
                self.evolution,
                np.float32(amount),
                out,
                y0,
                y1,
            )

        return add

    def _cellular(self, seed: int, columns: int, rows: int) -> AddRows:
        evolution = self.evolution if isinstance(self.evolution, float) else float(self.evolution.mean())
        points = cell_points(seed, columns, rows, 1.0, evolution)
        finest = max(columns, rows)

        def add(amount: float, out: np.ndarray, y0: int, y1: int) -> None:
            place = (
                tile_places(self.width, self.height, range(y0, y1))
                if self.place is None
                else self.place[y0:y1]
            )
            found = np.empty((y1 - y0, self.width, 8), np.float32)
            cell_rows(points, place, np.float32(1), EUCLID, np.float32(2), False, found, 0, y1 - y0)
            if self.footprint.size:
                weight = np.clip(2 - finest * self.footprint[y0:y1] * 4, 0, 1)
            else:
                weight = np.float32(np.clip(2 - finest / min(self.width, self.height) * 4, 0, 1))
            out += (found[..., 0] - np.float32(CELLULAR_MEAN)) * weight * np.float32(amount)

        return add
