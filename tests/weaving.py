"""Short words for tests that build documents, change them and evaluate them, with the built-in kinds."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from reedloom.kinds.catalogue import built_in_kinds
from reedloom.loom.run import Outcome, evaluate_ends
from reedloom.preview.samples import sample_graph
from reedloom.weave.document import Document, End
from reedloom.weave.edits import Edit
from reedloom.weave.resolve import resolve

KINDS = built_in_kinds()


def after(document: Document, *edits: Edit) -> Document:
    """A document after some edits."""
    for edit in edits:
        document = edit.apply(document, KINDS)
    return document


def evaluate(document: Document, ends: Iterable[End], size: int | tuple[int, int], **more: Any) -> Outcome:
    """The outcome for some outputs of a document."""
    return evaluate_ends(resolve(document, KINDS), ends, size, **more)


def sample(kind_id: str, values: dict[str, Any] | None = None) -> tuple[Document, End]:
    """The sample of a kind as a document, and the output to look at."""
    graph, end = sample_graph(kind_id, KINDS, values)
    return Document(graph=graph), end


def value(document: Document, node: str, name: str) -> Any:
    """A parameter's value at a node."""
    return KINDS.value(document.graph.nodes[node], name)
