"""Edits of motifs: forking and describing one, and what comes in and out of it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from reedloom.errors import ReedError, unknown
from reedloom.kinds.catalogue import Kinds
from reedloom.weave.document import Document, End, Graph, Inlet, Motif, Outlet
from reedloom.weave.edits.base import without
from reedloom.weave.edits.dials import owner_of, with_owner
from reedloom.weave.motifs import (
    MOTIF,
    used_motif,
    uses_of,
)


def free_motif_id(motifs: Iterable[str], title: str) -> str:
    """An id for a new motif, such as ``chipped_rim``."""
    stem = re.sub(r"[^a-z0-9]+", "_", title.lower()).strip("_")[:60] or "motif"
    taken, key, number = set(motifs), stem, 2
    while key in taken:
        key, number = f"{stem}_{number}", number + 1
    return key


def motif_of(document: Document, key: str) -> Motif:
    """The motif of that id; `UnknownNameError` if there is none."""
    motif = owner_of(document, key)
    assert isinstance(motif, Motif)
    return motif


def _notches(document: Document, key: str, part: str, notch: str) -> tuple[Motif, dict[str, Any]]:
    """A motif and its inlets or outlets, of which one must be there."""
    motif = motif_of(document, key)
    held: dict[str, Any] = getattr(motif, part)
    if notch not in held:
        raise unknown(part.removesuffix("s"), notch, held, "on this motif")
    return motif, held


class ForkMotif(Struct, frozen=True):
    """Give one use a motif of its own, equal so far to the one it used; the others stay with theirs."""

    motif: str
    use: str
    key: str
    label: str = "Fork the motif"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        owner = owner_of(document, self.motif)
        node = owner.graph.node(self.use)
        old = used_motif(node.kind)
        if old not in document.motifs:
            raise ReedError(f"'{self.use}' is no use of a motif of this weave.")
        own = replace(document.motifs[old], title=f"{document.motifs[old].title}, own", origin="")
        forked = replace(node, kind=MOTIF + self.key)
        graph = replace(owner.graph, nodes=owner.graph.nodes | {node.id: forked})
        document = with_owner(document, self.motif, replace(owner, graph=graph))
        return replace(document, motifs=document.motifs | {self.key: own})


class DescribeMotif(Struct, frozen=True):
    """Change what a motif is called, and what it is for."""

    key: str
    title: str | None = None
    purpose: str | None = None
    label: str = "Describe motif"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        motif = motif_of(document, self.key)
        changed = replace(
            motif,
            title=motif.title if self.title is None else self.title,
            purpose=motif.purpose if self.purpose is None else self.purpose,
        )
        return with_owner(document, self.key, changed)


class RemoveMotif(Struct, frozen=True):
    """Take a motif that nothing uses out of the weave."""

    key: str
    label: str = "Remove motif"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        owner_of(document, self.key)
        count = len(list(uses_of(document, self.key)))
        if count:
            raise ReedError(f"The motif is used {count} times; take those nodes out first.")
        return replace(document, motifs=without(document.motifs, [self.key]))


class NameInlet(Struct, frozen=True):
    """Give a motif an inlet; the node of that id, which another edit hangs, gives what is tied to it."""

    key: str
    id: str
    name: str
    label: str = "Add inlet"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        motif = motif_of(document, self.key)
        changed = replace(motif, inlets=motif.inlets | {self.id: Inlet(label=self.name)})
        return with_owner(document, self.key, changed)


class TieOutlet(Struct, frozen=True):
    """Tie an output within a motif to one of its outlets, which is made if it is not there."""

    key: str
    outlet: str
    source: End
    name: str = ""
    label: str = "Tie to outlet"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        motif = motif_of(document, self.key)
        kinds.of(motif.graph.node(self.source.node)).output(self.source.port)
        outlets = motif.outlets
        if self.outlet not in outlets:
            outlets = outlets | {self.outlet: Outlet(label=self.name)}
        graph = replace(motif.graph, ends=motif.graph.ends | {self.outlet: self.source})
        changed = replace(motif, outlets=outlets, graph=graph)
        return with_owner(document, self.key, changed)


class RenameNotch(Struct, frozen=True):
    """Give an inlet or outlet of a motif another name; threads stay as they are."""

    key: str
    part: str
    id: str
    name: str
    label: str = "Rename notch"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        motif, held = _notches(document, self.key, self.part, self.id)
        changed: Any = replace(
            motif, **{self.part: held | {self.id: replace(held[self.id], label=self.name)}}
        )
        if self.part == "inlets":
            node = replace(motif.graph.node(self.id), name=self.name)
            changed = replace(changed, graph=replace(motif.graph, nodes=motif.graph.nodes | {self.id: node}))
        return with_owner(document, self.key, changed)


class RemoveNotch(Struct, frozen=True):
    """Take an inlet or outlet from a motif, with the threads that are tied there at its uses."""

    key: str
    part: str
    id: str
    label: str = "Remove notch"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        motif, held = _notches(document, self.key, self.part, self.id)
        changed: Any = replace(motif, **{self.part: without(held, [self.id])})
        if self.part == "outlets":
            changed = replace(changed, graph=replace(motif.graph, ends=without(motif.graph.ends, [self.id])))
        else:
            changed = replace(changed, graph=_without_node(motif.graph, self.id))
        document = with_owner(document, self.key, changed)
        return untied_at_uses(document, self.key, self.part, self.id)


def _without_node(graph: Graph, node_id: str) -> Graph:
    threads = tuple(t for t in graph.threads if node_id not in {t.source.node, t.target.node})
    ends = {name: end for name, end in graph.ends.items() if end.node != node_id}
    return replace(graph, nodes=without(graph.nodes, [node_id]), threads=threads, ends=ends)


def untied_at_uses(document: Document, key: str, part: str, notch: str) -> Document:
    """A document in which nothing is tied to a notch of a motif that is gone, at any of its uses.

    Parameters
    ----------
    part : str
        "inlets" or "outlets".
    """
    for where, use in tuple(uses_of(document, key)):
        owner = owner_of(document, where)
        gone = End(node=use, port=notch)
        graph = owner.graph
        if part == "inlets":
            graph = replace(graph, threads=tuple(t for t in graph.threads if t.target != gone))
        else:
            graph = replace(
                graph,
                threads=tuple(t for t in graph.threads if t.source != gone),
                ends={name: end for name, end in graph.ends.items() if end != gone},
            )
        document = with_owner(document, where, replace(owner, graph=graph))
    return document
