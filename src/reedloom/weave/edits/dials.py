"""Edits of dials, of the formulas that read them, and of colourways."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from reedloom.errors import ReedError, unknown
from reedloom.kinds.catalogue import Kinds
from reedloom.weave.dials import Scope, dial_parameter, drive, driven_by, scope_of
from reedloom.weave.document import Colourway, Dial, Document, Motif, Node
from reedloom.weave.edits.base import without
from reedloom.weave.motifs import uses_of

Owner = Document | Motif


def owner_of(document: Document, motif: str) -> Owner:
    """Whose dials the formulas of a graph read: a motif, or the document where its id is empty.

    Raises
    ------
    UnknownNameError
        If there is no such motif.
    """
    if motif and motif not in document.motifs:
        raise unknown("motif", motif, document.motifs, "in this weave")
    return document.motifs[motif] if motif else document


def with_owner(document: Document, motif: str, owner: Owner) -> Document:
    """The document with another state of a motif; that state itself where the id is empty."""
    if isinstance(owner, Motif):
        return replace(document, motifs=document.motifs | {motif: owner})
    return owner


def scope_within(document: Document, motif: str) -> Scope:
    """What formulas of a graph may read: dials as they are turned; those of a motif at their defaults."""
    owner = owner_of(document, motif)
    given = document.settings if isinstance(owner, Document) else {}
    return scope_of(owner.dials, given, document.surface)


def _changed_node(owner: Owner, node: Node) -> Any:
    graph = replace(owner.graph, nodes=owner.graph.nodes | {node.id: node})
    return replace(owner, graph=graph)


class SetFormula(Struct, frozen=True):
    """Let a parameter of a node follow a dial or a formula; None lets it go with its present value.

    motif : in whose graph the node hangs; empty for the weave's own.
    """

    motif: str
    node: str
    name: str
    formula: str | None

    @property
    def label(self) -> str:
        return "Let go of the dials" if self.formula is None else "Write a formula"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        owner, scope = owner_of(document, self.motif), scope_within(document, self.motif)
        node = owner.graph.node(self.node)
        parameter = kinds.of(node).parameter(self.name)
        if self.formula is not None:
            drive(parameter, self.formula, scope)
            formulas = node.formulas | {parameter.name: self.formula.strip()}
            return with_owner(document, self.motif, _changed_node(owner, replace(node, formulas=formulas)))
        freed = let_go(node, [parameter.name], kinds, scope)
        return with_owner(document, self.motif, _changed_node(owner, freed))


def let_go(node: Node, names: Iterable[str], kinds: Kinds, scope: Scope) -> Node:
    """A node whose parameters have no formulas any more, but the values that these gave.

    Parameters
    ----------
    names : iterable of str
        Of the parameters; those without a formula stay as they are.
    scope : Scope
        What the formulas may read.
    """
    parameters = dict(node.parameters)
    for name in names:
        if name not in node.formulas:
            continue
        try:
            parameter = kinds.of(node).parameter(name)
            value, _ = drive(parameter, node.formulas[name], scope)
        except ReedError:
            continue  # it gave none; the plain value that stood below it holds again
        parameters = without(parameters, [name])
        if value != parameter.default:
            parameters[name] = value
    return replace(node, parameters=parameters, formulas=without(node.formulas, names))


class PutDial(Struct, frozen=True):
    """Add a dial to a weave or motif, or change the one of that id.

    drives : node and parameter that follow it from now on, of a new dial.
    """

    motif: str
    id: str
    dial: Dial
    drives: tuple[str, str] | None = None
    label: str = "Make a dial"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        owner = owner_of(document, self.motif)
        if not self.id.isidentifier():
            raise ReedError(f"'{self.id}' cannot be a dial's id; use small letters, digits and underscores.")
        parameter = dial_parameter(self.id, self.dial)
        ends = {name: tuple(float(v) for v in getattr(self.dial, name)) for name in ("useful", "hard")}
        dial = replace(self.dial, default=parameter.default, **ends)
        document = with_owner(document, self.motif, replace(owner, dials=owner.dials | {self.id: dial}))
        if self.drives is not None:
            return SetFormula(self.motif, *self.drives, self.id).apply(document, kinds)
        return document


class RemoveDial(Struct, frozen=True):
    """Take a dial away; what follows it keeps its present value, in uses of a motif too."""

    motif: str
    id: str
    label: str = "Remove dial"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        owner, scope = owner_of(document, self.motif), scope_within(document, self.motif)
        if self.id not in owner.dials:
            raise unknown("dial", self.id, owner.dials, "here")
        nodes = dict(owner.graph.nodes)
        for node_id, name in driven_by(nodes, self.id):
            nodes[node_id] = let_go(nodes[node_id], [name], kinds, scope)
        changed: Any = replace(
            owner, dials=without(owner.dials, [self.id]), graph=replace(owner.graph, nodes=nodes)
        )
        if isinstance(changed, Document):
            ways = {
                key: replace(way, values=without(way.values, [self.id]))
                for key, way in changed.colourways.items()
            }
            return replace(changed, settings=without(changed.settings, [self.id]), colourways=ways)
        return forget_at_uses(with_owner(document, self.motif, changed), self.motif, [self.id])


def forget_at_uses(document: Document, motif: str, dials: Iterable[str]) -> Document:
    """A document whose uses of a motif hold no values or formulas for some of its dials."""
    gone = tuple(dials)
    for where, node_id in tuple(uses_of(document, motif)):
        owner = owner_of(document, where)
        node = owner.graph.nodes[node_id]
        plain = replace(
            node, parameters=without(node.parameters, gone), formulas=without(node.formulas, gone)
        )
        document = with_owner(document, where, _changed_node(owner, plain))
    return document


class OrderParts(Struct, frozen=True):
    """Put dials or colourways into another order; those that are not named stay behind them.

    part : "dials" or "colourways".
    """

    part: str
    order: tuple[str, ...]
    motif: str = ""
    label: str = "Reorder"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        owner = owner_of(document, self.motif)
        held = getattr(owner, self.part)
        keys = [*(k for k in self.order if k in held), *(k for k in held if k not in self.order)]
        return with_owner(document, self.motif, replace(owner, **{self.part: {k: held[k] for k in keys}}))


class TurnDials(Struct, frozen=True):
    """Turn dials of the weave; a value that is the default is stored as nothing."""

    values: Mapping[str, Any]

    @property
    def label(self) -> str:
        return "Turn " + ", ".join(name.replace("_", " ") for name in self.values)

    def apply(self, document: Document, kinds: Kinds) -> Document:
        return replace(document, settings=plain_settings(document, document.settings | dict(self.values)))


class TurnAll(Struct, frozen=True):
    """Turn all dials at once: those that are not given go to their defaults."""

    values: Mapping[str, Any]
    label: str = "Turn the dials"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        return replace(document, settings=plain_settings(document, self.values))


def plain_settings(document: Document, values: Mapping[str, Any]) -> dict[str, Any]:
    """Values of dials in their plain form and the order of the dials, without those that are defaults.

    Raises
    ------
    ReedError
        If there is no such dial, or it cannot have that value.
    """
    for name in values:
        if name not in document.dials:
            raise unknown("dial", name, document.dials, "in this weave")
    found = {}
    for key, dial in document.dials.items():
        if key in values:
            parameter = dial_parameter(key, dial)
            plain = parameter.check(values[key])
            if plain != parameter.default:
                found[key] = plain
    return found


class PutColourway(Struct, frozen=True):
    """Keep values of dials under a name, or change the colourway of that id; it is then the one put on.

    values : the dials as they are turned at present, if None.
    """

    id: str
    name: str
    values: Mapping[str, Any] | None = None
    label: str = "Keep colourway"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        values = plain_settings(document, document.settings if self.values is None else self.values)
        known = document.colourways.get(self.id, Colourway())
        kept = replace(known, label=self.name, values=values)
        put_on = self.id if values == document.settings else document.colourway
        return replace(document, colourways=document.colourways | {self.id: kept}, colourway=put_on)


class RenameColourway(Struct, frozen=True):
    """Give a colourway another name."""

    id: str
    name: str
    label: str = "Rename colourway"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        way = replace(_colourway(document, self.id), label=self.name)
        return replace(document, colourways=document.colourways | {self.id: way})


class RemoveColourway(Struct, frozen=True):
    """Leave a colourway out; the dials stay as they are turned."""

    id: str
    label: str = "Leave colourway out"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        _colourway(document, self.id)
        put_on = "" if document.colourway == self.id else document.colourway
        return replace(document, colourways=without(document.colourways, [self.id]), colourway=put_on)


class PutOn(Struct, frozen=True):
    """Turn all dials as a colourway has them; to their defaults where its id is empty."""

    id: str
    label: str = "Put colourway on"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        values = _colourway(document, self.id).values if self.id else {}
        return replace(document, settings=plain_settings(document, values), colourway=self.id)


def _colourway(document: Document, key: str) -> Colourway:
    if key not in document.colourways:
        raise unknown("colourway", key, document.colourways, "in this weave")
    return document.colourways[key]


class TakeAsDefaults(Struct, frozen=True):
    """Make the dials as they are turned their defaults; colourways go on looking as they did."""

    label: str = "Take the present values as defaults"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        dials = {
            key: replace(dial, default=document.settings.get(key, dial.default))
            for key, dial in document.dials.items()
        }
        changed = replace(document, dials=dials, settings={})
        old = {key: document.dials[key].default for key in document.settings if key in document.dials}
        ways = {
            key: replace(way, values=plain_settings(changed, old | way.values))
            for key, way in document.colourways.items()
        }
        return replace(changed, colourways=ways)


class EachOf(Struct, frozen=True):
    """Several edits of a document as one step."""

    label: str
    edits: tuple[Any, ...]

    def apply(self, document: Document, kinds: Kinds) -> Document:
        for edit in self.edits:
            document = edit.apply(document, kinds)
        return document
