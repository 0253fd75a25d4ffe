"""Lays a motif's nodes out where it is used, so that every map stays as it is, bit for bit."""

from __future__ import annotations

import ast
from collections.abc import Mapping
from typing import Any

from msgspec.structs import replace

from reedloom.kinds.catalogue import Kinds
from reedloom.kit.parameters import Number, Parameter
from reedloom.weave.dials import MEASURES, Scope, dial_parameter, drive, names_in
from reedloom.weave.document import Dial, End, Graph, Motif, Node, Thread
from reedloom.weave.edits.base import without
from reedloom.weave.graph import inputs_by_node
from reedloom.weave.motifs import STAND_IN, is_inlet


def unpacked(
    graph: Graph, use: Node, motif: Motif, kinds: Kinds, scope: Scope, dials: Mapping[str, Dial]
) -> Graph:
    """A graph in which the nodes of a motif stand for one use of it.

    Parameters
    ----------
    use : Node
        Of the graph.
    scope : Scope
        What formulas of the graph may read.
    dials : mapping
        The dials among that.

    Returns
    -------
    Graph
    """
    laid = _Laid(graph, use, motif, kinds)
    threads = [t for t in graph.threads if use.id not in {t.source.node, t.target.node}]
    threads += laid.threads()
    for thread in graph.threads:
        if thread.source.node == use.id:
            source = laid.outlet(thread.source.port)
            threads += [] if source is None else [Thread(source=source, target=thread.target)]
    ends: dict[str, End] = {}
    for name, end in graph.ends.items():
        source = laid.outlet(end.port) if end.node == use.id else end
        if source is not None:
            ends[name] = source
    substitutes = _substitutes(use, motif, scope, dials)
    nodes = {i: _with_values(node, substitutes, kinds) for i, node in laid.nodes.items()}
    dx, dy = laid.shift
    moved = {i: replace(b, id=i, x=b.x + dx, y=b.y + dy) for i, b in laid.bays.items()}
    told = {i: replace(n, id=i, x=n.x + dx, y=n.y + dy) for i, n in laid.notes.items()}
    return replace(
        graph,
        nodes=without(graph.nodes, [use.id]) | nodes,
        threads=tuple(threads),
        ends=ends,
        bays=graph.bays | moved,
        notes=graph.notes | told,
    )


class _Laid:
    """The nodes of a motif under fresh ids, and what stands behind its notches out here."""

    def __init__(self, graph: Graph, use: Node, motif: Motif, kinds: Kinds) -> None:
        self.motif, self.kinds = motif, kinds
        inner = motif.graph
        stems = {n.id: n.kind for n in inner.nodes.values()}
        stems |= dict.fromkeys(inner.bays, "bay") | dict.fromkeys(inner.notes, "note")
        self.names = dict(zip(stems, graph.free_ids(stems.values()), strict=True))
        self.outside = graph.incoming(use.id)
        self.inside = inputs_by_node(inner)
        plain = [n for n in inner.nodes.values() if not is_inlet(n.kind)] or list(inner.nodes.values())
        middle_x, middle_y = sum(n.x for n in plain) / len(plain), sum(n.y for n in plain) / len(plain)
        self.shift = round(use.x - middle_x), round(use.y - middle_y)
        self.nodes = {self.names[n.id]: self._placed(n) for n in inner.nodes.values() if not is_inlet(n.kind)}
        self.bays = {self.names[k]: bay for k, bay in inner.bays.items()}
        self.notes = {self.names[k]: note for k, note in inner.notes.items()}
        for node in inner.nodes.values():
            if is_inlet(node.kind):
                self._stand_in(node)

    def _placed(self, node: Node) -> Node:
        return replace(node, id=self.names[node.id], x=node.x + self.shift[0], y=node.y + self.shift[1])

    def _stand_in(self, inlet: Node) -> None:
        """A value for an inlet that nothing is tied to, if it has one and something needs it."""
        parameters = self.kinds.of(inlet).parameters
        tied = inlet.id in self.outside or STAND_IN in self.inside[inlet.id]
        needed = any(t.source.node == inlet.id for t in self.motif.graph.threads)
        needed = needed or any(end.node == inlet.id for end in self.motif.graph.ends.values())
        if tied or not parameters or not needed:
            return
        kind = self.kinds.get("number" if parameters[0].is_number else "solid")
        value = self.kinds.value(inlet, STAND_IN)
        changed = {kind.parameters[0].name: value} if value != kind.parameters[0].default else {}
        made = replace(inlet, kind=kind.id, version=kind.version, parameters=changed, formulas={})
        self.nodes[self.names[inlet.id]] = self._placed(made)

    def _behind(self, end: End) -> End | None:
        """What an end within the motif is out here."""
        node = self.motif.graph.nodes[end.node]
        if not is_inlet(node.kind):
            return End(node=self.names[end.node], port=end.port)
        if end.node in self.outside:
            return self.outside[end.node]
        inner = self.inside[end.node].get(STAND_IN)
        if inner is not None:
            return self._behind(inner)
        made = self.nodes.get(self.names[end.node])
        return End(node=made.id, port=self.kinds.of(made).outputs[0].name) if made is not None else None

    def threads(self) -> list[Thread]:
        found = []
        for thread in self.motif.graph.threads:
            if is_inlet(self.motif.graph.nodes[thread.target.node].kind):
                continue
            source = self._behind(thread.source)
            if source is not None:
                target = End(node=self.names[thread.target.node], port=thread.target.port)
                found.append(Thread(source=source, target=target))
        return found

    def outlet(self, name: str) -> End | None:
        """What stands behind an outlet; None if nothing is tied to it."""
        end = self.motif.graph.ends.get(name)
        return None if end is None else self._behind(end)


def _substitutes(use: Node, motif: Motif, scope: Scope, dials: Mapping[str, Dial]) -> dict[str, Any]:
    """For each dial of a motif its plain value at a use, or the formula that gives it there, as a text."""
    found: dict[str, Any] = {}
    for key, dial in motif.dials.items():
        parameter = dial_parameter(key, dial)
        formula = use.formulas.get(key)
        if formula is None:
            found[key] = (use.parameters.get(key, parameter.default), None)
        elif formula in scope.values and not isinstance(parameter, Number):
            found[key] = (None, formula)
        elif formula in dials and (dials[formula].type, dials[formula].hard) == (dial.type, dial.hard):
            found[key] = (None, formula)  # nothing is rounded or held on the way
        else:
            found[key] = (None, _held(parameter, formula))
    return found


def _held(parameter: Parameter, formula: str) -> str:
    """A formula that gives what the dial of a motif made of it: rounded, and held within its range."""
    if not isinstance(parameter, Number):
        return formula
    text = f"round({formula})" if parameter.is_whole else f"({formula})"
    low, high = parameter.hard
    return text if (low, high) == Number.hard else f"clamp({text}, {low!r}, {high!r})"


def _with_values(node: Node, substitutes: Mapping[str, Any], kinds: Kinds) -> Node:
    """A node whose formulas read what stands out here instead of the motif's dials."""
    parameters, formulas = dict(node.parameters), dict(node.formulas)
    for name, formula in node.formulas.items():
        plain = formula.strip()
        if plain in substitutes and substitutes[plain][1] is None:
            formulas.pop(name)
            parameters.pop(name, None)
            parameter = kinds.of(node).parameter(name)
            value, _ = drive(parameter, plain, Scope({plain: substitutes[plain][0]}, {}))
            if value != parameter.default:
                parameters[name] = value
        elif plain in substitutes:
            formulas[name] = substitutes[plain][1]
        elif names_in(formula) - set(MEASURES):
            formulas[name] = _rewritten(formula, substitutes)
    return replace(node, parameters=parameters, formulas=formulas)


class _Rewriter(ast.NodeTransformer):
    def __init__(self, substitutes: Mapping[str, Any]) -> None:
        self.substitutes = substitutes

    def visit_Name(self, node: ast.Name) -> ast.expr:
        if node.id not in self.substitutes:
            return node
        value, formula = self.substitutes[node.id]
        text = formula if formula is not None else repr(float(value))
        tree = ast.parse(f"({text.replace('^', '**')})", mode="eval")
        return tree.body


def _rewritten(formula: str, substitutes: Mapping[str, Any]) -> str:
    """A formula with other formulas or numbers in the places of some names."""
    tree = ast.parse(f"({formula.replace('^', '**').replace('×', '*').replace('−', '-')})", mode="eval")
    return ast.unparse(_Rewriter(substitutes).visit(tree))
