"""Hanging new nodes and tying them: what fits where, and the edit that does it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from reedloom.desk.screen.workplace import Workplace
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.data import COLOUR, GREY, MATERIAL, Data, SameAs
from reedloom.kit.kind import Kind
from reedloom.kit.ports import Port, Role
from reedloom.weave.arrange import DOWN
from reedloom.weave.document import End, Graph
from reedloom.weave.edits import AddNode, Batch, Connect, Edit, GraphEdit, Tie, TieOutlet
from reedloom.weave.graph import accepts, carried_channels, output_data
from reedloom.weave.motifs import MOTIF, is_inlet, with_inner


def fitting_input(inputs: Iterable[Port], data: Data) -> Port | None:
    """The first of some inputs that takes such data: one that must be tied, then the next row of a list."""
    ports = sorted(inputs, key=lambda p: (p.optional, p.series > 0 and p.role is not Role.VALUE))
    exact = [p for p in ports if isinstance(p.data, Data) and p.data & data]
    return next(iter(exact), None) or next((p for p in ports if accepts(p, data)), None)


def possible_data(port: Port) -> Data:
    """What an output may carry, before anything is tied to its node."""
    return GREY | COLOUR if isinstance(port.data, SameAs) else port.data


def fitting_output(kind: Kind, port: Port) -> Port | None:
    """The first output of a kind that an input takes."""
    return next((p for p in kind.outputs if accepts(port, possible_data(p))), None)


def kinds_that_fit(graph: Graph, kinds: Kinds, end: End, is_output: bool) -> list[Kind]:
    """The kinds that can be tied to a port."""
    if is_output:
        data = output_data(graph, kinds)[end.node, end.port]
        return [kind for kind in kinds if fitting_input(kind.inputs, data)]
    port = kinds.of(graph.node(end.node)).input(end.port)
    return [kind for kind in kinds if fitting_output(kind, port)]


def hang_tied(
    graph: Graph, kinds: Kinds, kind_id: str, place: tuple[float, float], end: End, is_output: bool
) -> tuple[GraphEdit, str]:
    """The edit that hangs a node and ties it to a port, and the new node's id."""
    kind = kinds.get(kind_id)
    node_id = graph.free_id(kind_id)
    add = AddNode(node_id, kind_id, *place)
    if is_output:
        port = fitting_input(kind.inputs, output_data(graph, kinds)[end.node, end.port])
        tie = Connect(end, End(node=node_id, port=port.name)) if port else None
    else:
        given = fitting_output(kind, kinds.of(graph.node(end.node)).input(end.port))
        tie = Connect(End(node=node_id, port=given.name), end) if given else None
    return (Batch(add.label, (add, tie)) if tie else add), node_id


def tie_to_rail(graph: Graph, kinds: Kinds, source: End, channel: str) -> GraphEdit:
    """The edit that ties an output to a slot of the map rail.

    A material goes to the slots of all the channels it has, through a node that parts it.
    """
    if output_data(graph, kinds)[source.node, source.port] != MATERIAL:
        return Tie(source, channel)
    giver = graph.nodes[source.node]
    parts = graph.free_id("material_channels")
    edits: list[GraphEdit] = [
        AddNode(parts, "material_channels", giver.x, giver.y + DOWN),
        Connect(source, End(node=parts, port="material")),
    ]
    edits += [Tie(End(node=parts, port=c), c) for c in carried_channels(graph, kinds, source)]
    return Batch("Tie material", tuple(edits))


def slot_edit(workplace: Workplace, source: End, slot: str) -> Edit:
    """The edit that ties an output of the board to a slot of the rail below it.

    Within a motif the slots are its outlets; an empty id is for another one.
    """
    graph, kinds, motif = workplace.graph, workplace.kinds, workplace.session.motif
    if not motif:
        return tie_to_rail(graph, kinds, source, slot)
    outlets = workplace.document.motifs[motif].outlets
    label = kinds.of(graph.node(source.node)).output(source.port).label
    name, number = slot or source.port, 2
    while not slot and name in outlets:
        name, number = f"{source.port}_{number}", number + 1
    return TieOutlet(motif, name, source, label if name == source.port else f"{label} {number - 1}")


def kinds_offered(workplace: Workplace) -> tuple[Kind, ...]:
    """The kinds that may hang on the board: inlets only within a motif, and no motif within itself."""
    document, motif = workplace.document, workplace.session.motif
    if not document.motifs:
        return tuple(workplace.kinds)
    holding = {key for key in document.motifs if motif in with_inner([key], document.motifs)}
    barred = {MOTIF + key for key in holding}
    return tuple(k for k in workplace.kinds if k.id not in barred and (motif or not is_inlet(k.id)))


def hang_at_selection(
    graph: Graph, kinds: Kinds, kind_id: str, place: tuple[float, float], selected: Sequence[str]
) -> tuple[GraphEdit, str]:
    """The edit that hangs a node tied to the selected ones, in the order of their places, if that fits.

    Two selected nodes go to the first two inputs that must be tied, as for a blend.
    """
    kind = kinds.get(kind_id)
    node_id = graph.free_id(kind_id)
    edits: list[GraphEdit] = [AddNode(node_id, kind_id, *place)]
    data = output_data(graph, kinds)
    needed = [p for p in kind.inputs if not p.optional]
    ordered = sorted(selected, key=lambda n: (graph.nodes[n].x, graph.nodes[n].y))
    for number, source in enumerate(ordered):
        output = kinds.of(graph.nodes[source]).outputs[0].name
        given = data[source, output]
        port = fitting_input(kind.inputs, given) if len(ordered) == 1 else None
        if len(ordered) > 1 and number < len(needed) and accepts(needed[number], given):
            port = needed[number]
        if port is not None:
            edits.append(Connect(End(node=source, port=output), End(node=node_id, port=port.name)))
    label = f"Add {kind.label}"
    return (edits[0] if len(edits) == 1 else Batch(label, tuple(edits))), node_id
