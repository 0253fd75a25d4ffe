"""Sums of octaves of lattices at given places; tables are made when a sample is come to that needs one."""

from __future__ import annotations

import math
import threading
from collections.abc import Sequence

import numpy as np

from reedloom.kernels.lattice import Lattice
from reedloom.kernels.lattice_lanes import NUMBERS, WHOLES
from reedloom.kernels.lattice_reads import DONE, Octaves, Places, lay_octaves
from reedloom.kernels.splitting import FAINT


class PlacedSum:
    """Octaves of which several threads may lay bands.

    Parameters
    ----------
    lattices : k Lattices
    finenesses : (k, 4) float64
        As `lattice_reads.Octaves` has them.
    amounts : k numbers
        What octaves are multiplied by.
    evolution : float, optional
        In turns; None where each sample has its own.
    keep : bool
        Whether tables are kept for the next evaluation.
    """

    def __init__(
        self,
        lattices: Sequence[Lattice],
        finenesses: Sequence[Sequence[float]],
        amounts: Sequence[float],
        evolution: float | None,
        keep: bool,
    ) -> None:
        self._lattices, self._evolution, self._keep = lattices, evolution, keep
        self._finenesses, self._amounts = np.array(finenesses, float).reshape(-1, 4), np.array(amounts, float)
        count = len(lattices)
        self._tables: list[np.ndarray] = []  # held, since loops know just where they lie
        self._made = np.zeros((count, WHOLES), np.int64), np.zeros((count, NUMBERS), np.float32)
        self._times: dict[float, tuple[np.ndarray, np.ndarray]] = {}
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._lattices)

    def lay(self, places: Places, out: np.ndarray, amount: float = 1.0, begin: float = math.nan) -> None:
        """Lay rows of all octaves, times an amount.

        Parameters
        ----------
        places : Places
            Of these rows.
        out : (1, n, W) or (k, n, W) float32
            Filled: the sum, or each octave in its own.
        amount, begin : float
            What they are multiplied by, and what they are added to; no number for what there is in `out`.
        """
        times = self._times.get(amount) or self._times.setdefault(amount, self._multiplied(amount))
        start, missing = np.zeros(2, np.int64), 0
        while missing != DONE:
            octaves = Octaves(*self._made, *times)
            missing = lay_octaves(octaves, places, np.float32(begin), start, out)
            if missing != DONE:
                self._make(missing)

    def _multiplied(self, amount: float) -> tuple[np.ndarray, np.ndarray]:
        """How fine octaves are, so that faint ones are read once, and what they are multiplied by."""
        amounts, finenesses = self._amounts * amount, self._finenesses.copy()
        finenesses[np.abs(amounts) < FAINT, 3] = 0.0
        return finenesses, amounts.astype(np.float32)

    def _make(self, number: int) -> None:
        """Make an octave's table; others read what was made before until all of it is there."""
        corners = self._lattices[number].corners_at_places(self._evolution, self._keep)
        with self._lock:
            self._tables.append(corners.table)
            wholes, numbers = self._made[0].copy(), self._made[1].copy()
            wholes[number], numbers[number] = corners.wholes, corners.numbers
            self._made = wholes, numbers
