"""Pieces of a weave: copying, pasting and duplicating parts, with fresh ids."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from reedloom.weave.document import Bay, Document, End, Note, Thread
from reedloom.weave.edits import AddPiece


def cut_piece(document: Document, ids: Iterable[str]) -> Document:
    """A document of just these nodes, bays and notes, with the threads among them."""
    chosen = set(ids)
    return Document(
        name=document.name,
        nodes={k: n for k, n in document.nodes.items() if k in chosen},
        threads=tuple(t for t in document.threads if t.source.node in chosen and t.target.node in chosen),
        bays={k: b for k, b in document.bays.items() if k in chosen},
        notes={k: n for k, n in document.notes.items() if k in chosen},
    )


def incoming_threads(document: Document, ids: Iterable[str]) -> tuple[Thread, ...]:
    """The threads that come into these nodes from others."""
    chosen = set(ids)
    return tuple(t for t in document.threads if t.target.node in chosen and t.source.node not in chosen)


def place_piece(
    document: Document,
    piece: Document,
    shift: tuple[float, float],
    incoming: tuple[Thread, ...] = (),
    label: str = "Paste",
) -> tuple[AddPiece, dict[str, str]]:
    """The edit that adds a piece under fresh ids, and the new id of each old one.

    `incoming` threads are tied to the copies too, from where they come.
    """
    names: dict[str, str] = {}
    growing = document
    for node in piece.nodes.values():
        names[node.id] = growing.free_id(node.kind)
        growing = replace(growing, nodes={**growing.nodes, names[node.id]: node})
    for bay in piece.bays.values():
        names[bay.id] = growing.free_id("bay")
        growing = replace(growing, bays={**growing.bays, names[bay.id]: bay})
    for note in piece.notes.values():
        names[note.id] = growing.free_id("note")
        growing = replace(growing, notes={**growing.notes, names[note.id]: note})

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


def items_within(document: Document, bay: Bay, width: float, height: float) -> set[str]:
    """The nodes (of that card size) and notes whose middle lies in a bay."""

    def inside(x: float, y: float) -> bool:
        return bay.x <= x <= bay.x + bay.width and bay.y <= y <= bay.y + bay.height

    nodes = {n.id for n in document.nodes.values() if inside(n.x + width / 2, n.y + height / 2)}
    notes = {n.id for n in document.notes.values() if inside(n.x + n.width / 2, n.y + n.height / 2)}
    return nodes | notes


def blank_note(document: Document, x: float, y: float) -> Note:
    """A new empty note."""
    return Note(id=document.free_id("note"), x=x, y=y)
