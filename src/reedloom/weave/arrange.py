"""Arranges nodes in layers from top to bottom, with few crossings."""

from __future__ import annotations

from collections.abc import Iterable

from reedloom.weave.document import Graph
from reedloom.weave.graph import inputs_by_node, upstream_order

ACROSS = 160.0
DOWN = 190.0
SWEEPS = 8


def arrange(graph: Graph, ids: Iterable[str]) -> dict[str, tuple[float, float]]:
    """New places for nodes, keeping the whole where it was.

    Layers are longest ways from the sources; within a layer nodes are ordered by the mean place of
    their neighbours, sweeping down and up (K. Sugiyama and others, 1981).

    Parameters
    ----------
    ids : iterable of str
        The nodes to lay anew; the others stay.

    Returns
    -------
    mapping of id to (x, y), in the board's units
    """
    chosen = set(ids)
    if not chosen:
        return {}
    inputs = inputs_by_node(graph)
    above = {n: [e.node for e in inputs[n].values() if e.node in chosen] for n in chosen}
    below: dict[str, list[str]] = {n: [] for n in chosen}
    for node, sources in above.items():
        for source in sources:
            below[source].append(node)
    layers = _layers([n for n in upstream_order(inputs, graph.nodes) if n in chosen], above, below)
    _untangle(layers, above, below)
    left = min(graph.nodes[n].x for n in chosen)
    top = min(graph.nodes[n].y for n in chosen)
    widest = max(len(layer) for layer in layers)
    return {
        node: (left + (column + (widest - len(layer)) / 2) * ACROSS, top + row * DOWN)
        for row, layer in enumerate(layers)
        for column, node in enumerate(layer)
    }


def _layers(order: list[str], above: dict[str, list[str]], below: dict[str, list[str]]) -> list[list[str]]:
    """Each node as low as its followers allow, so that threads stay short."""
    depth: dict[str, int] = {}
    for node in order:
        depth[node] = 1 + max((depth[source] for source in above[node]), default=-1)
    for node in reversed(order):
        if below[node]:
            depth[node] = min(depth[follower] for follower in below[node]) - 1
    layers: list[list[str]] = [[] for _ in range(max(depth.values()) + 1)]
    for node in order:
        layers[depth[node]].append(node)
    return [layer for layer in layers if layer]


def _untangle(layers: list[list[str]], above: dict[str, list[str]], below: dict[str, list[str]]) -> None:
    place = {node: float(i) for layer in layers for i, node in enumerate(layer)}
    for sweep in range(SWEEPS):
        near = above if sweep % 2 == 0 else below
        for layer in layers if sweep % 2 == 0 else reversed(layers):
            means = {n: sum(place[m] for m in near[n]) / len(near[n]) if near[n] else place[n] for n in layer}
            layer.sort(key=lambda n, means=means: means[n])  # type: ignore[misc]
            for i, node in enumerate(layer):
                place[node] = i - (len(layer) - 1) / 2
