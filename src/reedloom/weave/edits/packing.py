"""Edits that pack a selection into a motif, and lay one out again where it is used."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from reedloom.errors import ConnectError, ReedError
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.data import Data
from reedloom.weave.dials import names_in
from reedloom.weave.document import Document, End, Graph, Inlet, Motif, Node, Outlet, Thread
from reedloom.weave.edits.base import without
from reedloom.weave.edits.dials import Owner, owner_of, scope_within, with_owner
from reedloom.weave.graph import downstream, output_data
from reedloom.weave.motifs import (
    FLEXIBLE,
    MOTIF,
    VALUE,
    inlet_kind_id,
    inlet_kinds,
    is_inlet,
    used_motif,
)
from reedloom.weave.unpacking import unpacked

ABOVE = 190.0
"""How far above the cards of a packed motif its inlets hang."""


def _free(stem: str, taken: Iterable[str]) -> str:
    names, name, number = set(taken), stem, 2
    while name in names:
        name, number = f"{stem}_{number}", number + 1
    return name


class PackMotif(Struct, frozen=True):
    """Put nodes of a graph into a motif, and one node that uses it in their place.

    Threads that cross the boundary become inlets and outlets, with names taken from the ports; dials that
    the nodes follow become dials of the motif, which its use follows.

    Attributes
    ----------
    motif : str
        In whose graph the nodes hang; empty for the weave's own.
    ids : tuple of str
        Nodes, and bays and notes that go with them.
    key, use : str
        The ids of the new motif and of the node that uses it; see `free_motif_id`, `Graph.free_id`.
    """

    motif: str
    ids: tuple[str, ...]
    title: str
    key: str
    use: str
    label: str = "Pack into a motif"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        owner = owner_of(document, self.motif)
        graph = owner.graph
        chosen = {i for i in self.ids if i in graph.nodes}
        if not chosen:
            raise ReedError("Select the nodes that the motif should hold.")
        if any(is_inlet(graph.nodes[i].kind) for i in chosen):
            raise ReedError("An inlet stays where it is; select the nodes below it.")
        _refuse_between(graph, chosen, kinds)
        inlets, inner_nodes, inner_threads, outer_in = self._inlets(graph, chosen, kinds)
        outlets, ends, moved = self._outlets(graph, chosen, kinds)
        dials, formulas = _dials_along(owner, chosen)
        inner = Graph(
            nodes=inner_nodes,
            threads=inner_threads,
            ends=ends,
            bays={k: b for k, b in graph.bays.items() if k in self.ids},
            notes={k: n for k, n in graph.notes.items() if k in self.ids},
        )
        motif = Motif(title=self.title, inlets=inlets, outlets=outlets, dials=dials, graph=inner)
        left = sum(graph.nodes[i].x for i in chosen) / len(chosen)
        top = sum(graph.nodes[i].y for i in chosen) / len(chosen)
        use = Node(
            id=self.use, kind=MOTIF + self.key, x=float(round(left)), y=float(round(top)), formulas=formulas
        )
        outer = _with_use(graph, chosen, use, outer_in, moved)
        outer = replace(outer, bays=without(outer.bays, self.ids), notes=without(outer.notes, self.ids))
        document = with_owner(document, self.motif, replace(owner, graph=outer))
        return replace(document, motifs=document.motifs | {self.key: motif})

    def _inlets(
        self, graph: Graph, chosen: set[str], kinds: Kinds
    ) -> tuple[dict[str, Inlet], dict[str, Node], tuple[Thread, ...], list[Thread]]:
        """The inlets, the nodes and threads inside, and the threads that come to the use."""
        data = output_data(graph, kinds)
        coming: dict[End, list[Thread]] = {}
        for thread in graph.threads:
            if thread.target.node in chosen and thread.source.node not in chosen:
                coming.setdefault(thread.source, []).append(thread)
        inlets: dict[str, Inlet] = {}
        nodes = {i: n for i, n in graph.nodes.items() if i in chosen}
        threads = [t for t in graph.threads if {t.source.node, t.target.node} <= chosen]
        outer: list[Thread] = []
        top = min(nodes[i].y for i in chosen) - ABOVE
        for source, held in coming.items():
            first = held[0].target
            name = _free(first.port, {*nodes, *graph.bays, *graph.notes, *inlets})
            taken = _data_of_inlet(
                [_taken(graph, kinds, t.target) for t in held], data[source.node, source.port]
            )
            label = kinds.of(graph.nodes[first.node]).input(first.port).label
            inlets[name] = Inlet(label=label)
            nodes[name] = Node(id=name, kind=inlet_kind_id(taken), name=label, x=nodes[first.node].x, y=top)
            threads += [Thread(source=End(node=name, port=VALUE), target=t.target) for t in held]
            outer.append(Thread(source=source, target=End(node=self.use, port=name)))
        return inlets, nodes, tuple(threads), outer

    def _outlets(
        self, graph: Graph, chosen: set[str], kinds: Kinds
    ) -> tuple[dict[str, Outlet], dict[str, End], dict[End, End]]:
        """The outlets, what is tied to them inside, and which of the use's ends stands for which inside."""
        leaving = [t.source for t in graph.threads if t.source.node in chosen and t.target.node not in chosen]
        leaving += [end for end in graph.ends.values() if end.node in chosen]
        if not leaving:  # nothing uses it yet: what comes out is what nothing within uses
            used = {t.source.node for t in graph.threads if t.target.node in chosen}
            last = [i for i in graph.nodes if i in chosen and i not in used] or sorted(chosen)
            leaving = [
                End(node=i, port=kinds.of(graph.nodes[i]).outputs[0].name)
                for i in last
                if kinds.of(graph.nodes[i]).outputs
            ]
        outlets: dict[str, Outlet] = {}
        ends: dict[str, End] = {}
        moved: dict[End, End] = {}
        for end in dict.fromkeys(leaving):
            label = kinds.of(graph.nodes[end.node]).output(end.port).label
            if any(outlet.label == label for outlet in outlets.values()):
                label = f"{kinds.title(graph.nodes[end.node])}: {label.lower()}"
            name = _free(end.port, outlets)
            outlets[name], ends[name] = Outlet(label=label), end
            moved[end] = End(node=self.use, port=name)
        if not outlets:
            raise ReedError("Nothing comes out of these nodes; a motif needs at least one result.")
        return outlets, ends, moved


def _refuse_between(graph: Graph, chosen: set[str], kinds: Kinds) -> None:
    """A motif is one step: nothing outside it may both need it and be needed by it."""
    after = downstream(graph, chosen) - chosen
    for thread in graph.threads:
        if thread.source.node in after and thread.target.node in chosen:
            title = kinds.title(graph.nodes[thread.source.node])
            raise ConnectError(
                f"'{title}' lies between these nodes; select it too, or leave one of them out."
            )


def _taken(graph: Graph, kinds: Kinds, target: End) -> Data:
    data = kinds.of(graph.nodes[target.node]).input(target.port).data
    assert isinstance(data, Data)
    return data


def _data_of_inlet(wanted: list[Data], given: Data) -> Data:
    """What an inlet takes: what all behind it take, one kind of data or grey and colour."""
    common = wanted[0]
    for data in wanted[1:]:
        common &= data
    if common & FLEXIBLE or (not common and all(data & FLEXIBLE for data in wanted)):
        common = common & FLEXIBLE or FLEXIBLE
        return common if inlet_kind_id(common) in inlet_kinds() else FLEXIBLE
    single = common & given or common or given
    return next(iter(single))


def _dials_along(owner: Owner, chosen: set[str]) -> tuple[dict[str, Any], dict[str, str]]:
    """The dials that nodes follow, for a motif of them, and the formulas by which its use follows them."""
    read = {
        name
        for i in chosen
        for formula in owner.graph.nodes[i].formulas.values()
        for name in names_in(formula)
    }
    dials = {key: dial for key, dial in owner.dials.items() if key in read}
    return dials, {key: key for key in dials}


def _with_use(
    graph: Graph, chosen: set[str], use: Node, incoming: list[Thread], moved: Mapping[End, End]
) -> Graph:
    """A graph in which one node stands for the chosen ones."""
    threads = [t for t in graph.threads if not {t.source.node, t.target.node} & chosen]
    threads += [
        Thread(source=moved[t.source], target=t.target)
        for t in graph.threads
        if t.source.node in chosen and t.target.node not in chosen
    ]
    return replace(
        graph,
        nodes=without(graph.nodes, chosen) | {use.id: use},
        threads=(*threads, *incoming),
        ends={name: moved.get(end, end) for name, end in graph.ends.items()},
    )


class UnpackMotif(Struct, frozen=True):
    """Lay the nodes of a motif out in the place of one use of it."""

    motif: str
    use: str
    label: str = "Unpack the motif"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        owner = owner_of(document, self.motif)
        node = owner.graph.node(self.use)
        key = used_motif(node.kind)
        if key not in document.motifs:
            raise ReedError(f"'{self.use}' is no use of a motif of this weave.")
        if node.muted:
            raise ReedError(f"'{kinds.title(node)}' is muted; unmute it before it is unpacked.")
        graph = unpacked(
            owner.graph, node, document.motifs[key], kinds, scope_within(document, self.motif), owner.dials
        )
        return with_owner(document, self.motif, replace(owner, graph=graph))
