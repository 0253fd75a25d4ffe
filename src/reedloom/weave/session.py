"""A session: one document with its history, the only thing that changes it, and one event.

Listeners get a `Change` that says which nodes, threads and other parts differ. *Changing* (while a
slider is dragged) shows a document without recording it; *changed* records one step, however many
values went by before.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from msgspec.structs import replace

from reedloom.kinds.catalogue import Kinds, all_kinds
from reedloom.weave.check import check
from reedloom.weave.document import Document, Graph, Thread
from reedloom.weave.edits import Edit
from reedloom.weave.graph import with_stand_ins

HISTORY_LIMIT = 1000


@dataclass(frozen=True, slots=True)
class Change:
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


def _differing(before: dict, after: dict) -> frozenset[str]:
    if before is after:
        return frozenset()
    keys = before.keys() | after.keys()
    return frozenset(k for k in keys if before.get(k) is not after.get(k) and before.get(k) != after.get(k))


def compare(before: Document, after: Document, recorded: bool = True) -> Change:
    """What differs between two documents; unchanged shared parts cost one look each.

    Parameters
    ----------
    recorded : bool
        Whether `after` stands in the history, or is shown only while dragging.
    """
    old, new = before.graph, after.graph
    nodes = _differing(old.nodes, new.nodes)
    threads = frozenset() if old.threads is new.threads else frozenset(set(old.threads) ^ set(new.threads))
    ends = _differing(old.ends, new.ends)
    computed = bool(threads or ends) or before.surface != after.surface or before.folder != after.folder
    computed = computed or any(_result_differs(old, new, node_id) for node_id in nodes)
    computed = computed or (before.motifs, before.dials) != (after.motifs, after.dials)
    return Change(
        before,
        after,
        nodes,
        threads,
        ends,
        _differing(old.bays, new.bays),
        _differing(old.notes, new.notes),
        computed,
        recorded,
    )


def _result_differs(before: Graph, after: Graph, node_id: str) -> bool:
    """Whether a node differs in more than its place; its name stands in what is said of failures."""
    old, new = before.nodes.get(node_id), after.nodes.get(node_id)
    if old is None or new is None:
        return True
    return replace(old, x=new.x, y=new.y, extras=new.extras) != new


@dataclass(frozen=True, slots=True)
class _Step:
    label: str
    document: Document


class Session:
    """Holds a document and its history; edits go in, one kind of event comes out.

    `kinds` is the set that nodes may be of: the built-in ones and a user's own, unless given.
    """

    def __init__(self, document: Document | None = None, kinds: Kinds | None = None) -> None:
        start = document or Document()
        self.kinds = self._stood_in(kinds or all_kinds(), start)
        check(start, self.kinds)
        self._steps = [_Step("Open", start)]
        self._index = 0
        self._shown = start
        self._saved: Document | None = start
        self._listeners: list[Callable[[Change], None]] = []

    @staticmethod
    def _stood_in(kinds: Kinds, document: Document) -> Kinds:
        return with_stand_ins(kinds, [document.graph, *(m.graph for m in document.motifs.values())])

    @property
    def document(self) -> Document:
        """The document as shown now, a running drag included."""
        return self._shown

    @property
    def recorded(self) -> Document:
        """The document at the present step of the history."""
        return self._steps[self._index].document

    def subscribe(self, listener: Callable[[Change], None]) -> Callable[[], None]:
        """Call `listener` after every change; returns the function that ends it."""
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def _after(self, edit: Edit) -> Document:
        """The recorded document after an edit, if that breaks no rule."""
        before = self.recorded
        after = edit.apply(before, self.kinds)
        kinds = self._stood_in(self.kinds, after)
        check(after, kinds, before)
        self.kinds = kinds
        return after

    def submit(self, edit: Edit) -> None:
        """Apply an edit to the recorded document as one step; ends a running drag.

        Raises
        ------
        ReedError
            If the edit cannot be applied, or what it gives breaks a rule; nothing has changed then.
        """
        after = self._after(edit)
        if after != self.recorded:
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
        return self.recorded is self._saved or self.recorded == self._saved

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
        change = compare(before, document, recorded)
        for listener in tuple(self._listeners):
            listener(change)
