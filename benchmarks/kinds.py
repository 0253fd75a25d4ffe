"""Every node kind at 2048², so that a slow one is seen: one row each, from the declarations."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.timing import Row, best_of
from reedloom.kernels.jit import run_bands
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.context import Context
from reedloom.kit.kind import Kind, run_kind
from reedloom.laws.draws import make_inputs

SIZE = 2048
NOISE_RATE = 40e6
"""Samples a second that each octave of a noise is to reach."""
TIMES = {"flow_noise": 2, "fibre_noise": 2, "haze_noise": 2}
"""Kinds that read every octave more than once: for two directions, two layers, or to bend themselves."""
PURE = {"tone", "combine"}
"""Families whose kinds do little more than read and write memory."""
MEASURED = {"mix_materials", "normalise", "threshold", "band", "steps", "fold_tone", "formula"}
"""Kinds of those families that look at neighbours, measure first, or compute what a maker writes."""


def rows() -> Iterator[Row]:
    """One row for each kind."""
    seconds_a_byte = memory_seconds_a_byte()
    for kind in built_in_kinds():
        yield row_of(kind, seconds_a_byte)


def memory_seconds_a_byte() -> float:
    """What moving one byte costs when all threads copy a map that no cache holds."""
    source = np.random.default_rng(1).random((2 * SIZE, 2 * SIZE), np.float32)
    target = np.empty_like(source)

    def copy(y0: int, y1: int) -> None:
        np.copyto(target[y0:y1], source[y0:y1])

    seconds = best_of(lambda: run_bands(copy, len(source)))
    return seconds / (source.nbytes + target.nbytes)


def row_of(kind: Kind, seconds_a_byte: float) -> Row:
    """The kind's first output with its defaults, beside what its family is to reach."""
    inputs = make_inputs(kind, SIZE, SIZE)
    wanted = frozenset([kind.outputs[0].name])
    values = kind.defaults()

    def compute() -> None:
        run_kind(kind, Context(SIZE, SIZE, wanted=wanted), inputs, values)

    seconds = best_of(compute, 3)
    work = f"{kind.family}: {kind.id}, 2048²"
    if kind.family == "noise":
        octaves = float(values.get("octaves", 1)) * TIMES.get(kind.id, 1)
        limit = SIZE * SIZE * octaves / NOISE_RATE
        return Row(work, seconds, f"{octaves:g} octave(s) at 40 M/s", limit, 1.0)
    size = sum(a.nbytes for a in inputs.values()) + SIZE * SIZE * 4
    pure = kind.family in PURE and kind.id not in MEASURED
    return Row(work, seconds, "memory moved once", size * seconds_a_byte, 1 / 3 if pure else 0.0)
