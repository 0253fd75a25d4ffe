"""Compiles every kernel ahead of time, by computing small samples of all kinds."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator

from reedloom.kernels.jit import mark_warm
from reedloom.kinds.catalogue import kinds
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import Number
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.preview.samples import every_choice, sample_weave, stand_in
from reedloom.weave.document import Document, End

SIZE = 8
OPTIONAL = 100
"""From here on stand-ins for optional inputs are numbered."""


def warm_kernels(progress: Callable[[float], None]) -> float:
    """Run every kind once with all it can be given; returns the seconds it took.

    Kernels that are compiled already only load, a few milliseconds each.
    """
    start = time.perf_counter()
    every = kinds()
    for number, declared in enumerate(every):
        ends = [End(node="shown", port=p.name) for p in declared.outputs]
        for document in (*every_choice(declared.id), *_at_both_ends(declared)):
            for variant in (document, _with_optional_inputs(document)):
                evaluate_ends(variant, ends, SIZE, cache=Cache(0))
        progress((number + 1) / len(every))
    mark_warm()
    return time.perf_counter() - start


def _at_both_ends(declared: Kind) -> Iterator[Document]:
    """The sample with all numbers where their sliders begin, and where they end; some loops wait for that."""
    for end in (0, 1):
        numbers = [p for p in declared.parameters if isinstance(p, Number)]
        yield sample_weave(declared.id, {p.name: p.check(p.useful[end]) for p in numbers})[0]


def _with_optional_inputs(document: Document) -> Document:
    """The sample with something tied to each optional input of the shown node."""
    for number, port in enumerate(document.nodes["shown"].declaration.inputs):
        if port.optional and not document.incoming("shown").get(port.name):
            document = stand_in(document, port, OPTIONAL + number)
    return document
