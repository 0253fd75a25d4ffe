"""Every kind at settings and with inputs from all over their ranges, since defaults hide what is slow.

The settings are drawn anew from the declarations by the kind's own name, and so are the same in each run.
"""

from __future__ import annotations

import random
import statistics
from collections.abc import Iterator

from benchmarks.timing import Row, best_of, limited
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from reedloom.kit.kind import Kind, run_kind
from reedloom.laws.draws import varied_inputs, varied_values

SIZE = (512, 512)
DRAWN = 12
"""Settings of a kind that are tried."""
MEDIAN, MOST = 0.15, 0.35
"""Seconds that half of the drags of a weave may take, and nine of ten: no kind alone may take longer."""


def rows() -> Iterator[Row]:
    """Two rows for each kind: what half of its settings take at most, and what any of them does."""
    for kind in built_in_kinds():
        taken = sorted(_seconds_of(kind))
        yield limited(f"{kind.id}: half of {DRAWN} settings, 512²", statistics.median(taken), MEDIAN)
        yield limited(f"{kind.id}: the slowest of {DRAWN} settings, 512²", taken[-1], MOST)


def _seconds_of(kind: Kind) -> Iterator[float]:
    chance = random.Random(f"{kind.id} at any setting")
    wanted = frozenset(port.name for port in kind.outputs)
    for _ in range(DRAWN):
        inputs, values = varied_inputs(kind, *SIZE, chance, len(kind.inputs)), varied_values(kind, chance)
        yield best_of(lambda i=inputs, v=values: run_kind(kind, Context(*SIZE, wanted=wanted), i, v), 2)  # type: ignore[misc]
