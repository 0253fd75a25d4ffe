"""Edits of nodes: hanging, removing, setting, naming and muting them."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import count
from typing import Any

from msgspec import field
from msgspec.structs import replace

from reedloom.errors import unknown
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import Seed
from reedloom.weave.document import End, Graph, Node
from reedloom.weave.edits.base import GraphEdit, without
from reedloom.weave.edits.threads import TakeOut
from reedloom.weave.motifs import FAMILY


class AddNode(GraphEdit, frozen=True):
    """Hang a node. `id` is chosen by `Graph.free_id` before; seeds not given are such as no other has."""

    id: str
    kind: str
    x: float = 0.0
    y: float = 0.0
    parameters: Mapping[str, Any] = field(default_factory=dict)

    @property
    def label(self) -> str:
        return f"Add {self.kind.rpartition('.')[2].replace('_', ' ')}"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        declared = kinds.get(self.kind)
        node = Node(id=self.id, kind=self.kind, version=declared.version, x=self.x, y=self.y)
        with_node = replace(graph, nodes={**graph.nodes, self.id: node})
        parameters = _own_seeds(graph, kinds, declared) | dict(self.parameters)
        return SetParameters(self.id, parameters).change(with_node, kinds) if parameters else with_node


def _own_seeds(graph: Graph, kinds: Kinds, declared: Kind) -> dict[str, int]:
    """Seeds for a new node, so that two noises just hung are not the same noise; a motif comes as it is."""
    names = [p.name for p in declared.parameters if isinstance(p, Seed)]
    if not names or declared.family == FAMILY:
        return {}
    taken = {
        kinds.value(node, p.name)
        for node in graph.nodes.values()
        for p in kinds.of(node).parameters
        if isinstance(p, Seed)
    }
    free = (seed for seed in count() if seed not in taken)
    return {name: next(free) for name in names}


class RemoveNodes(GraphEdit, frozen=True):
    """Take nodes away with their threads and ties; with `close_up` threads are tied on past them."""

    ids: tuple[str, ...]
    close_up: bool = False

    @property
    def label(self) -> str:
        return "Remove node" if len(self.ids) == 1 else f"Remove {len(self.ids)} nodes"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        for node_id in self.ids:
            graph.node(node_id)
            graph = TakeOut(node_id).change(graph, kinds) if self.close_up else graph
        gone = set(self.ids)
        threads = tuple(t for t in graph.threads if not {t.source.node, t.target.node} & gone)
        ties = {c: end for c, end in graph.ends.items() if end.node not in gone}
        return replace(graph, nodes=without(graph.nodes, gone), threads=threads, ends=ties)


class SetParameters(GraphEdit, frozen=True):
    """Give parameters of a node new values; a default value is stored as nothing.

    A parameter that followed a dial or a formula does so no longer.
    """

    id: str
    values: Mapping[str, Any]

    @property
    def label(self) -> str:
        return "Set " + ", ".join(name.replace("_", " ") for name in self.values)

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        node = graph.node(self.id)
        changed, declared = dict(node.parameters), kinds.of(node)
        values = declared.renamed(self.values)
        for name, value in values.items():
            parameter = declared.parameter(name)
            plain = parameter.check(value, self.id)
            if plain == parameter.default:
                changed.pop(name, None)
            else:
                changed[name] = plain
        formulas = without(node.formulas, values) if node.formulas else node.formulas
        if changed == node.parameters and formulas == node.formulas:
            return graph
        node = replace(node, parameters=changed, formulas=formulas)
        return replace(graph, nodes={**graph.nodes, self.id: node})


class SetNode(GraphEdit, frozen=True):
    """Change a node's name, or mute or unmute it."""

    id: str
    name: str | None = None
    muted: bool | None = None

    @property
    def label(self) -> str:
        if self.muted is not None:
            return "Mute node" if self.muted else "Unmute node"
        return "Rename node"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        node = graph.node(self.id)
        node = replace(
            node,
            name=node.name if self.name is None else self.name,
            muted=node.muted if self.muted is None else self.muted,
        )
        return replace(graph, nodes={**graph.nodes, self.id: node})


class ReorderSeries(GraphEdit, frozen=True):
    """Put the rows of a list, such as layers, into another order: what is tied to them and their values.

    order : the present number of each row, from the first; rows that are not named stay behind them.
    """

    node: str
    order: tuple[int, ...]
    label: str = "Reorder"

    def change(self, graph: Graph, kinds: Kinds) -> Graph:
        node = graph.node(self.node)
        ports, values = series_of(kinds.of(node))
        rest = [number for number in ports if number not in self.order]
        old = [*self.order, *rest]
        if sorted(old) != sorted(ports):
            raise unknown("row", str(self.order), map(str, ports), f"of '{self.node}'")
        renamed = {
            ports[source][place]: ports[number][place]
            for number, source in zip(ports, old, strict=True)
            for place in range(len(ports[number]))
        }
        moved = {
            values[number][place]: values[source][place]
            for number, source in zip(ports, old, strict=True)
            for place in range(len(values.get(number, ())))
        }
        given = {name: kinds.value(node, source) for name, source in moved.items()}
        formulas = {name: node.formulas[source] for name, source in moved.items() if source in node.formulas}
        threads = tuple(
            replace(t, target=End(node=self.node, port=renamed.get(t.target.port, t.target.port)))
            if t.target.node == self.node
            else t
            for t in graph.threads
        )
        graph = SetParameters(self.node, given).change(replace(graph, threads=threads), kinds)
        node = graph.node(self.node)
        if not formulas:
            return graph
        node = replace(node, formulas=node.formulas | formulas)
        return replace(graph, nodes={**graph.nodes, node.id: node})


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
