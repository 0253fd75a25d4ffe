"""Edits of what lies on the board: places, bays, notes, and whole pieces that are pasted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec.structs import replace

from reedloom.errors import unknown
from reedloom.kinds.catalogue import Kinds
from reedloom.weave.document import Bay, Graph, Node, Note, Thread
from reedloom.weave.edits.base import GraphEdit, without
from reedloom.weave.graph import check_threads, with_stand_ins


class MoveItems(GraphEdit, frozen=True):
    """Place nodes, bays and notes on the board."""

    places: Mapping[str, tuple[float, float]]
    label: str = "Move"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        groups: dict[str, dict[str, Any]] = {}
        for group in ("nodes", "bays", "notes"):
            items = getattr(graph, group)
            groups[group] = {
                key: replace(item, x=float(self.places[key][0]), y=float(self.places[key][1]))
                if key in self.places
                else item
                for key, item in items.items()
            }
        return replace(graph, **groups)


class PutItem(GraphEdit, frozen=True):
    """Add a bay or note, or replace the one of the same id."""

    item: Bay | Note

    @property
    def label(self) -> str:
        return "Edit bay" if isinstance(self.item, Bay) else "Edit note"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        if isinstance(self.item, Bay):
            return replace(graph, bays={**graph.bays, self.item.id: self.item})
        return replace(graph, notes={**graph.notes, self.item.id: self.item})


class RemoveItems(GraphEdit, frozen=True):
    """Take bays and notes away; what lies in a bay stays."""

    ids: tuple[str, ...]
    label: str = "Remove"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        for item in self.ids:
            if item not in graph.bays and item not in graph.notes:
                raise unknown("bay or note", item, [*graph.bays, *graph.notes])
        return replace(graph, bays=without(graph.bays, self.ids), notes=without(graph.notes, self.ids))


class AddPiece(GraphEdit, frozen=True):
    """Add copies of nodes with the threads between them, and those that come in from outside.

    Threads whose source is not in this graph are left out.
    """

    nodes: tuple[Node, ...]
    threads: tuple[Thread, ...]
    bays: tuple[Bay, ...] = ()
    notes: tuple[Note, ...] = ()
    label: str = "Paste"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        nodes = graph.nodes | {n.id: n for n in self.nodes}
        threads = tuple(t for t in self.threads if t.source.node in nodes)
        taken = {t.target for t in threads}
        graph = replace(
            graph,
            nodes=nodes,
            threads=(*(t for t in graph.threads if t.target not in taken), *threads),
            bays=graph.bays | {b.id: b for b in self.bays},
            notes=graph.notes | {n.id: n for n in self.notes},
        )
        check_threads(graph, with_stand_ins(kinds, [graph]), threads)
        return graph
