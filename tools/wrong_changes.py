"""All small wrong changes; `tools/mutants.py` tries them."""

from __future__ import annotations

import wrong_elsewhere
import wrong_kernels
import wrong_kinds
import wrong_loom
import wrong_maps
import wrong_noise
from mutant import Mutant

MUTANTS: tuple[Mutant, ...] = (
    *wrong_kernels.MUTANTS,
    *wrong_maps.MUTANTS,
    *wrong_noise.MUTANTS,
    *wrong_kinds.MUTANTS,
    *wrong_loom.MUTANTS,
    *wrong_elsewhere.MUTANTS,
)
