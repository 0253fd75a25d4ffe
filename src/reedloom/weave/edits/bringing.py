"""Edits that bring pieces and motifs from elsewhere: from the clipboard, and from the swatch book."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from msgspec import Struct
from msgspec.structs import replace

from reedloom.kinds.catalogue import Kinds
from reedloom.weave.dials import names_in, scope_of
from reedloom.weave.document import Dial, Document, Graph, Motif, Node
from reedloom.weave.edits.base import Inside
from reedloom.weave.edits.board import AddPiece
from reedloom.weave.edits.dials import forget_at_uses, let_go, owner_of
from reedloom.weave.edits.document import MoveHome
from reedloom.weave.edits.motifs import free_motif_id, motif_of, untied_at_uses
from reedloom.weave.motifs import (
    MOTIF,
    document_kinds,
    inner_first,
    used_in,
    used_motif,
    with_inner,
)
from reedloom.weave.pieces import cut_piece


class BringPiece(Struct, frozen=True):
    """Add a piece that was copied elsewhere, with the motifs that it uses.

    A motif that is here already, however it is called, is not brought twice. Parameters that follow dials
    go on doing so where there are such dials; else they keep the values that they had.

    Attributes
    ----------
    motif : str
        Into whose graph; empty for the weave's own.
    origin : Document
        Where the piece was copied, as `copied` gives it.
    """

    motif: str
    piece: AddPiece
    origin: Document

    @property
    def label(self) -> str:
        return self.piece.label

    def apply(self, document: Document, kinds: Kinds) -> Document:
        wanted = used_in(Graph(nodes={n.id: n for n in self.piece.nodes}))
        origin = self.origin
        if origin.folder and origin.folder != document.folder:  # files are named from another place here
            origin = MoveHome(document.folder).apply(origin, document_kinds(kinds, origin))
        document, names = bring_motifs(document, origin.motifs, wanted)
        kinds = document_kinds(kinds, document)
        here = owner_of(document, self.motif).dials
        there = scope_of(self.origin.dials, self.origin.settings, self.origin.surface)
        nodes = []
        for node in self.piece.nodes:
            brought = _renamed(node, names)
            lost = [
                name
                for name, formula in node.formulas.items()
                if any(not _same_type(here.get(n), self.origin.dials.get(n)) for n in names_in(formula))
            ]
            nodes.append(let_go(brought, lost, kinds, there) if lost else brought)
        piece = AddPiece(tuple(nodes), self.piece.threads, self.piece.bays, self.piece.notes, self.label)
        return Inside(piece, self.motif).apply(document, kinds)


def _same_type(here: Dial | None, there: Dial | None) -> bool:
    return there is None or (here is not None and here.type == there.type)


def copied(document: Document, motif: str, ids: Iterable[str]) -> Document:
    """A piece of a graph as a document of its own, with the motifs and dials that it needs.

    Parameters
    ----------
    motif : str
        Whose graph it is; empty for the weave's own.
    ids : iterable of str
        Nodes, bays and notes.
    """
    owner = owner_of(document, motif)
    piece = cut_piece(owner.graph, ids)
    read = {name for n in piece.nodes.values() for f in n.formulas.values() for name in names_in(f)}
    return Document(
        graph=piece,
        motifs=with_inner(used_in(piece), document.motifs),
        dials={key: dial for key, dial in owner.dials.items() if key in read},
        settings={k: v for k, v in document.settings.items() if k in read} if not motif else {},
        surface=document.surface,
        folder=document.folder,
    )


def _renamed(node: Node, names: Mapping[str, str]) -> Node:
    key = used_motif(node.kind)
    return replace(node, kind=MOTIF + names[key]) if names.get(key, key) != key else node


def bring_motifs(
    document: Document, motifs: Mapping[str, Motif], wanted: Iterable[str]
) -> tuple[Document, dict[str, str]]:
    """A document with some motifs of another one, those that they use included.

    Returns
    -------
    (document, the id here of each motif that was brought)
    """
    chosen = with_inner(wanted, motifs)
    names: dict[str, str] = {}
    held = dict(document.motifs)
    for key in inner_first(chosen)[0]:
        nodes = {i: _renamed(n, names) for i, n in chosen[key].graph.nodes.items()}
        brought = replace(chosen[key], graph=replace(chosen[key].graph, nodes=nodes))
        known = next((k for k, motif in held.items() if motif == brought), None)
        names[key] = known or free_motif_id(held, brought.title or key)
        held[names[key]] = brought
    return replace(document, motifs=held), names


class PullMotif(Struct, frozen=True):
    """Take another version of a motif, with all that it uses; its uses keep what still fits.

    piece : where it is, under the id `newer`.
    """

    key: str
    piece: Document
    newer: str
    label: str = "Take the newer motif"

    def apply(self, document: Document, kinds: Kinds) -> Document:
        old = motif_of(document, self.key)
        motif = self.piece.motifs[self.newer]
        document, names = bring_motifs(document, self.piece.motifs, used_in(motif.graph))
        nodes = {i: _renamed(n, names) for i, n in motif.graph.nodes.items()}
        new = replace(motif, graph=replace(motif.graph, nodes=nodes))
        document = replace(document, motifs=document.motifs | {self.key: new})
        for part in ("inlets", "outlets"):
            for notch in getattr(old, part).keys() - getattr(new, part).keys():
                document = untied_at_uses(document, self.key, part, notch)
        return forget_at_uses(document, self.key, old.dials.keys() - new.dials.keys())
