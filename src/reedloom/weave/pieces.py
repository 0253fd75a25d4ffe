"""Pieces of a weave: copying, pasting and duplicating parts, with fresh ids."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from reedloom.weave.document import Bay, End, Graph, Note, Thread
from reedloom.weave.edits.board import AddPiece


def cut_piece(graph: Graph, ids: Iterable[str]) -> Graph:
    """A graph of just these nodes, bays and notes, with the threads among them."""
    chosen = set(ids)
    return Graph(
        nodes={k: n for k, n in graph.nodes.items() if k in chosen},
        threads=tuple(t for t in graph.threads if t.source.node in chosen and t.target.node in chosen),
        bays={k: b for k, b in graph.bays.items() if k in chosen},
        notes={k: n for k, n in graph.notes.items() if k in chosen},
    )


def incoming_threads(graph: Graph, ids: Iterable[str]) -> tuple[Thread, ...]:
    """The threads that come into these nodes from others."""
    chosen = set(ids)
    return tuple(t for t in graph.threads if t.target.node in chosen and t.source.node not in chosen)


def place_piece(
    graph: Graph,
    piece: Graph,
    shift: tuple[float, float],
    incoming: tuple[Thread, ...] = (),
    label: str = "Paste",
) -> tuple[AddPiece, dict[str, str]]:
    """The edit that adds a piece under fresh ids, and the new id of each old one.

    Parameters
    ----------
    piece : Graph
        From `cut_piece`.
    shift : (x, y)
        In the board's units.
    incoming : tuple of Thread
        Tied to the copies too, from where they come.
    label : str
        What the history calls it.
    """
    stems = {node.id: node.kind for node in piece.nodes.values()}
    stems |= dict.fromkeys(piece.bays, "bay") | dict.fromkeys(piece.notes, "note")
    names = dict(zip(stems, graph.free_ids(stems.values()), strict=True))

    def moved(thread: Thread) -> Thread:
        source = End(node=names.get(thread.source.node, thread.source.node), port=thread.source.port)
        return Thread(source=source, target=End(node=names[thread.target.node], port=thread.target.port))

    dx, dy = shift
    edit = AddPiece(
        nodes=tuple(replace(n, id=names[n.id], x=n.x + dx, y=n.y + dy) for n in piece.nodes.values()),
        threads=tuple(moved(t) for t in (*piece.threads, *incoming)),
        bays=tuple(replace(b, id=names[b.id], x=b.x + dx, y=b.y + dy) for b in piece.bays.values()),
        notes=tuple(replace(n, id=names[n.id], x=n.x + dx, y=n.y + dy) for n in piece.notes.values()),
        label=label,
    )
    return edit, names


def items_within(graph: Graph, bay: Bay, width: float, height: float) -> set[str]:
    """The nodes (of that card size) and notes whose middle lies in a bay.

    Parameters
    ----------
    width, height : float
        Of a card, in the board's units.

    Returns
    -------
    ids
    """

    def inside(x: float, y: float) -> bool:
        return bay.x <= x <= bay.x + bay.width and bay.y <= y <= bay.y + bay.height

    nodes = {n.id for n in graph.nodes.values() if inside(n.x + width / 2, n.y + height / 2)}
    notes = {n.id for n in graph.notes.values() if inside(n.x + n.width / 2, n.y + n.height / 2)}
    return nodes | notes


def blank_note(graph: Graph, x: float, y: float) -> Note:
    """A new empty note."""
    return Note(id=graph.free_id("note"), x=x, y=y)
