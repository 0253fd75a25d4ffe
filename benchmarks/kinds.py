"""Every node kind at 2048², so that a slow one is seen: one row each, from the declarations."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from types import MappingProxyType
from typing import Any

import numpy as np

from benchmarks.timing import Row, best_in_turns, best_of, limited
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
NOTHING_CHOSEN: Mapping[str, Any] = MappingProxyType({})
MEMORY_MOVES = 8
"""How many times what a point-by-point kind reads and writes may be moved through memory meanwhile."""
POINTWISE = {
    "band", "contrast", "curve", "ease", "flip", "fold_tone", "invert", "levels", "limit", "range", "steps",
    "threshold", "blend", "by_height", "layers", "pick", "mix_materials", "swirl", "combine_normals",
    "normal_strength", "colour_balance", "film", "gradient_map", "join_colour", "match_tone", "solid",
    "split_colour", "tint", "to_grey", "vary_colour", "number", "angle_vectors", "combine_vectors",
    "turn_vectors", "vector_lengths",
}  # fmt: skip
"""Kinds that make each sample from the same sample of what comes in."""
HARDEST: dict[str, dict[str, Any]] = {
    "blend": {"mode": "soft light"},
    "cellular_noise": {"metric": "Minkowski"},
    "fractal_noise": {"sum": "ridged multifractal"},
    "join_colour": {"space": "HSV"},
    "layers": {"mode_1": "soft light"},
    "split_colour": {"space": "HSV"},
    "to_grey": {"way": "lightness"},
}
"""Choices of kinds that take longest, of which there is a row each besides that of the defaults."""
LIMITS = {"median": 0.45, "close_seams": 0.328, "edge_keeping_blur": 0.155, "drift": 0.227}
"""Seconds that single kinds may take: half of what they once did, on the machine of the other limits."""
FAMILY_LIMITS = {"pattern": 0.4, "shape": 0.15}
"""Seconds that any kind of a family may take; a pattern with all its outputs."""


def rows() -> Iterator[Row]:
    """One row for each kind."""
    memory = Memory()
    for kind in built_in_kinds():
        yield row_of(kind, memory)
        if kind.id in HARDEST:
            yield row_of(kind, memory, HARDEST[kind.id])


class Memory:
    """Two maps that no cache holds, one of which is copied to the other by all threads."""

    def __init__(self) -> None:
        self._source = np.random.default_rng(1).random((2 * SIZE, 2 * SIZE), np.float32)
        self._target = np.empty_like(self._source)
        self.moved = self._source.nbytes + self._target.nbytes

    def copy(self) -> None:
        """Move so many bytes."""
        run_bands(self._copy_rows, len(self._source))

    def _copy_rows(self, y0: int, y1: int) -> None:
        np.copyto(self._target[y0:y1], self._source[y0:y1])


def row_of(kind: Kind, memory: Memory, chosen: Mapping[str, Any] = NOTHING_CHOSEN) -> Row:
    """The first output with defaults but for what is chosen, beside what the kind's family is to reach."""
    inputs = make_inputs(kind, SIZE, SIZE)
    many = kind.family == "pattern"
    wanted = frozenset(port.name for port in (kind.outputs if many else kind.outputs[:1]))
    values = kind.defaults() | dict(chosen)

    def compute() -> None:
        run_kind(kind, Context(SIZE, SIZE, wanted=wanted), inputs, values)

    told = "".join(f"{value}, " for value in chosen.values())
    work = f"{kind.family}: {kind.id}, {told}{'all outputs, ' if many else ''}2048²"
    if kind.family == "noise":
        octaves = float(values.get("octaves", 1)) * TIMES.get(kind.id, 1)
        peer = f"{octaves:g} octave(s) at 40 M/s"
        return Row(work, best_of(compute, 3), peer, SIZE**2 * octaves / NOISE_RATE, 1.0)
    limit = LIMITS.get(kind.id, FAMILY_LIMITS.get(kind.family))
    if limit is not None:
        return limited(work, best_of(compute, 3), limit)
    made = run_kind(kind, Context(SIZE, SIZE, wanted=wanted), inputs, values)
    size = sum(value.nbytes for value in (*inputs.values(), *made.outputs.values()))
    aim = 1 / MEMORY_MOVES if kind.id in POINTWISE else None
    # In turns, as both go by what the machine does at that moment.
    seconds, moving = best_in_turns([compute, memory.copy])
    return Row(work, seconds, "memory moved once", moving * size / memory.moved, aim)
