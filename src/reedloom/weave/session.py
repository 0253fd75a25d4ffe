"""A session: one document with its history, the only thing that changes it, and one event.

Listeners get a `Change` that says which nodes, threads and other parts differ. *Changing* (while a
slider is dragged) shows a document without recording it; *changed* records one step, however many
values went by before.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from reedloom.errors import ReedError
from reedloom.kinds.catalogue import Kinds, all_kinds
from reedloom.weave.check import check
from reedloom.weave.document import Document, Graph, Motif, Thread
from reedloom.weave.edits import Edit, GraphEdit, Inside
from reedloom.weave.motifs import check_nesting, document_kinds, motif_at

HISTORY_LIMIT = 1000


class Change(Struct, frozen=True):
    """What differs between two documents, and between one graph of theirs.

    Attributes
    ----------
    nodes : frozenset of str
        Nodes that were added, removed, or differ.
    threads : frozenset of Thread
        Threads present in just one of the two.
    ends, bays, notes : frozenset of str
        Rail slots, bays and notes that differ.
    computed : bool
        Whether a result, or what is said of it, may differ: more than places and views.
    recorded : bool
        False while dragging.
    motif : str
        Of which graph nodes, threads, ends, bays and notes are told: a motif's, or the weave's own if
        empty.
    """

    before: Document
    after: Document
    nodes: frozenset[str]
    threads: frozenset[Thread]
    ends: frozenset[str]
    bays: frozenset[str]
    notes: frozenset[str]
    computed: bool
    recorded: bool
    motif: str = ""

    @property
    def graphs(self) -> tuple[Graph, Graph]:
        """The graph that is looked at, before and after."""
        return graph_of(self.before, self.motif), graph_of(self.after, self.motif)


def _differing(before: Mapping[str, Any], after: Mapping[str, Any]) -> frozenset[str]:
    if before is after:
        return frozenset()
    keys = before.keys() | after.keys()
    return frozenset(k for k in keys if before.get(k) is not after.get(k) and before.get(k) != after.get(k))


def compare(before: Document, after: Document, recorded: bool = True, motif: str = "") -> Change:
    """What differs between two documents; unchanged shared parts cost one look each.

    Parameters
    ----------
    recorded : bool
        Whether `after` stands in the history, or is shown only while dragging.
    motif : str
        The motif whose graph is looked at; the weave's own if empty. It must be in both.
    """
    old, new = graph_of(before, motif), graph_of(after, motif)
    nodes = _differing(old.nodes, new.nodes)
    threads = frozenset() if old.threads is new.threads else frozenset(set(old.threads) ^ set(new.threads))
    computed = _graph_differs(before.graph, after.graph) or _motifs_differ(before.motifs, after.motifs)
    for name in ("surface", "folder", "dials", "settings", "colourways"):
        computed = computed or getattr(before, name) != getattr(after, name)
    return Change(
        before,
        after,
        nodes,
        threads,
        _differing(old.ends, new.ends),
        _differing(old.bays, new.bays),
        _differing(old.notes, new.notes),
        computed,
        recorded,
        motif,
    )


def graph_of(document: Document, motif: str) -> Graph:
    """The graph of a motif, or the weave's own where its id is empty."""
    return document.motifs[motif].graph if motif else document.graph


def _graph_differs(before: Graph, after: Graph) -> bool:
    """Whether results may differ: more than places, bays and notes."""
    if before is after:
        return False
    if before.threads is not after.threads and set(before.threads) != set(after.threads):
        return True
    if before.ends != after.ends:
        return True
    return any(_result_differs(before, after, n) for n in _differing(before.nodes, after.nodes))


def _motifs_differ(before: Mapping[str, Motif], after: Mapping[str, Motif]) -> bool:
    if before is after:
        return False
    for key in _differing(before, after):
        old, new = before.get(key), after.get(key)
        if old is None or new is None or replace(old, graph=new.graph) != new:
            return True
        if _graph_differs(old.graph, new.graph):
            return True
    return False


def _result_differs(before: Graph, after: Graph, node_id: str) -> bool:
    """Whether a node differs in more than its place; its name stands in what is said of failures."""
    old, new = before.nodes.get(node_id), after.nodes.get(node_id)
    if old is None or new is None:
        return True
    return replace(old, x=new.x, y=new.y, extras=new.extras) != new


class _Step(Struct, frozen=True):
    label: str
    document: Document


class Session:
    """Holds a document and its history; edits go in, one kind of event comes out.

    `kinds` is the set that nodes may be of: the built-in ones and a user's own, unless given.
    """

    def __init__(self, document: Document | None = None, kinds: Kinds | None = None) -> None:
        start = document or Document()
        self._base = kinds or all_kinds()
        self._use(document_kinds(self._base, start))
        check(start, self.kinds)
        self._steps = [_Step("Open", start)]
        self._index = 0
        self._shown = start
        self._saved: Document | None = start
        self._listeners: list[Callable[[Change], None]] = []
        self._path: tuple[str, ...] = ()

    @property
    def document(self) -> Document:
        """The document as shown now, a running drag included."""
        return self._shown

    @property
    def recorded(self) -> Document:
        """The document at the present step of the history."""
        return self._steps[self._index].document

    @property
    def base_kinds(self) -> Kinds:
        """The kinds without the document's own motifs."""
        return self._base

    @property
    def path(self) -> tuple[str, ...]:
        """The uses of motifs that one has gone into, from the outermost in; empty on the weave's board."""
        return self._path

    @property
    def motif(self) -> str:
        """The motif whose graph is edited; empty for the weave's own."""
        return motif_at(self._shown, self._path) or ""

    @property
    def graph(self) -> Graph:
        """The graph that is edited, as shown now."""
        return graph_of(self._shown, self.motif) if self._path else self._shown.graph

    def go(self, path: tuple[str, ...]) -> None:
        """Go into a use of a motif, or out: edits of graphs are for the graph there from now on.

        Raises
        ------
        ReedError
            If there is no such use.
        """
        self.drop_preview()
        if motif_at(self._shown, path) is None:
            raise ReedError(f"'{path[-1]}' is no use of a motif; there is nothing to go into.")
        self._path = path

    def subscribe(self, listener: Callable[[Change], None]) -> Callable[[], None]:
        """Call `listener` after every change; returns the function that ends it."""
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def _after(self, edit: Edit) -> Document:
        """The recorded document after an edit, if that breaks no rule."""
        before = self.recorded
        known = document_kinds(self._base, before)
        after = self.lift(edit).apply(before, known)
        kinds = document_kinds(self._base, after)
        if after.motifs is not before.motifs:
            check_nesting(after.motifs, before.motifs)
        passed = before if kinds is known else None
        check(after, kinds, passed)
        self._use(kinds)
        return after

    def _use(self, kinds: Kinds) -> None:
        """Take these kinds; stand-ins keep the notches that they had, tied or not."""
        self.kinds = kinds
        if kinds.stand_ins != self._base.stand_ins:
            self._base = self._base.standing_in(kinds.stand_ins)

    def lift(self, edit: Edit) -> Edit:
        """An edit of a graph as one of the document: of the graph that is edited at present."""
        return Inside(edit, self.motif) if self.motif and isinstance(edit, GraphEdit) else edit

    def submit(self, edit: Edit) -> None:
        """Apply an edit to the recorded document as one step; ends a running drag.

        Raises
        ------
        ReedError
            If the edit cannot be applied, or what it gives breaks a rule; nothing has changed then.
        """
        after = self._after(edit)
        if not _is_same(after, self.recorded):
            del self._steps[self._index + 1 :]
            self._steps.append(_Step(edit.label, after))
            del self._steps[: max(0, len(self._steps) - HISTORY_LIMIT)]
            self._index = len(self._steps) - 1
        self._show(self.recorded, recorded=True)

    def amend(self, edit: Edit) -> None:
        """Apply an edit within the present step, as saving does when it names a weave.

        Raises
        ------
        ReedError
            As in `submit`.
        """
        step = self._steps[self._index]
        self._steps[self._index] = _Step(step.label, self._after(edit))
        self._show(self.recorded, recorded=True)

    def preview(self, edit: Edit) -> None:
        """Show an edit without recording it; the next one starts from the recorded document again.

        Raises
        ------
        ReedError
            As in `submit`.
        """
        self._show(self._after(edit), recorded=False)

    def drop_preview(self) -> None:
        """Go back to the recorded document."""
        self._show(self.recorded, recorded=True)

    def undo(self) -> str | None:
        """Go one step back; returns its label, or None at the beginning."""
        if self._index == 0:
            return None
        label = self._steps[self._index].label
        self._index -= 1
        self._show(self.recorded, recorded=True)
        return label

    def redo(self) -> str | None:
        """Go one step forward again; returns its label, or None at the end."""
        if self._index == len(self._steps) - 1:
            return None
        self._index += 1
        self._show(self.recorded, recorded=True)
        return self._steps[self._index].label

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._steps[self._index].label if self._index else None

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back."""
        return self._steps[self._index + 1].label if self._index + 1 < len(self._steps) else None

    @property
    def is_saved(self) -> bool:
        """Whether the recorded document is the one last saved or opened."""
        return self._saved is not None and _is_same(self.recorded, self._saved)

    def mark_saved(self) -> None:
        """Remember the recorded document as saved."""
        self._saved = self.recorded

    def mark_unsaved(self) -> None:
        """Treat the document as never saved, as after a recovery."""
        self._saved = None

    def _show(self, document: Document, recorded: bool) -> None:
        before, self._shown = self._shown, document
        if before is document and not recorded:
            return
        self._use(document_kinds(self._base, document))
        while motif_at(document, self._path) is None or motif_at(before, self._path) is None:
            self._path = self._path[:-1]  # what one was in is not there any more
        change = compare(before, document, recorded, self.motif)
        for listener in tuple(self._listeners):
            listener(change)


def _is_same(one: Document, other: Document) -> bool:
    """Whether nothing tells two documents apart, the order of dials, colourways and notches included."""
    return one is other or (one == other and _orders(one) == _orders(other))


def _orders(document: Document) -> list[list[str]]:
    """The names of all parts whose order is seen; parts of equal names are equal in whatever order."""
    parts: list[Mapping[str, Any]] = [document.dials, document.colourways, document.viewpoints]
    for key in sorted(document.motifs):
        motif = document.motifs[key]
        parts += [motif.dials, motif.inlets, motif.outlets]
    return [list(part) for part in parts]
