"""Compiles every kernel ahead of time, by computing small samples of all kinds."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator

from reedloom.kernels.jit import mark_warm
from reedloom.kinds.catalogue import Kinds, all_kinds
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import Number
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.preview.encodings import make_ready
from reedloom.preview.samples import every_choice, sample_graph, stand_in
from reedloom.weave.document import Document, End, Graph
from reedloom.weave.resolve import resolve

SIZE = 8
OPTIONAL = 100
"""From here on stand-ins for optional inputs are numbered."""


def warm_kernels(progress: Callable[[float], None]) -> float:
    """Run every kind once with all it can be given; returns the seconds it took.

    Kernels that are compiled already only load, a few milliseconds each.
    """
    start = time.perf_counter()
    make_ready()
    every = all_kinds()
    for number, declared in enumerate(every):
        ends = [End(node="shown", port=p.name) for p in declared.outputs]
        for graph in (*every_choice(declared.id, every), *_at_both_ends(declared, every)):
            for variant in (graph, _with_optional_inputs(graph, every)):
                flat = resolve(Document(graph=variant), every)
                evaluate_ends(flat, ends, SIZE, cache=Cache(0))
        progress((number + 1) / len(every))
    mark_warm()
    return time.perf_counter() - start


def _at_both_ends(declared: Kind, kinds: Kinds) -> Iterator[Graph]:
    """The sample with all numbers where their sliders begin, and where they end; some loops wait for that."""
    for end in (0, 1):
        numbers = [p for p in declared.parameters if isinstance(p, Number)]
        yield sample_graph(declared.id, kinds, {p.name: p.check(p.useful[end]) for p in numbers})[0]


def _with_optional_inputs(graph: Graph, kinds: Kinds) -> Graph:
    """The sample with something tied to each optional input of the shown node."""
    for number, port in enumerate(kinds.of(graph.nodes["shown"]).inputs):
        if port.optional and port.name not in graph.incoming("shown"):
            graph = stand_in(graph, kinds, port, OPTIONAL + number)
    return graph
