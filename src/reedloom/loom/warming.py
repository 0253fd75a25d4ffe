"""Compiles every kernel ahead of time, by computing small samples of all kinds."""

from __future__ import annotations

import time
from collections.abc import Callable

from reedloom.kernels.jit import mark_warm
from reedloom.kinds.catalogue import kinds
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.loom.samples import every_choice
from reedloom.weave.document import Document, End
from reedloom.weave.edits import AddNode, Connect

SIZE = 8


def warm_kernels(progress: Callable[[float], None]) -> float:
    """Run every kind once with all it can be given; returns the seconds it took.

    Kernels that are compiled already only load, a few milliseconds each.
    """
    start = time.perf_counter()
    every = kinds()
    for number, declared in enumerate(every):
        for document in every_choice(declared.id):
            for variant in (document, _with_optional_inputs(document)):
                ends = [End(node="shown", port=p.name) for p in declared.outputs]
                evaluate_ends(variant, ends, SIZE, cache=Cache(0))
        progress((number + 1) / len(every))
    mark_warm()
    return time.perf_counter() - start


def _with_optional_inputs(document: Document) -> Document:
    """The sample with a map or place tied to each optional input of the shown node."""
    for port in document.nodes["shown"].declaration.inputs:
        if port.optional:
            node_id = f"optional_{port.name}"
            grey = "GREY" in str(port.data)
            document = AddNode(node_id, "number" if grey else "tile_place").apply(document)
            output = "value" if grey else "place"
            document = Connect(End(node=node_id, port=output), End(node="shown", port=port.name)).apply(
                document
            )
    return document
