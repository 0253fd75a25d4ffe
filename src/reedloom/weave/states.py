"""Several states of one weave as one graph, and a whole surface as one output.

Colourways differ in a few dials; laid side by side in one graph, what they share is computed once.
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from reedloom.kinds.catalogue import Kinds
from reedloom.weave.document import End, Node
from reedloom.weave.resolve import STEP, FlatGraph, Resolved

MATERIAL = "material"
"""The kind that binds maps into one, and its output."""


def state_id(name: str) -> str:
    """The id of a state's whole surface; no node of a document can have it."""
    return f"{STEP}{name}"


def material_end(name: str) -> End:
    """The whole surface of a state, as an end of a graph that `with_states` gave."""
    return End(node=state_id(name), port=MATERIAL)


def with_states(flat: FlatGraph, states: Mapping[str, FlatGraph], kinds: Kinds) -> FlatGraph:
    """A graph with the nodes of other states beside its own, and the whole surface of each as one output.

    Parameters
    ----------
    states : mapping of a name to FlatGraph
        Names hold no full stop.
    kinds : Kinds
        With the kind of materials.
    """
    if not states:
        return flat
    nodes, aliases = dict(flat.nodes), dict(flat.aliases)
    for name, state in states.items():
        _lay_beside(state_id(name), state, nodes, aliases)
        inputs = {channel: _moved(state_id(name), end) for channel, end in state.ends.items()}
        inputs = {c: aliases.get(end, end) for c, end in inputs.items()}  # type: ignore[misc]
        nodes[state_id(name)] = _material(state_id(name), name, inputs, kinds)
    return replace(flat, nodes=nodes, aliases=aliases)


def _material(flat_id: str, name: str, inputs: Mapping[str, End | None], kinds: Kinds) -> Resolved:
    kind = kinds.get(MATERIAL)
    tied = {channel: end for channel, end in inputs.items() if end is not None}
    node = Node(id=flat_id, kind=kind.id, version=kind.version, name=name)
    return Resolved(flat_id, node, kind, kind.defaults(), tied)


def surface_of(flat: FlatGraph, kinds: Kinds) -> tuple[FlatGraph, End]:
    """A graph and the one output that is its whole surface, all tied maps as a material."""
    nodes = dict(flat.nodes)
    inputs = {channel: flat.source(end) for channel, end in flat.ends.items()}
    nodes[state_id("")] = _material(state_id(""), "Material", inputs, kinds)
    return replace(flat, nodes=nodes), material_end("")


def side_by_side(states: Mapping[str, FlatGraph]) -> FlatGraph:
    """Several states as one graph; ids of nodes and slots begin with the number of the state.

    Parameters
    ----------
    states : mapping of a name to FlatGraph
        At least one; all of one weave.
    """
    nodes: dict[str, Resolved] = {}
    ends: dict[str, End] = {}
    aliases: dict[End, End | None] = {}
    for number, state in enumerate(states.values()):
        _lay_beside(str(number), state, nodes, aliases)
        for channel, end in state.ends.items():
            ends[beside(number, channel)] = _moved(str(number), end)
    first = next(iter(states.values()))
    return FlatGraph(nodes, ends, first.surface, first.folder, aliases)


def beside(number: int, name: str) -> str:
    """The id of a state's node or slot in `side_by_side`."""
    return f"{number}{STEP}{name}"


def _moved(prefix: str, end: End) -> End:
    return End(node=f"{prefix}{STEP}{end.node}", port=end.port)


def _lay_beside(
    prefix: str, state: FlatGraph, nodes: dict[str, Resolved], aliases: dict[End, End | None]
) -> None:
    for node_id, node in state.nodes.items():
        inputs = {port: _moved(prefix, end) for port, end in node.inputs.items()}
        flat_id = f"{prefix}{STEP}{node_id}"
        nodes[flat_id] = replace(node, id=flat_id, inputs=inputs)
    for end, source in state.aliases.items():
        aliases[_moved(prefix, end)] = None if source is None else _moved(prefix, source)
