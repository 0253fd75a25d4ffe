"""Arranges nodes: in layers from top to bottom, with few crossings; or along a line."""

from __future__ import annotations

from collections.abc import Iterable
from statistics import median

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


def align(graph: Graph, ids: Iterable[str], across: bool) -> dict[str, tuple[float, float]]:
    """New places for nodes along a line through their middle, in the order they have along it.

    They stay where they are along the line, but for as little as keeps cards from lying on one another.

    Parameters
    ----------
    across : bool
        Side by side, or one below the other.

    Returns
    -------
    mapping of id to (x, y), in the board's units; empty for fewer than two nodes
    """
    spots = {n: (graph.nodes[n].x, graph.nodes[n].y) for n in ids}
    if len(spots) < 2:
        return {}
    along, aside = (0, 1) if across else (1, 0)
    line = median(spot[aside] for spot in spots.values())
    room = ACROSS if across else DOWN
    order = sorted(spots, key=lambda n: (spots[n][along], spots[n][aside]))
    laid = [spots[n][along] for n in order]
    for i in range(1, len(laid)):
        laid[i] = max(laid[i], laid[i - 1] + room)
    # What was pushed on is shared out, so that the whole stays about where it was.
    back = sum(new - spots[n][along] for n, new in zip(order, laid, strict=True)) / len(order)
    return {n: (at - back, line) if across else (line, at - back) for n, at in zip(order, laid, strict=True)}


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
