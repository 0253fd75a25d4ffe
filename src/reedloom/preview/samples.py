"""Small pictures of node kinds, made by the engine from the kind's own declaration."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from reedloom.kinds.catalogue import Kinds
from reedloom.kit.data import COLOUR, GREY, ISLANDS, MATERIAL, PATHS, POINTS, VECTOR, Data
from reedloom.kit.kind import Kind
from reedloom.kit.ports import Port, Role
from reedloom.weave.document import End, Graph
from reedloom.weave.edits import AddNode, Connect, SetParameters

COLOURS = ((0.1, 0.02, 0.05, 0.12), (0.5, 0.45, 0.2, 0.06), (0.9, 0.8, 0.7, 0.5))
"""The gradient behind pictures of kinds that change colours."""


def choice_samples(declared: Kind) -> list[tuple[str, dict[str, Any]]]:
    """The words of a kind's foremost choice, the one with most words, and the values that show each."""
    offered = [p for p in declared.parameters if len(p.words) > 2 and not p.series]
    if not offered:
        return []
    foremost = max(offered, key=lambda p: len(p.words))
    return [(c[:1].upper() + c[1:], {foremost.name: c}) for c in foremost.words]


def sample_graph(kind_id: str, kinds: Kinds, values: Mapping[str, Any] | None = None) -> tuple[Graph, End]:
    """A graph that shows a kind at its best: the kind with stand-ins tied to what it needs.

    `values` go before those of the kind's own sample. Returns the graph and the output to look at; a
    place is shown by a drawing made at it.
    """
    declared = kinds.get(kind_id)
    shown = AddNode("shown", kind_id, parameters={**declared.sample, **(values or {})})
    graph = shown.change(Graph(), kinds)
    needed = [p for p in declared.inputs if not p.optional]
    if declared.outputs[0].data == MATERIAL and not needed:
        needed = [p for p in declared.inputs if p.name in {"base_colour", "height"}]
    if declared.outputs[0].role is Role.WAY and not needed:
        needed = list(declared.inputs[:1])
    if declared.outputs[0].data == PATHS:  # what bends along a flow is shown so
        needed += [p for p in declared.inputs if p.optional and p.role is Role.WAY]
    for number, port in enumerate(needed):
        graph = stand_in(graph, kinds, port, number)
    end = End(node="shown", port=declared.outputs[0].name)
    if declared.outputs[0].data == VECTOR:
        if declared.outputs[0].role is Role.WAY:
            graph = AddNode("bent", "bend_place", parameters={"strength": 0.06}).change(graph, kinds)
            graph = Connect(end, End(node="bent", port="by")).change(graph, kinds)
            end = End(node="bent", port="place")
        graph = AddNode("drawing", "cellular_noise", parameters={"cells": 4, "jitter": 0.0}).change(
            graph, kinds
        )
        graph = Connect(end, End(node="drawing", port="place")).change(graph, kinds)
        end = End(node="drawing", port="border")
        graph = AddNode("tone", "levels", parameters={"from_high": 0.5}).change(graph, kinds)
        graph = Connect(end, End(node="tone", port="map")).change(graph, kinds)
        end = End(node="tone", port="map")
    return graph, end


CELLS = {"cells": 5, "seed": 3}
_BY_DATA: dict[Data, tuple[str, str, dict[str, Any]]] = {
    POINTS: ("grid_points", "points", {"columns": 6, "rows": 6, "jitter": 0.8, "row_shift": 0.5}),
    PATHS: ("circle_path", "paths", {"rings": 3, "radius": 0.14, "ring_spacing": 0.13}),
    ISLANDS: ("planks", "id", {}),
    VECTOR: ("tile_place", "place", {}),
}
_DOTS = {"columns": 5, "rows": 5, "radius": 0.42, "jitter": 0.6, "size_variation": 0.5}
_STAINS = {"columns": 7, "rows": 4, "radius": 0.25, "jitter": 1.0, "size_variation": 0.7}
_BY_ROLE: dict[Role, tuple[str, str, dict[str, Any]]] = {
    Role.DRAWING: ("petal", "profile", {"wrapped": False}),
    Role.MASK: ("dots", "mask", _DOTS),
    Role.SOURCE: ("dots", "mask", _STAINS),
    Role.CHANCE: ("cellular_noise", "random", CELLS),
    Role.HEIGHT: ("cellular_noise", "border", CELLS),
}
"""The node that stands for what a port needs, by its data or role: its kind, output and values."""
_MATERIALS: dict[str, tuple[str, tuple[dict[str, Any], dict[str, Any]]]] = {
    "base_colour": ("solid", ({"colour": (0.32, 0.2, 0.12)}, {"colour": (0.16, 0.3, 0.34)})),
    "height": ("gradient_noise", ({"cells": 5, "octaves": 4.0}, {"cells": 8, "seed": 5})),
}
"""Two plain materials, by channel: the kind that makes it and its values in each."""


def stand_in(graph: Graph, kinds: Kinds, port: Port, number: int) -> Graph:
    """The graph with something tied to the shown kind's needed input, the `number`th of them."""
    assert isinstance(port.data, Data)
    node_id = f"input_{number}"
    if port.data == MATERIAL:
        graph = _plain_material(graph, kinds, node_id, number)
        output = "material"
    elif port.plain and COLOUR in port.data:
        relief = {"cells": 4 + 6 * number}
        graph = _pair(graph, kinds, node_id, ("gradient_noise", relief), ("normal", {"strength": 5.0}))
        output = "normal"
    else:
        if port.role is Role.DISTANCE:
            form = {"radius": 0.25, "centre_u": 0.35 + 0.3 * number, "centre_v": 0.42 + 0.16 * number}
            made: tuple[str, str, dict[str, Any]] = ("disc", "distance", form)
        elif port.data == VECTOR and port.role is Role.WAY:
            made = ("flow_noise", "flow", {"cells": 3 + 3 * number, "seed": 2})
        elif port.data in _BY_DATA:
            made = _BY_DATA[port.data]
        elif port.role in _BY_ROLE and (port.role is not Role.HEIGHT or number == 0):
            made = _BY_ROLE[port.role]
        elif GREY in port.data:
            soft = ("gradient_noise", "noise", {"cells": 4, "octaves": 3.0})
            made = ("cellular_noise", "nearest", CELLS) if number == 0 else soft
        else:
            tones = ("gradient_noise", {"cells": 3})
            graph = _pair(graph, kinds, node_id, tones, ("gradient_map", {"gradient": COLOURS}))
            return _tie(graph, kinds, node_id, "colour", port)
        kind_id, output, values = made
        graph = AddNode(node_id, kind_id, parameters=values).change(graph, kinds)
    return _tie(graph, kinds, node_id, output, port)


def _tie(graph: Graph, kinds: Kinds, node_id: str, output: str, port: Port) -> Graph:
    return Connect(End(node=node_id, port=output), End(node="shown", port=port.name)).change(graph, kinds)


def _pair(
    graph: Graph,
    kinds: Kinds,
    node_id: str,
    first: tuple[str, dict[str, Any]],
    second: tuple[str, dict[str, Any]],
) -> Graph:
    """Two kinds one after the other; the second has the id."""
    before = f"{node_id}_before"
    for name, (kind_id, values) in ((before, first), (node_id, second)):
        graph = AddNode(name, kind_id, parameters=values).change(graph, kinds)
    nodes = graph.nodes
    source = End(node=before, port=kinds.of(nodes[before]).outputs[0].name)
    return Connect(source, End(node=node_id, port=kinds.of(nodes[node_id]).inputs[0].name)).change(
        graph, kinds
    )


def _plain_material(graph: Graph, kinds: Kinds, node_id: str, number: int) -> Graph:
    graph = AddNode(node_id, "material").change(graph, kinds)
    for channel, (kind_id, pair) in _MATERIALS.items():
        giver = f"{channel}_{number}"
        graph = AddNode(giver, kind_id, parameters=pair[number % 2]).change(graph, kinds)
        end = End(node=giver, port=kinds.of(graph.nodes[giver]).outputs[0].name)
        graph = Connect(end, End(node=node_id, port=channel)).change(graph, kinds)
    return graph


def every_choice(kind_id: str, kinds: Kinds) -> list[Graph]:
    """Sample graphs for a kind, one for each choice it offers, so that all its kernels run.

    Rows of a list choose among the same ones; those of its first row stand for all.
    """
    declared = kinds.get(kind_id)
    graph, _ = sample_graph(kind_id, kinds)
    variants = [graph]
    for parameter in (p for p in declared.parameters if p.series <= 1):
        variants += [
            SetParameters("shown", {parameter.name: c}).change(graph, kinds) for c in parameter.words[1:]
        ]
    return variants
