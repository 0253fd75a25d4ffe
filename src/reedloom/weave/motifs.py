"""Motifs as kinds: what a document's own graphs look like from outside, and their inlets from inside.

A motif is a kind made from data: its ports are inlets and outlets, its parameters its dials. Nothing is
computed by it; `resolve` lays its graph out in its place.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from functools import cache
from typing import Any

from reedloom.errors import ConnectError, ReedError
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.data import COLOUR, GREY, SAME_AS, Data, SameAs
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import ColourValue, Float, Parameter
from reedloom.kit.ports import Port
from reedloom.weave.dials import dial_parameter
from reedloom.weave.document import Document, Graph, Motif
from reedloom.weave.graph import carried_data, inputs_by_node, upstream_order, with_stand_ins
from reedloom.weave.memo import remembered

MOTIF, INLET = "motif.", "inlet."
"""How the kinds of nodes that use a motif begin, and those of a motif's own inlets."""
FAMILY = "motif"
VALUE, STAND_IN = "value", "stand_in"
"""The output of an inlet, and the input and the parameter that stand in when nothing is tied."""
FLEXIBLE = GREY | COLOUR


def used_motif(kind_id: str) -> str:
    """The id of the motif that nodes of a kind use; empty if it is none."""
    return kind_id.removeprefix(MOTIF) if kind_id.startswith(MOTIF) else ""


def is_inlet(kind_id: str) -> bool:
    """Whether nodes of a kind are inlets."""
    return kind_id.startswith(INLET)


def inlet_kind_id(data: Data) -> str:
    """The kind of the inlets that take such data."""
    return INLET + "_".join(str(part.name).lower() for part in data)


@cache
def inlet_kinds() -> Mapping[str, Kind]:
    """The kinds of inlets by id: one for each kind of data, and one for grey or colour."""
    return {inlet_kind_id(data): _inlet_kind(data) for data in (*Data, FLEXIBLE)}


def _inlet_kind(data: Data) -> Kind:
    stand_in: tuple[Parameter, ...] = ()
    if data & GREY:
        stand_in = (Float(STAND_IN, 0.5, (0, 1), help="Stands in when nothing is tied to the motif there."),)
    elif data & COLOUR:
        stand_in = (
            ColourValue(STAND_IN, (0.5, 0.5, 0.5), help="Stands in when nothing is tied to the motif there."),
        )
    what = "Stands in when nothing is tied to the motif there; the value below if this is not tied either."
    return Kind(
        id=inlet_kind_id(data),
        label=f"Inlet, {data.word}",
        family=FAMILY,
        version=1,
        purpose=f"What is tied to the motif's own notch: {data.word}.",
        inputs=(Port(STAND_IN, data, optional=True, help=what),),
        outputs=(Port(VALUE, data),),
        parameters=stand_in,
        compute=_refuse,
    )


def _refuse(context: Any, *inputs: Any, **values: Any) -> Any:
    raise ReedError("it is laid out before anything is computed.")


def document_kinds(base: Kinds, document: Document) -> Kinds:
    """The kinds that a document's nodes may be of: a set, its motifs, and stand-ins for what is missing.

    The same set is given for documents whose motifs look the same from outside.
    """
    graphs = [document.graph, *(motif.graph for motif in document.motifs.values())]
    if not document.motifs:
        return with_stand_ins(base, graphs)
    return with_stand_ins(_with_motifs(base, document.motifs), graphs)


_last: list[tuple[Kinds, tuple[Kind, ...], Kinds]] = []
"""The set that was made last: from which, with which motifs, and what it was."""


@remembered(4)
def _with_inlets(base: Kinds) -> Kinds:
    return base.having(inlet_kinds().values())


@remembered(4)
def _with_motifs(base: Kinds, motifs: Mapping[str, Motif]) -> Kinds:
    made: dict[str, Kind] = {}
    within = _with_inlets(base)
    nested = {inner for motif in motifs.values() for inner in used_in(motif.graph)}
    for key in inner_first(motifs)[0]:
        kind = _motif_kind(key, motifs[key], with_stand_ins(within, [motifs[key].graph]))
        made[kind.id] = kind
        if key in nested:
            within = within.having([kind])
    kinds = tuple(made.values())
    for known_base, known, result in _last:
        if known_base is base and known == kinds:
            return result
    result = base.having((*inlet_kinds().values(), *kinds))
    _last[:] = [(base, kinds, result), *_last[:3]]
    return result


@remembered(256)
def _motif_kind(key: str, motif: Motif, kinds: Kinds) -> Kind:
    data = _outlet_data(motif, kinds)
    parameters = []
    for name, dial in motif.dials.items():
        try:
            parameters.append(dial_parameter(name, dial))
        except ReedError:
            continue  # the motif's own dials say what is wrong; its other uses go on
    return Kind(
        id=MOTIF + key,
        label=motif.title or key.replace("_", " ").capitalize(),
        family=FAMILY,
        version=1,
        purpose=motif.purpose or "A motif of this weave.",
        inputs=tuple(
            Port(name, _taken(motif, name, kinds), optional=True, help=inlet.help, title=inlet.label)
            for name, inlet in motif.inlets.items()
        ),
        outputs=tuple(
            Port(name, data.get(name, GREY), help=outlet.help, title=outlet.label)
            for name, outlet in motif.outlets.items()
        ),
        parameters=tuple(parameters),
        compute=_refuse,
        synonyms=motif.synonyms,
    )


def _taken(motif: Motif, name: str, kinds: Kinds) -> Data:
    """What an inlet takes."""
    node = motif.graph.nodes.get(name)
    data = kinds.of(node).outputs[0].data if node is not None and kinds.of(node).outputs else GREY
    return data if isinstance(data, Data) else GREY


def _outlet_data(motif: Motif, kinds: Kinds) -> dict[str, Data | SameAs]:
    """What each outlet carries; colour where an inlet that takes both gets colour, if that is so."""
    graph = motif.graph
    flexible = [name for name in motif.inlets if _taken(motif, name, kinds) == FLEXIBLE]
    plain = _carried(graph, kinds, ())
    found: dict[str, Data | SameAs] = {}
    for name, end in graph.ends.items():
        data = plain.get((end.node, end.port), GREY)
        if data == GREY and flexible:
            following = [
                inlet
                for inlet in flexible
                if _carried(graph, kinds, (inlet,)).get((end.node, end.port)) == COLOUR
            ]
            found[name] = SAME_AS(*following) if following else data
        else:
            found[name] = data
    return found


def _carried(graph: Graph, kinds: Kinds, coloured: Iterable[str]) -> dict[tuple[str, str], Data]:
    """What every output of a motif's graph carries when colour comes into some inlets, grey into others."""
    found: dict[tuple[str, str], Data] = {}
    ends = {end.node for thread in graph.threads for end in (thread.source, thread.target)}
    if not ends <= graph.nodes.keys():
        return found  # of a broken file, which is told where it is broken
    inputs, coloured = inputs_by_node(graph), set(coloured)
    try:
        order = upstream_order(inputs, graph.nodes)
    except ReedError:
        return found  # a circle of threads, which is told too
    for node_id in order:
        for port in kinds.of(graph.nodes[node_id]).outputs:
            if port.data == FLEXIBLE and is_inlet(graph.nodes[node_id].kind):
                found[node_id, port.name] = COLOUR if node_id in coloured else GREY
            else:
                found[node_id, port.name] = carried_data(port, inputs[node_id], found)
    return found


def used_in(graph: Graph) -> list[str]:
    """The motifs that nodes of a graph use, each once."""
    return list(dict.fromkeys(key for node in graph.nodes.values() if (key := used_motif(node.kind))))


def with_inner(keys: Iterable[str], motifs: Mapping[str, Motif]) -> dict[str, Motif]:
    """Some motifs and all that they use, however deep."""
    found: dict[str, Motif] = {}
    waiting = list(keys)
    while waiting:
        key = waiting.pop()
        if key in motifs and key not in found:
            found[key] = motifs[key]
            waiting += used_in(motifs[key].graph)
    return found


def inner_first(motifs: Mapping[str, Motif]) -> tuple[list[str], list[str]]:
    """The motifs, each after those that it uses, and a circle of them if there is one.

    Returns
    -------
    (ids in their order, ids along the circle from one to itself again)
    """
    order: list[str] = []
    circle: list[str] = []
    state: dict[str, int] = {}
    for start in motifs:
        stack = [(start, False)]
        path: list[str] = []
        while stack:
            key, leaving = stack.pop()
            if leaving:
                state[key] = 2
                order.append(key)
                path.pop()
            elif state.get(key) == 1:
                circle = circle or [*path[path.index(key) :], key]
            elif key in motifs and key not in state:
                state[key] = 1
                path.append(key)
                stack.append((key, True))
                stack += [(inner, False) for inner in used_in(motifs[key].graph)]
    return order, circle


def titled(motifs: Mapping[str, Motif], keys: Iterable[str]) -> str:
    """The titles of some motifs as one text."""
    return " in ".join(f"'{motifs[key].title or key}'" for key in keys)


def uses_of(document: Document, key: str) -> Iterator[tuple[str, str]]:
    """Where a motif is used: the motif in whose graph, empty for the weave's own, and the node."""
    for where, graph in [("", document.graph), *((k, m.graph) for k, m in document.motifs.items())]:
        for node in graph.nodes.values():
            if used_motif(node.kind) == key:
                yield where, node.id


def motif_at(document: Document, path: tuple[str, ...]) -> str | None:
    """The motif that one is in after going into some uses; empty for none, None where there is no way."""
    graph, key = document.graph, ""
    for use in path:
        node = graph.nodes.get(use)
        key = used_motif(node.kind) if node is not None else ""
        if key not in document.motifs:
            return None
        graph = document.motifs[key].graph
    return key


def check_nesting(motifs: Mapping[str, Motif], before: Mapping[str, Motif]) -> None:
    """Refuse a change after which a motif would hold itself, unless one did before.

    Raises
    ------
    ConnectError
        With the titles along the circle.
    """
    circle = inner_first(motifs)[1]
    if circle and not inner_first(before)[1]:
        raise ConnectError(f"A motif cannot hold itself: {titled(motifs, reversed(circle))}.")
