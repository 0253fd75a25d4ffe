"""Edits: small frozen objects that each take a document to the next one.

Undo swaps whole documents, so no edit needs inverse code. Every edit checks itself against the
document it is applied to and raises a `ReedError` rather than making a broken one.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Protocol

from msgspec.structs import replace

from reedloom.errors import ConnectError, unknown
from reedloom.kinds.catalogue import get_kind
from reedloom.kit.channels import get_channel
from reedloom.kit.data import COLOUR, GREY
from reedloom.kit.kind import Kind
from reedloom.weave.document import (
    Bay,
    Document,
    End,
    LitState,
    Node,
    Note,
    Recipe,
    Surface,
    Thread,
    Viewpoint,
)
from reedloom.weave.graph import check_thread, output_data


class Edit(Protocol):
    """Anything that takes a document to the next one."""

    @property
    def label(self) -> str:
        """What the history calls it."""

    def apply(self, document: Document) -> Document:
        """The document after the edit; the given one stays as it is."""


def without(mapping: Mapping[str, Any], keys: Iterable[str]) -> dict[str, Any]:
    """A copy of a mapping with some keys left out."""
    gone = set(keys)
    return {key: value for key, value in mapping.items() if key not in gone}


@dataclass(frozen=True)
class AddNode:
    """Hang a node. `id` is chosen by `Document.free_id` before."""

    id: str
    kind: str
    x: float = 0.0
    y: float = 0.0
    parameters: Mapping[str, Any] = field(default_factory=dict)

    @property
    def label(self) -> str:
        return f"Add {get_kind(self.kind).label}"

    def apply(self, document: Document) -> Document:
        declared = get_kind(self.kind)
        node = Node(id=self.id, kind=self.kind, version=declared.version, x=self.x, y=self.y)
        with_node = replace(document, nodes={**document.nodes, self.id: node})
        return SetParameters(self.id, self.parameters).apply(with_node) if self.parameters else with_node


@dataclass(frozen=True)
class TakeOut:
    """Untie a node and tie what ran through its first input on past it; the node stays."""

    id: str

    @property
    def label(self) -> str:
        return "Take out of the thread"

    def apply(self, document: Document) -> Document:
        declared = document.node(self.id).declaration
        tied = document.incoming(self.id)
        first = next((tied[p.name] for p in declared.inputs if p.name in tied), None)
        leaving = tuple(document.followers(self.id))
        ties = dict(document.ties)
        kept = tuple(t for t in document.threads if self.id not in (t.source.node, t.target.node))
        document = replace(document, threads=kept, ties={c: e for c, e in ties.items() if e.node != self.id})
        if first is None:
            return document
        edits: list[Edit] = [Connect(first, thread.target) for thread in leaving]
        edits += [Tie(first, channel) for channel, end in ties.items() if end.node == self.id]
        for edit in edits:
            try:
                document = edit.apply(document)
            except ConnectError:
                continue  # what does not fit past the node is left untied
        return document


@dataclass(frozen=True)
class RemoveNodes:
    """Take nodes away with their threads and ties; with `close_up` threads are tied on past them."""

    ids: tuple[str, ...]
    close_up: bool = False

    @property
    def label(self) -> str:
        return "Remove node" if len(self.ids) == 1 else f"Remove {len(self.ids)} nodes"

    def apply(self, document: Document) -> Document:
        for node_id in self.ids:
            document.node(node_id)
            document = TakeOut(node_id).apply(document) if self.close_up else document
        gone = set(self.ids)
        threads = tuple(t for t in document.threads if not {t.source.node, t.target.node} & gone)
        ties = {c: end for c, end in document.ties.items() if end.node not in gone}
        return replace(document, nodes=without(document.nodes, gone), threads=threads, ties=ties)


@dataclass(frozen=True)
class SetParameters:
    """Give parameters of a node new values; a default value is stored as nothing."""

    id: str
    values: Mapping[str, Any]

    @property
    def label(self) -> str:
        return "Set " + ", ".join(name.replace("_", " ") for name in self.values)

    def apply(self, document: Document) -> Document:
        node = document.node(self.id)
        changed = dict(node.parameters)
        for name, value in self.values.items():
            parameter = node.declaration.parameter(name)
            plain = parameter.check(value, self.id)
            if plain == parameter.default:
                changed.pop(name, None)
            else:
                changed[name] = plain
        if changed == node.parameters:
            return document
        return replace(document, nodes={**document.nodes, self.id: replace(node, parameters=changed)})


@dataclass(frozen=True)
class MoveItems:
    """Place nodes, bays and notes on the board."""

    places: Mapping[str, tuple[float, float]]
    label: str = "Move"

    def apply(self, document: Document) -> Document:
        groups: dict[str, dict[str, Any]] = {}
        for group in ("nodes", "bays", "notes"):
            items = getattr(document, group)
            groups[group] = {
                key: replace(item, x=float(self.places[key][0]), y=float(self.places[key][1]))
                if key in self.places
                else item
                for key, item in items.items()
            }
        return replace(document, **groups)


@dataclass(frozen=True)
class SetNode:
    """Change a node's name, or mute or unmute it."""

    id: str
    name: str | None = None
    muted: bool | None = None

    @property
    def label(self) -> str:
        if self.muted is not None:
            return "Mute node" if self.muted else "Unmute node"
        return "Rename node"

    def apply(self, document: Document) -> Document:
        node = document.node(self.id)
        node = replace(
            node,
            name=node.name if self.name is None else self.name,
            muted=node.muted if self.muted is None else self.muted,
        )
        return replace(document, nodes={**document.nodes, self.id: node})


@dataclass(frozen=True)
class Connect:
    """Tie a thread; one already at the target is untied."""

    source: End
    target: End
    label: str = "Tie thread"

    def apply(self, document: Document) -> Document:
        kept = tuple(t for t in document.threads if t.target != self.target)
        rest = replace(document, threads=kept)
        check_thread(rest, self.source, self.target)
        tied = replace(rest, threads=(*kept, Thread(source=self.source, target=self.target)))
        _check_followers(tied, self.target.node)
        return tied


def _check_followers(document: Document, node_id: str) -> None:
    """A new thread may turn grey into colour further down; that always converts, so only ties are asked."""
    for channel, end in document.ties.items():
        if end.node == node_id:
            _check_tie(document, end, channel)


@dataclass(frozen=True)
class Disconnect:
    """Untie whatever is tied to an input."""

    target: End
    label: str = "Untie thread"

    def apply(self, document: Document) -> Document:
        return replace(document, threads=tuple(t for t in document.threads if t.target != self.target))


@dataclass(frozen=True)
class Tie:
    """Tie an output to a slot of the map rail."""

    source: End
    channel: str

    @property
    def label(self) -> str:
        return f"Tie to {get_channel(self.channel).label.lower()}"

    def apply(self, document: Document) -> Document:
        _check_tie(document, self.source, self.channel)
        return replace(document, ties={**document.ties, self.channel: self.source})


def _check_tie(document: Document, source: End, channel: str) -> None:
    slot = get_channel(channel)
    document.node(source.node).declaration.output(source.port)
    data = output_data(document)[source.node, source.port]
    if not data & (GREY | COLOUR):
        raise ConnectError(f"'{source}' gives {data.word} but the map '{slot.label}' takes {slot.data.word}.")


@dataclass(frozen=True)
class Untie:
    """Take the thread from a slot of the map rail."""

    channel: str

    @property
    def label(self) -> str:
        return f"Untie {get_channel(self.channel).label.lower()}"

    def apply(self, document: Document) -> Document:
        get_channel(self.channel)
        return replace(document, ties=without(document.ties, [self.channel]))


@dataclass(frozen=True)
class InsertOnThread:
    """Tie a node into a thread: the source to its first fitting input, its first output to the target."""

    node: str
    target: End
    label: str = "Tie in"

    def apply(self, document: Document) -> Document:
        thread = next((t for t in document.threads if t.target == self.target), None)
        declared = document.node(self.node).declaration
        if thread is None or not declared.inputs:
            raise ConnectError(f"Node '{self.node}' cannot be tied into the thread to '{self.target}'.")
        entry = next((p for p in declared.inputs if not p.optional), declared.inputs[0])
        document = Connect(thread.source, End(node=self.node, port=entry.name)).apply(document)
        return Connect(End(node=self.node, port=declared.outputs[0].name), self.target).apply(document)


@dataclass(frozen=True)
class MoveThreads:
    """Move all threads and ties of one output to another."""

    source: End
    to: End
    label: str = "Move threads"

    def apply(self, document: Document) -> Document:
        for thread in document.threads:
            if thread.source == self.source:
                document = Connect(self.to, thread.target).apply(document)
        for channel, end in document.ties.items():
            if end == self.source:
                document = Tie(self.to, channel).apply(document)
        return document


@dataclass(frozen=True)
class SwapInputs:
    """Exchange what is tied to two inputs of a node."""

    id: str
    first: str
    second: str
    label: str = "Swap inputs"

    def apply(self, document: Document) -> Document:
        declared = document.node(self.id).declaration
        names = {declared.input(self.first).name: self.second, declared.input(self.second).name: self.first}
        tied = document.incoming(self.id)
        for port in names:
            document = Disconnect(End(node=self.id, port=port)).apply(document)
        for port, other in names.items():
            if port in tied:
                document = Connect(tied[port], End(node=self.id, port=other)).apply(document)
        return document


@dataclass(frozen=True)
class ReorderSeries:
    """Put the rows of a list, such as layers, into another order: what is tied to them and their values.

    order : the present number of each row, from the first; rows that are not named stay behind them.
    """

    node: str
    order: tuple[int, ...]
    label: str = "Reorder"

    def apply(self, document: Document) -> Document:
        node = document.node(self.node)
        ports, values = series_of(node.declaration)
        rest = [number for number in ports if number not in self.order]
        old = [*self.order, *rest]
        if sorted(old) != sorted(ports):
            raise unknown("row", str(self.order), map(str, ports), f"of '{self.node}'")
        renamed = {
            ports[source][place]: ports[number][place]
            for number, source in zip(ports, old, strict=True)
            for place in range(len(ports[number]))
        }
        given = {
            values[number][place]: node.value(values[source][place])
            for number, source in zip(ports, old, strict=True)
            for place in range(len(values.get(number, ())))
        }
        threads = tuple(
            replace(t, target=End(node=self.node, port=renamed.get(t.target.port, t.target.port)))
            if t.target.node == self.node
            else t
            for t in document.threads
        )
        return SetParameters(self.node, given).apply(replace(document, threads=threads))


def series_of(declared: Kind) -> tuple[dict[int, tuple[str, ...]], dict[int, tuple[str, ...]]]:
    """The inputs and the parameters of each row of a kind's list, by the row's number."""
    ports: dict[int, tuple[str, ...]] = {}
    values: dict[int, tuple[str, ...]] = {}
    for port in declared.inputs:
        if port.series:
            ports[port.series] = (*ports.get(port.series, ()), port.name)
    for parameter in declared.parameters:
        if parameter.series:
            values[parameter.series] = (*values.get(parameter.series, ()), parameter.name)
    return ports, values


@dataclass(frozen=True)
class PutItem:
    """Add a bay or note, or replace the one of the same id."""

    item: Bay | Note

    @property
    def label(self) -> str:
        return "Edit bay" if isinstance(self.item, Bay) else "Edit note"

    def apply(self, document: Document) -> Document:
        if isinstance(self.item, Bay):
            return replace(document, bays={**document.bays, self.item.id: self.item})
        return replace(document, notes={**document.notes, self.item.id: self.item})


@dataclass(frozen=True)
class RemoveItems:
    """Take bays and notes away; what lies in a bay stays."""

    ids: tuple[str, ...]
    label: str = "Remove"

    def apply(self, document: Document) -> Document:
        for item in self.ids:
            if item not in document.bays and item not in document.notes:
                raise unknown("bay or note", item, [*document.bays, *document.notes])
        return replace(
            document, bays=without(document.bays, self.ids), notes=without(document.notes, self.ids)
        )


@dataclass(frozen=True)
class SetDocument:
    """Change the weave's name, physical surface, delivery recipe or how the lit view shows it."""

    name: str | None = None
    surface: Surface | None = None
    recipe: Recipe | None = None
    lit: LitState | None = None
    label: str = "Change weave"

    def apply(self, document: Document) -> Document:
        return replace(
            document,
            name=document.name if self.name is None else self.name,
            surface=self.surface or document.surface,
            recipe=self.recipe or document.recipe,
            lit=self.lit or document.lit,
        )


@dataclass(frozen=True)
class MoveHome:
    """Let the weave's file lie in a folder: files below it are named from there, others from the root."""

    folder: str
    label: str = "Save"

    def apply(self, document: Document) -> Document:
        nodes = {}
        for node in document.nodes.values():
            files = [p.name for p in node.declaration.parameters if p.is_file and node.value(p.name)]
            named = {name: self._named(document.folder, node.value(name)) for name in files}
            changed = {n: v for n, v in named.items() if v != node.value(n)}
            nodes[node.id] = replace(node, parameters=node.parameters | changed) if changed else node
        return replace(document, nodes=nodes, folder=self.folder)

    def _named(self, old: str, file: str) -> str:
        path = Path(file).expanduser()
        if not path.is_absolute():
            if not old:
                return file
            path = Path(old) / path
        path = Path(os.path.normpath(path))
        return path.relative_to(self.folder).as_posix() if path.is_relative_to(self.folder) else str(path)


@dataclass(frozen=True)
class KeepViewpoint:
    """Keep a view point of the lit view under a name; None forgets the name."""

    name: str
    viewpoint: Viewpoint | None
    label: str = "Keep view point"

    def apply(self, document: Document) -> Document:
        if self.viewpoint is not None:
            return replace(document, viewpoints=document.viewpoints | {self.name: self.viewpoint})
        if self.name not in document.viewpoints:
            raise unknown("view point", self.name, document.viewpoints, "in this weave")
        return replace(document, viewpoints=without(document.viewpoints, [self.name]))


@dataclass(frozen=True)
class AddPiece:
    """Add copies of nodes with the threads between them, and those that come in from outside.

    `outside` threads whose source is not in this weave are left out.
    """

    nodes: tuple[Node, ...]
    threads: tuple[Thread, ...]
    bays: tuple[Bay, ...] = ()
    notes: tuple[Note, ...] = ()
    label: str = "Paste"

    def apply(self, document: Document) -> Document:
        document = replace(
            document,
            nodes=document.nodes | {n.id: n for n in self.nodes},
            bays=document.bays | {b.id: b for b in self.bays},
            notes=document.notes | {n.id: n for n in self.notes},
        )
        for thread in self.threads:
            if thread.source.node in document.nodes:
                document = Connect(thread.source, thread.target).apply(document)
        return document


@dataclass(frozen=True)
class Batch:
    """Several edits as one step."""

    label: str
    edits: tuple[Edit, ...]

    def apply(self, document: Document) -> Document:
        for edit in self.edits:
            document = edit.apply(document)
        return document
