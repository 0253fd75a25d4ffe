"""What is compiled ahead of time is all that weaves need: nobody waits for a compiler while they work."""

from __future__ import annotations

from typing import Any

import pytest

import reedloom as rl
from reedloom.data import shipped_weaves
from reedloom.kernels import jit
from reedloom.kinds.catalogue import all_kinds
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.loom.warming import warm_kind
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import End
from reedloom.weave.resolve import resolve
from weaving import KINDS

SIDES = (96, 520, 1048)
"""Of cards, which show all outputs, of views in several bands, and of maps beyond those with kept tables."""


def test_weaves_need_no_kernel_that_is_not_compiled_ahead_of_time(monkeypatch: pytest.MonkeyPatch) -> None:
    """Types of what kernels are called with are those with which they were warmed."""
    seen: set[tuple[str, tuple[object, ...]]] = set()
    real = jit.Kernel.__call__

    def call(self: jit.Kernel, *args: Any) -> Any:
        seen.add((self.function.__name__, tuple(map(kind_of, args))))
        return real(self, *args)

    monkeypatch.setattr(jit.Kernel, "__call__", call)
    for kind in all_kinds():
        warm_kind(kind.id)
    warmed = set(seen)
    for side in SIDES:
        for name, path in shipped_weaves().items():
            if side == SIDES[-1] and name != "beaten-bronze":
                continue
            document = rl.open_weave(path).document
            flat, wanted = resolve(document, KINDS), tuple(document.graph.ends.values())
            if side == SIDES[0]:
                wanted += tuple(
                    End(node=n.id, port=p.name) for n in flat.nodes.values() for p in n.kind.outputs
                )
            size = flat.surface.samples(side)
            for value in evaluate_ends(flat, wanted, size, cache=Cache()).results.values():
                as_map(value, *size)
    missing = {kernel for kernel, _ in seen - warmed}
    assert not missing


def kind_of(value: Any) -> object:
    """What the compiler tells a value's type by."""
    if hasattr(value, "dtype") and hasattr(value, "flags") and value.ndim:
        layout = "C" if value.flags.c_contiguous else "F" if value.flags.f_contiguous else "A"
        return str(value.dtype), value.ndim, layout, value.flags.writeable
    if isinstance(value, tuple):
        return type(value).__name__, tuple(map(kind_of, value))
    return type(value).__name__
