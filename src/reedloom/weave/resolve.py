"""Turns a document into one flat graph of plain values: what evaluation, delivery and views read.

Formulas have become values, and every node stands beside its kind; whatever was wrong on the way stands
at its node. It is pure, and shares what did not change with what it gave last.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any
from weakref import WeakValueDictionary

from reedloom.errors import ReedError, unknown
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.formulas import FormulaError, read_formula
from reedloom.kit.kind import Kind
from reedloom.kit.ports import Port
from reedloom.weave.document import Colourway, Dial, Document, End, Node, Surface
from reedloom.weave.graph import inputs_by_node
from reedloom.weave.memo import remembered


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class Resolved:
    """One node of the flat graph.

    Attributes
    ----------
    node : Node
        The document's node that it comes from.
    values : mapping
        Every parameter's plain value.
    inputs : mapping of port to End
        What is tied to it.
    trouble : str
        Why it cannot be computed whatever comes into it, such as a formula that fails; else empty.
    """

    id: str
    node: Node
    kind: Kind
    values: Mapping[str, Any]
    inputs: Mapping[str, End]
    muted: bool = False
    trouble: str = ""

    @property
    def title(self) -> str:
        """The name given to it, or its kind's label."""
        return self.node.name or self.kind.label


@dataclass(frozen=True, slots=True, eq=False)
class FlatGraph:
    """A document made plain: nodes by id, what is tied to the rail, and what the tile measures.

    Attributes
    ----------
    folder : str
        Where paths of files begin.
    """

    nodes: Mapping[str, Resolved] = field(default_factory=dict)
    ends: Mapping[str, End] = field(default_factory=dict)
    surface: Surface = field(default_factory=Surface)
    folder: str = ""

    def node(self, node_id: str) -> Resolved:
        """The node of that id; `UnknownNameError` if there is none."""
        try:
            return self.nodes[node_id]
        except KeyError:
            raise unknown("node", node_id, self.nodes, "in this weave") from None

    def output(self, end: End) -> Port:
        """The port behind an end.

        Raises
        ------
        UnknownNameError
            If there is no such node or output.
        """
        return self.node(end.node).kind.output(end.port)


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
        The id or label of one of the document's colourways.
    dials : mapping, optional
        Values of dials that go before the colourway's and the defaults.

    Raises
    ------
    UnknownNameError
        If there is no such colourway or dial.
    """
    given = dict(dials or {})
    for name in given:
        if name not in document.dials:
            raise unknown("dial", name, document.dials, "in this weave")
    chosen = _colourway(document, colourway).values if colourway is not None else {}
    if not given and not chosen:
        return _resolve_plain(document, kinds)
    return _flatten(document, kinds, {**chosen, **given})


def _colourway(document: Document, name: str) -> Colourway:
    for key, colourway in document.colourways.items():
        if name in (key, colourway.label):
            return colourway
    raise unknown("colourway", name, document.colourways, "in this weave")


@remembered(4)
def _resolve_plain(document: Document, kinds: Kinds) -> FlatGraph:
    return _flatten(document, kinds, {})


def _flatten(document: Document, kinds: Kinds, dials: Mapping[str, Any]) -> FlatGraph:
    names = _names(document.dials, dials, document.surface)
    inputs = inputs_by_node(document.graph)
    nodes: dict[str, Resolved] = {}
    for node_id, node in document.graph.nodes.items():
        known, kind = _lately.get(node_id), kinds.of(node)
        if (
            known is None
            or known.node is not node
            or known.kind is not kind
            or known.inputs != inputs[node_id]
            or node.formulas
        ):
            known = _resolve_node(node, kind, inputs[node_id], names)
        nodes[node_id] = known
    _lately.clear()
    _lately.update(nodes)
    return FlatGraph(nodes, document.graph.ends, document.surface, document.folder)


_lately: WeakValueDictionary[str, Resolved] = WeakValueDictionary()
"""What was resolved last, so that a changed document shares what did not change."""


def _names(dials: Mapping[str, Dial], given: Mapping[str, Any], surface: Surface) -> dict[str, Any]:
    """What a formula may read: dials by id, and the tile's measures in metres."""
    found: dict[str, Any] = {key: given.get(key, dial.default) for key, dial in dials.items()}
    return found | {"tile_width": surface.width, "tile_height": surface.height, "tile_depth": surface.depth}


def _resolve_node(node: Node, kind: Kind, inputs: Mapping[str, End], names: Mapping[str, Any]) -> Resolved:
    values, trouble = kind.defaults() | node.parameters, kind.missing
    for name, formula in node.formulas.items():
        try:
            values[name] = _driven(kind, name, formula, names)
        except ReedError as error:
            trouble = trouble or str(error)
    return Resolved(node.id, node, kind, values, inputs, node.muted, trouble)


def _driven(kind: Kind, name: str, formula: str, names: Mapping[str, Any]) -> Any:
    """A parameter's value by its formula: a dial as it is, or arithmetic over numbers."""
    parameter = kind.parameter(name)
    if formula.strip() in names:
        return parameter.check(names[formula.strip()])
    numbers = {key: float(v) for key, v in names.items() if isinstance(v, (int, float))}
    try:
        value = float(read_formula(formula, frozenset(numbers))(numbers))
    except FormulaError as error:
        raise ReedError(f"the formula of '{parameter.title}' cannot be worked out: {error}") from None
    if not math.isfinite(value):
        raise ReedError(f"the formula of '{parameter.title}' has no finite value.")
    return parameter.check(round(value) if parameter.is_whole else value)
