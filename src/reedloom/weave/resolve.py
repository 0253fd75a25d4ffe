"""Turns a document into one flat graph of plain values: what evaluation, delivery and views read.

Formulas have become values, motifs lie where they are used, and every node stands beside its kind;
whatever was wrong on the way stands at its node. It is pure, and shares what did not change with what it
gave last.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from reedloom.errors import ReedError, unknown
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.data import COLOUR, GREY, Data, SameAs
from reedloom.kit.kind import Kind
from reedloom.kit.ports import Port
from reedloom.weave.dials import Scope, drive, find_by_name, scope_of
from reedloom.weave.document import Document, End, Graph, Motif, Node, Surface
from reedloom.weave.graph import inputs_by_node, upstream_order
from reedloom.weave.memo import remembered
from reedloom.weave.motifs import STAND_IN, VALUE, document_kinds, is_inlet, titled, used_motif

STEP = "."
"""What parts the ids of nodes within each other in the ids of the flat graph; no id holds it."""
NESTING_LIMIT, LAID_OUT_LIMIT = 20, 100_000
"""How deep motifs may stand in each other, and how many nodes they may come to."""


class Resolved(Struct, frozen=True, eq=False, weakref=True):
    """One node of the flat graph.

    Attributes
    ----------
    id : str
        Its node's id, after the ids of the uses of motifs in which it lies.
    node : Node
        The document's node that it comes from.
    values : mapping
        Every parameter's plain value.
    inputs : mapping of port to End
        What is tied to it.
    trouble : str
        Why it cannot be computed whatever comes into it, such as a formula that fails; else empty.
    notes : tuple of str
        What there is to say of its values, such as one that was held within its range.
    """

    id: str
    node: Node
    kind: Kind
    values: Mapping[str, Any]
    inputs: Mapping[str, End]
    muted: bool = False
    trouble: str = ""
    notes: tuple[str, ...] = ()

    @property
    def title(self) -> str:
        """The name given to it, or its kind's label."""
        return self.node.name or self.kind.label


class FlatGraph(Struct, frozen=True, eq=False):
    """A document made plain: nodes by id, what is tied to the rail, and what the tile measures.

    Attributes
    ----------
    aliases : mapping of End to End or None
        For the notches of uses of motifs, and of inlets, the output that stands behind them, if any.
    uses : mapping
        The uses of motifs by id, with the values of their dials.
    folder : str
        Where paths of files begin.
    """

    nodes: Mapping[str, Resolved] = field(default_factory=dict)
    ends: Mapping[str, End] = field(default_factory=dict)
    surface: Surface = field(default_factory=Surface)
    folder: str = ""
    aliases: Mapping[End, End | None] = field(default_factory=dict)
    uses: Mapping[str, Resolved] = field(default_factory=dict)

    def node(self, node_id: str) -> Resolved:
        """The node of that id; `UnknownNameError` if there is none."""
        try:
            return self.nodes[node_id]
        except KeyError:
            raise unknown("node", node_id, self.nodes, "in this weave") from None

    def source(self, end: End) -> End | None:
        """The output that stands behind an end of the document; None where nothing is tied."""
        return self.aliases.get(end, end)

    def holds(self, end: End) -> bool:
        """Whether an end of the document has an output behind it."""
        source = self.source(end)
        return source is not None and source.node in self.nodes

    def values(self, node_id: str) -> Mapping[str, Any] | None:
        """The plain values of a node or of a use of a motif, by its id in the flat graph."""
        found = self.nodes.get(node_id) or self.uses.get(node_id)
        return None if found is None else found.values

    def output(self, end: End) -> Port:
        """The port behind an end.

        Raises
        ------
        UnknownNameError
            If there is no such node or output.
        ReedError
            If nothing is tied there.
        """
        source = self.source(end)
        if source is None:
            raise ReedError(f"Nothing is tied to '{end}' within its motif.")
        return self.node(source.node).kind.output(source.port)


def within(path: tuple[str, ...], node_id: str) -> str:
    """The id in the flat graph of a node inside uses of motifs, from the outermost in."""
    return STEP.join((*path, node_id))


def resolve(
    document: Document,
    kinds: Kinds,
    colourway: str | None = None,
    dials: Mapping[str, Any] | None = None,
) -> FlatGraph:
    """A document as one flat graph of plain values.

    Parameters
    ----------
    colourway : str, optional
        The id or label of one of the document's colourways; the dials as they are turned if not given.
    dials : mapping, optional
        Values of dials, by id or label, that go before the colourway's and the defaults.

    Raises
    ------
    UnknownNameError
        If there is no such colourway or dial.
    ReedError
        If a dial cannot have a given value.
    """
    if colourway is None and not dials:
        return _resolve_plain(document, kinds)
    return _flatten(document, kinds, turned(document, colourway, dials or {}))


def turned(document: Document, colourway: str | None, dials: Mapping[str, Any]) -> dict[str, Any]:
    """The values of dials that differ from their defaults, for a colourway and some values besides.

    Raises
    ------
    UnknownNameError
        If there is no such colourway or dial.
    """
    values = dict(document.settings)
    if colourway is not None:
        key = find_by_name(document.colourways, colourway, "colourway")
        values = dict(document.colourways[key].values)
    for name, value in dials.items():
        values[find_by_name(document.dials, name, "dial")] = value
    return values


@remembered(4)
def _resolve_plain(document: Document, kinds: Kinds) -> FlatGraph:
    return _flatten(document, kinds, document.settings)


def _flatten(document: Document, kinds: Kinds, dials: Mapping[str, Any]) -> FlatGraph:
    kinds = document_kinds(kinds, document)
    laying = _Laying(document, kinds)
    laying.lay(document.graph, (), scope_of(document.dials, dials, document.surface), {}, ())
    _lately.clear()
    _lately.update(laying.found)
    return FlatGraph(
        laying.nodes, document.graph.ends, document.surface, document.folder, laying.aliases, laying.uses
    )


_lately: dict[str, tuple[Resolved, Scope]] = {}
"""What was resolved last, and what formulas read there: a changed document shares what did not change."""


class _Laying:
    """The nodes that were laid out so far, and what stands behind the notches of motifs."""

    def __init__(self, document: Document, kinds: Kinds) -> None:
        self.document, self.kinds = document, kinds
        self.nodes: dict[str, Resolved] = {}
        self.aliases: dict[End, End | None] = {}
        self.uses: dict[str, Resolved] = {}
        self.found: dict[str, tuple[Resolved, Scope]] = {}

    def lay(
        self,
        graph: Graph,
        path: tuple[str, ...],
        scope: Scope,
        incoming: Mapping[str, End | None],
        inside: tuple[str, ...],
    ) -> None:
        """Lay a graph out.

        Parameters
        ----------
        path : ids of the uses in which it lies
        incoming : what is tied to each inlet
        inside : the motifs in which it lies
        """
        inputs = inputs_by_node(graph)
        special = any(
            "." in n.kind and (is_inlet(n.kind) or used_motif(n.kind)) for n in graph.nodes.values()
        )
        order = upstream_order(inputs, graph.nodes) if special else graph.nodes
        place = partial(within, path)
        for node_id in order:
            node = graph.nodes[node_id]
            tied = {
                port: End(node=place(e.node), port=e.port) if path else e
                for port, e in inputs[node_id].items()
            }
            if special:
                found = {port: self.aliases.get(end, end) for port, end in tied.items()}
                tied = {port: end for port, end in found.items() if end is not None}
            if is_inlet(node.kind):
                self._lay_inlet(place(node_id), node, tied, incoming.get(node_id))
            elif used_motif(node.kind) and used_motif(node.kind) in self.document.motifs:
                self._lay_use((*path, node_id), node, tied, scope, inside)
            else:
                self._put(place(node_id), node, self.kinds.of(node), tied, scope)

    def _lay_inlet(self, flat_id: str, node: Node, tied: Mapping[str, End], coming: End | None) -> None:
        kind = self.kinds.of(node)
        behind = coming or tied.get(STAND_IN)
        if behind is None and kind.parameters:
            behind = self._put_constant(flat_id, node, kind)
        self.aliases[End(node=flat_id, port=VALUE)] = behind

    def _put_constant(self, flat_id: str, node: Node, inlet: Kind) -> End:
        """What stands in for an inlet that nothing is tied to: one value everywhere."""
        kind = self.kinds.get("number" if inlet.parameter(STAND_IN).is_number else "solid")
        values = {kind.parameters[0].name: self.kinds.value(node, STAND_IN)}
        constant = replace(node, kind=kind.id, version=kind.version, parameters=values, formulas={})
        self._put(flat_id, constant, kind, {}, Scope({}, {}))
        return End(node=flat_id, port=kind.outputs[0].name)

    def _lay_use(
        self,
        path: tuple[str, ...],
        node: Node,
        tied: Mapping[str, End],
        scope: Scope,
        inside: tuple[str, ...],
    ) -> None:
        key = used_motif(node.kind)
        motif, kind, flat_id = self.document.motifs[key], self.kinds.of(node), STEP.join(path)
        use = self._resolved(flat_id, node, kind, {}, scope)
        trouble = use.trouble or self._refusal(key, inside)
        self.uses[flat_id] = use = replace(use, trouble=trouble) if trouble else use
        if trouble:
            self.nodes[flat_id] = replace(use, muted=False)
            return
        if node.muted:
            for port in kind.outputs:
                self.aliases[End(node=flat_id, port=port.name)] = self._passed_on(kind, port, tied)
            return
        inner = scope_of(motif.dials, use.values, self.document.surface)
        coming = {name: tied.get(name) for name in motif.inlets}
        self.lay(motif.graph, path, inner, coming, (*inside, key))
        self._tie_outlets(motif, path)

    def _tie_outlets(self, motif: Motif, path: tuple[str, ...]) -> None:
        flat_id = STEP.join(path)
        for name in motif.outlets:
            end = motif.graph.ends.get(name)
            behind = None if end is None else End(node=within(path, end.node), port=end.port)
            if behind is not None:
                behind = self.aliases.get(behind, behind)
            self.aliases[End(node=flat_id, port=name)] = behind

    def _refusal(self, key: str, inside: tuple[str, ...]) -> str:
        """Why a motif cannot be laid out here, if so."""
        motifs = self.document.motifs
        if key in inside:
            circle = titled(motifs, reversed((*inside[inside.index(key) :], key)))
            return f"a motif cannot hold itself: {circle}; take one of them out."
        if len(inside) >= NESTING_LIMIT:
            return f"motifs stand in each other more than {NESTING_LIMIT} deep here; unpack some of them."
        if len(self.nodes) + len(motifs[key].graph.nodes) > LAID_OUT_LIMIT:
            return f"the motifs of this weave come to more than {LAID_OUT_LIMIT} nodes; use fewer of them."
        return ""

    def _passed_on(self, kind: Kind, port: Port, tied: Mapping[str, End]) -> End | None:
        """What an outlet of a muted use gives: what is tied to its first fitting inlet."""
        wanted = GREY | COLOUR if isinstance(port.data, SameAs) or port.data & (GREY | COLOUR) else port.data
        for inlet in kind.inputs:
            if inlet.name in tied and isinstance(inlet.data, Data) and inlet.data & wanted:
                return tied[inlet.name]
        return None

    def _put(self, flat_id: str, node: Node, kind: Kind, tied: Mapping[str, End], scope: Scope) -> None:
        self.nodes[flat_id] = self._resolved(flat_id, node, kind, tied, scope)

    def _resolved(
        self, flat_id: str, node: Node, kind: Kind, tied: Mapping[str, End], scope: Scope
    ) -> Resolved:
        """A node beside its kind and with plain values: that of last time, where it would be no other."""
        known, read = _lately.get(flat_id, (None, None))
        same = known is not None and known.kind is kind and known.inputs == tied
        if known is None or not same or known.node is not node or (node.formulas and read is not scope):
            told = _values(node, kind, scope)
            same = same and known is not None and known.node == node
            if known is None or not same or (known.values, known.trouble, known.notes) != told:
                known = Resolved(flat_id, node, kind, told[0], tied, node.muted, told[1], told[2])
        self.found[flat_id] = known, scope
        return known


def _values(node: Node, kind: Kind, scope: Scope) -> tuple[dict[str, Any], str, tuple[str, ...]]:
    """A node's plain values, why it cannot be computed if so, and what there is to say of them."""
    values, trouble, notes = kind.defaults() | node.parameters, kind.missing, []
    for name, formula in node.formulas.items():
        try:
            values[name], note = drive(kind.parameter(name), formula, scope)
        except ReedError as error:
            trouble = trouble or str(error)
        else:
            notes += [note] if note else []
    return values, trouble, tuple(notes)
