"""Edits of threads and of what is tied to the map rail."""

from __future__ import annotations

from msgspec.structs import replace

from reedloom.errors import ConnectError
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.channels import get_channel
from reedloom.weave.document import End, Graph, Thread
from reedloom.weave.edits.base import GraphEdit, without
from reedloom.weave.graph import check_end, check_thread


class Connect(GraphEdit, frozen=True):
    """Tie a thread; one already at the target is untied."""

    source: End
    target: End
    label: str = "Tie thread"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        kept = tuple(t for t in graph.threads if t.target != self.target)
        rest = replace(graph, threads=kept)
        check_thread(rest, kinds, self.source, self.target)
        return replace(rest, threads=(*kept, Thread(source=self.source, target=self.target)))


class Disconnect(GraphEdit, frozen=True):
    """Untie whatever is tied to an input."""

    target: End
    label: str = "Untie thread"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        return replace(graph, threads=tuple(t for t in graph.threads if t.target != self.target))


class Tie(GraphEdit, frozen=True):
    """Tie an output to a slot of the map rail."""

    source: End
    channel: str

    @property
    def label(self) -> str:
        return f"Tie to {get_channel(self.channel).label.lower()}"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        check_end(graph, kinds, self.source, self.channel)
        return replace(graph, ends={**graph.ends, self.channel: self.source})


class Untie(GraphEdit, frozen=True):
    """Take the thread from a slot of the map rail."""

    channel: str

    @property
    def label(self) -> str:
        return f"Untie {get_channel(self.channel).label.lower()}"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        get_channel(self.channel)
        return replace(graph, ends=without(graph.ends, [self.channel]))


class TakeOut(GraphEdit, frozen=True):
    """Untie a node and tie what ran through its first input on past it; the node stays."""

    id: str

    @property
    def label(self) -> str:
        return "Take out of the thread"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        declared = kinds.of(graph.node(self.id))
        tied = graph.incoming(self.id)
        first = next((tied[p.name] for p in declared.inputs if p.name in tied), None)
        leaving = tuple(graph.followers(self.id))
        ties = dict(graph.ends)
        kept = tuple(t for t in graph.threads if self.id not in (t.source.node, t.target.node))
        graph = replace(graph, threads=kept, ends={c: e for c, e in ties.items() if e.node != self.id})
        if first is None:
            return graph
        edits: list[GraphEdit] = [Connect(first, thread.target) for thread in leaving]
        edits += [Tie(first, channel) for channel, end in ties.items() if end.node == self.id]
        for edit in edits:
            try:
                graph = edit.change(graph, kinds)
            except ConnectError:
                continue  # what does not fit past the node is left untied
        return graph


class InsertOnThread(GraphEdit, frozen=True):
    """Tie a node into a thread: the source to its first fitting input, its first output to the target."""

    node: str
    target: End
    label: str = "Tie in"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        thread = next((t for t in graph.threads if t.target == self.target), None)
        declared = kinds.of(graph.node(self.node))
        if thread is None or not declared.inputs:
            raise ConnectError(f"Node '{self.node}' cannot be tied into the thread to '{self.target}'.")
        entry = next((p for p in declared.inputs if not p.optional), declared.inputs[0])
        graph = Connect(thread.source, End(node=self.node, port=entry.name)).change(graph, kinds)
        return Connect(End(node=self.node, port=declared.outputs[0].name), self.target).change(graph, kinds)


class MoveThreads(GraphEdit, frozen=True):
    """Move all threads and ties of one output to another."""

    source: End
    to: End
    label: str = "Move threads"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        for thread in graph.threads:
            if thread.source == self.source:
                graph = Connect(self.to, thread.target).change(graph, kinds)
        for channel, end in graph.ends.items():
            if end == self.source:
                graph = Tie(self.to, channel).change(graph, kinds)
        return graph


class SwapInputs(GraphEdit, frozen=True):
    """Exchange what is tied to two inputs of a node."""

    id: str
    first: str
    second: str
    label: str = "Swap inputs"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        declared = kinds.of(graph.node(self.id))
        names = {declared.input(self.first).name: self.second, declared.input(self.second).name: self.first}
        tied = graph.incoming(self.id)
        for port in names:
            graph = Disconnect(End(node=self.id, port=port)).change(graph, kinds)
        for port, other in names.items():
            if port in tied:
                graph = Connect(tied[port], End(node=self.id, port=other)).change(graph, kinds)
        return graph
