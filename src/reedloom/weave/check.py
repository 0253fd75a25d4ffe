"""The one list of rules for a document: called after every edit, and by the loader.

What can be made can be saved, and what can be saved can be opened: both ask here. Parts that are
shared with a document that has passed are not looked at again.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import Any

import msgspec

from reedloom.errors import ReedError, ValueRangeError
from reedloom.kinds.catalogue import Kinds
from reedloom.weave.document import Document, Graph, Motif, Node, Thread
from reedloom.weave.graph import check_end, faulty_threads
from reedloom.weave.motifs import is_inlet, used_motif

SIZE_LIMIT = 8192
"""Samples along a side of what can be computed."""
LARGEST = 1e12
"""No number of a document is larger; what is drawn and multiplied stays finite."""
NODE_LIMIT, ITEM_LIMIT = 20_000, 10_000
"""Most nodes of a weave, those in its motifs included, and most bays, notes, view points and the like."""
DEPTH_LIMIT = 40
TEXT_LIMIT = 100_000
"""Most characters of one text."""
RULES = (
    "name", "general", "purpose", "tags", "surface", "recipe", "lit", "viewpoints", "dials", "colourways",
    "settings", "colourway", "extras",
)  # fmt: skip


class BreachError(ValueRangeError):
    """A rule that a document breaks; `where` is the place in it, as paths of a file name it."""

    def __init__(self, where: str, sentence: str) -> None:
        super().__init__(f"At '{where}': {sentence}" if where else sentence)
        self.where, self.sentence = where, sentence


def check(document: Document, kinds: Kinds, passed: Document | None = None) -> None:
    """Raise a `BreachError` for the first rule that a document breaks.

    Parameters
    ----------
    kinds : Kinds
        With stand-ins for what is missing; see `with_stand_ins`.
    passed : Document, optional
        One that has passed with the same kinds; what is shared with it is not looked at again.
    """
    for breach in breaches(document, kinds, passed):
        raise breach


def breaches(document: Document, kinds: Kinds, passed: Document | None = None) -> Iterator[BreachError]:
    """Every rule that a document breaks, in the order of its file.

    Parameters
    ----------
    kinds : Kinds
        With stand-ins for what is missing.
    passed : Document, optional
        One that has passed with the same kinds; what is shared with it is not looked at again.

    Returns
    -------
    iterator of BreachError, each naming the place and the rule
    """
    for name in RULES:
        part = getattr(document, name)
        if passed is None or part is not getattr(passed, name):
            yield from _unwritable(part, "" if name == "extras" else name)
    yield from _surface(document)
    yield from _recipe(document)
    for name in ("viewpoints", "dials", "colourways", "motifs"):
        yield from _crowd(len(getattr(document, name)), name, ITEM_LIMIT)
    count = len(document.graph.nodes) + sum(len(motif.graph.nodes) for motif in document.motifs.values())
    yield from _crowd(count, "nodes", NODE_LIMIT)
    yield from _graph(document.graph, kinds, "", None if passed is None else passed.graph)
    for key, motif in document.motifs.items():
        old = None if passed is None else passed.motifs.get(key)
        if motif is not old:
            where = f"motifs.{key}."
            yield from _unwritable(msgspec.structs.replace(motif, graph=Graph()), f"motifs.{key}")
            yield from _graph(motif.graph, kinds, where, None if old is None else old.graph)
            yield from _notches(key, motif, kinds)


def _notches(key: str, motif: Motif, kinds: Kinds) -> Iterator[BreachError]:
    """What comes into a motif and out of it must be in its graph."""
    if not key or "." in key:
        yield BreachError(f"motifs.{key}", "a motif's id is not empty and has no full stop.")
    if not motif.outlets:
        yield BreachError(f"motifs.{key}", "a motif has at least one outlet; nothing could be made of it.")
    for name in motif.inlets:
        if name not in motif.graph.nodes or not is_inlet(motif.graph.nodes[name].kind):
            yield BreachError(f"motifs.{key}.inlets.{name}", "there is no node of that id for it.")
    for node_id, node in motif.graph.nodes.items():
        if is_inlet(node.kind) and node_id not in motif.inlets:
            yield BreachError(f"motifs.{key}.nodes.{node_id}", "an inlet stands in the list of inlets too.")
    for name in motif.graph.ends.keys() - motif.outlets.keys():
        yield BreachError(f"motifs.{key}.ties.{name}", "there is no outlet of that name.")


def _surface(document: Document) -> Iterator[BreachError]:
    for name in ("width", "height", "depth"):
        value = getattr(document.surface, name)
        low = 0.0 if name == "depth" else 1e-6
        if not low <= value <= 1e6:
            yield BreachError(
                f"surface.{name}", f"{value:g} is not a length in metres from {low:g} to 1000000."
            )


def _recipe(document: Document) -> Iterator[BreachError]:
    size = document.recipe.size
    if not 1 <= size <= SIZE_LIMIT:
        yield BreachError("recipe.size", f"{size} is not a size from 1 to {SIZE_LIMIT}.")


def _graph(graph: Graph, kinds: Kinds, where: str, passed: Graph | None) -> Iterator[BreachError]:
    if graph is passed:
        return
    old_nodes = {} if passed is None else passed.nodes
    same_shape = passed is not None and graph.threads is passed.threads and graph.ends == passed.ends
    for node_id, node in graph.nodes.items():
        old = old_nodes.get(node_id)
        if node is not old:
            yield from _node(node_id, node, kinds, f"{where}nodes.{node_id}")
            is_same = old is not None and (old.kind, old.version) == (node.kind, node.version)
            same_shape = same_shape and is_same
    for name in ("bays", "notes"):
        items = getattr(graph, name)
        yield from _crowd(len(items), f"{where}{name}", ITEM_LIMIT)
        old_items = {} if passed is None else getattr(passed, name)
        for key, item in items.items():
            if item is not old_items.get(key):
                yield from _unwritable(item, f"{where}{name}.{key}")
    if not same_shape or len(old_nodes) > len(graph.nodes):
        yield from _threads(graph, kinds, where)


def _node(node_id: str, node: Node, kinds: Kinds, where: str) -> Iterator[BreachError]:
    if not node_id or "." in node_id or node_id != node.id:
        yield BreachError(where, "a node's id is not empty and has no full stop.")
    if node.version < 1:
        yield BreachError(where, f"{node.version} is no version of a kind; they begin at 1.")
    yield from _unwritable(node, where)
    declared = kinds.of(node)
    if declared.missing:
        return  # nothing is known of its parameters; they are kept as they are
    for name, value in node.parameters.items() if not used_motif(node.kind) else ():
        try:
            declared.parameter(name).check(value, node_id)
        except ReedError as error:
            yield BreachError(where, str(error))


def _threads(graph: Graph, kinds: Kinds, where: str) -> Iterator[BreachError]:
    def place(thread: Thread) -> str:
        return f"{where}nodes.{thread.target.node}.inputs.{thread.target.port}"

    if not where:
        for node_id, node in graph.nodes.items():
            if is_inlet(node.kind):
                yield BreachError(f"nodes.{node_id}", "an inlet can hang only within a motif.")
    taken = set()
    for thread in graph.threads:
        if thread.target in taken:
            yield BreachError(place(thread), "an input takes one thread.")
        taken.add(thread.target)
    faulty = False
    for faulty_one, error in faulty_threads(graph, kinds, graph.threads):
        yield BreachError(place(faulty_one) if faulty_one is not None else "", str(error))
        faulty = True
    for channel, end in graph.ends.items() if not faulty else ():
        try:
            if where:
                kinds.of(graph.node(end.node)).output(end.port)
            else:
                check_end(graph, kinds, end, channel)
        except ReedError as error:
            yield BreachError(f"{where}ties.{channel}", str(error))


def _crowd(count: int, where: str, most: int) -> Iterator[BreachError]:
    if count > most:
        yield BreachError(where, f"there are {count} of them, more than the {most} that can be worked with.")


def _unwritable(value: Any, where: str, depth: int = 0) -> Iterator[BreachError]:
    """What no file could hold: numbers without end, halves of characters, texts without measure."""
    if depth > DEPTH_LIMIT:
        yield BreachError(where, "it is nested too deeply.")
        return
    if isinstance(value, float):
        if not abs(value) <= LARGEST:
            kind = "not a number" if math.isnan(value) else "too large a number"
            yield BreachError(where, f"it is {kind}.")
    elif isinstance(value, bool) or value is None:
        return
    elif isinstance(value, int):
        if abs(value) > LARGEST:
            yield BreachError(where, "it is too large a number.")
    elif isinstance(value, str):
        if len(value) > TEXT_LIMIT:
            yield BreachError(where, f"the text is longer than {TEXT_LIMIT} characters.")
        elif holds_half(value):
            yield BreachError(where, "the text holds half of a character; type it anew.")
    elif isinstance(value, msgspec.Struct):
        for name in value.__struct_fields__:
            inner = getattr(value, name)
            if inner:
                yield from _unwritable(inner, where if name == "extras" else _below(where, name), depth + 1)
    elif isinstance(value, Mapping):
        for key, inner in value.items():
            yield from _unwritable(key, _below(where, "..."), depth)
            yield from _unwritable(inner, _below(where, str(key)), depth + 1)
    elif isinstance(value, (list, tuple)):
        for number, inner in enumerate(value):
            yield from _unwritable(inner, _below(where, str(number)), depth + 1)
    else:
        yield BreachError(where, f"a file cannot hold {type(value).__name__}.")


def holds_half(text: str) -> bool:
    """Whether a text holds half of a character, which no file can be written with."""
    return not text.isascii() and any("\ud800" <= c <= "\udfff" for c in text)


def _below(where: str, name: str) -> str:
    return f"{where}.{name}" if where else name
