"""Compiles every kernel ahead of time, by computing small samples of all kinds."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context

from reedloom.kernels.jit import mark_warm, thread_count
from reedloom.kinds.catalogue import Kinds, all_kinds
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import FormulaText, Number
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.preview.encodings import make_ready
from reedloom.preview.samples import every_choice, sample_graph, stand_in
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import Document, End, Graph
from reedloom.weave.resolve import resolve

log = logging.getLogger(__name__)
SIZE = 8
WIDE = 96
"""The size of some more samples of each kind, whose blurs and drawings are not too small for their loops."""
OPTIONAL = 100
"""From here on stand-ins for optional inputs are numbered."""


def warm_kernels(progress: Callable[[float], None]) -> float:
    """Run every kind once with all it can be given; returns the seconds it took.

    Kernels that are compiled already only load, a few milliseconds each.
    """
    start = time.perf_counter()
    every = [kind.id for kind in all_kinds()]
    begun = 0.0
    if thread_count() > 1:
        begun = 0.9
        _warm_side_by_side(every, lambda share: progress(begun * share))
    # Where two compiled forms of one kernel at once, the later one may have been kept alone.
    for number, kind_id in enumerate(every):
        warm_kind(kind_id)
        progress(begun + (1 - begun) * (number + 1) / len(every))
    mark_warm()
    return time.perf_counter() - start


def _warm_side_by_side(every: Sequence[str], progress: Callable[[float], None]) -> None:
    """Compile in several processes, as one holds a lock while it does; from both ends of the catalogue.

    Neighbours there are of one family, and need the same kernels.
    """
    ends = [kind_id for pair in zip(every, reversed(every), strict=True) for kind_id in pair][: len(every)]
    try:
        with ProcessPoolExecutor(thread_count(), mp_context=get_context("spawn")) as pool:
            for number, _ in enumerate(pool.map(warm_kind, ends)):
                progress((number + 1) / len(ends))
    except BrokenProcessPool:
        log.warning("Kernels are compiled one after the other: a process ended early", exc_info=True)


def warm_kind(kind_id: str) -> None:
    """Run one kind with all it can be given."""
    make_ready()
    every = all_kinds()
    declared = every.get(kind_id)
    ends = [End(node="shown", port=p.name) for p in declared.outputs]
    for graph in (
        *every_choice(kind_id, every),
        *_at_both_ends(declared, every),
        *_with_tries(declared, every),
    ):
        for variant in (graph, _with_optional_inputs(graph, every)):
            flat = resolve(Document(graph=variant), every)
            outcome = evaluate_ends(flat, ends, SIZE, cache=Cache(0))
            for value in outcome.results.values():
                as_map(value, SIZE, SIZE)
    for graph in (sample_graph(kind_id, every)[0], *_at_both_ends(declared, every)):
        variant = _with_optional_inputs(graph, every)
        evaluate_ends(resolve(Document(graph=variant), every), ends, WIDE, cache=Cache(0))


def _at_both_ends(declared: Kind, kinds: Kinds) -> Iterator[Graph]:
    """The sample with all numbers where their sliders begin, and where they end; some loops wait for that."""
    for end in (0, 1):
        numbers = [p for p in declared.parameters if isinstance(p, Number)]
        yield sample_graph(declared.id, kinds, {p.name: p.check(p.useful[end]) for p in numbers})[0]


def _with_tries(declared: Kind, kinds: Kinds) -> Iterator[Graph]:
    """The sample with each formula that is shown to try: not all are run in the same way."""
    for parameter in declared.parameters:
        if isinstance(parameter, FormulaText):
            for text in parameter.tries:
                yield sample_graph(declared.id, kinds, {parameter.name: text})[0]


def _with_optional_inputs(graph: Graph, kinds: Kinds) -> Graph:
    """The sample with something tied to each optional input of the shown node."""
    for number, port in enumerate(kinds.of(graph.nodes["shown"]).inputs):
        if port.optional and port.name not in graph.incoming("shown"):
            graph = stand_in(graph, kinds, port, OPTIONAL + number)
    return graph
