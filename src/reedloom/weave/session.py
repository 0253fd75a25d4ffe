"""A session: one document with its history, the only thing that changes it, and one event.

Listeners get a `Change` that says which nodes, threads and other parts differ. *Changing* (while a
slider is dragged) shows a document without recording it; *changed* records one step, however many
values went by before.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from reedloom.weave.document import Document, Thread
from reedloom.weave.edits import Edit

HISTORY_LIMIT = 1000


@dataclass(frozen=True, slots=True)
class Change:
    """What differs between two documents.

    Attributes
    ----------
    nodes : frozenset of str
        Nodes that were added, removed, or differ.
    computed : frozenset of str
        Those whose own result may differ: not only moved or renamed.
    threads : frozenset of Thread
        Threads present in just one of the two.
    ties, bays, notes : frozenset of str
        Channels, bays and notes that differ.
    recorded : bool
        False while dragging.
    """

    before: Document
    after: Document
    nodes: frozenset[str]
    computed: frozenset[str]
    threads: frozenset[Thread]
    ties: frozenset[str]
    bays: frozenset[str]
    notes: frozenset[str]
    recorded: bool


def _differing(before: dict, after: dict) -> frozenset[str]:
    keys = before.keys() | after.keys()
    return frozenset(k for k in keys if before.get(k) is not after.get(k) and before.get(k) != after.get(k))


def compare(before: Document, after: Document, recorded: bool = True) -> Change:
    """What differs between two documents; unchanged shared parts cost one look each."""
    nodes = _differing(before.nodes, after.nodes)

    def result_differs(node_id: str) -> bool:
        old, new = before.nodes.get(node_id), after.nodes.get(node_id)
        return (
            old is None
            or new is None
            or (old.kind, old.parameters, old.muted) != (new.kind, new.parameters, new.muted)
        )

    threads = (
        frozenset()
        if before.threads is after.threads
        else frozenset(set(before.threads) ^ set(after.threads))
    )
    computed = {n for n in nodes if result_differs(n)} | {t.target.node for t in threads}
    if before.surface != after.surface:
        computed |= {n.id for n in after.nodes.values() if n.declaration.physical}
    return Change(
        before,
        after,
        nodes,
        frozenset(computed),
        threads,
        _differing(before.ties, after.ties),
        _differing(before.bays, after.bays),
        _differing(before.notes, after.notes),
        recorded,
    )


@dataclass(frozen=True, slots=True)
class _Step:
    label: str
    document: Document


class Session:
    """Holds a document and its history; edits go in, one kind of event comes out."""

    def __init__(self, document: Document | None = None) -> None:
        start = document or Document()
        self._steps = [_Step("Open", start)]
        self._index = 0
        self._shown = start
        self._saved = start
        self._listeners: list[Callable[[Change], None]] = []

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

    def submit(self, edit: Edit) -> None:
        """Apply an edit to the recorded document as one step; ends a running drag.

        Raises
        ------
        ReedError
            If the edit cannot be applied; nothing has changed then.
        """
        after = edit.apply(self.recorded)
        if after != self.recorded:
            del self._steps[self._index + 1 :]
            self._steps.append(_Step(edit.label, after))
            del self._steps[: max(0, len(self._steps) - HISTORY_LIMIT)]
            self._index = len(self._steps) - 1
        self._show(self.recorded, recorded=True)

    def amend(self, edit: Edit) -> None:
        """Apply an edit within the present step, as saving does when it names a weave."""
        step = self._steps[self._index]
        self._steps[self._index] = _Step(step.label, edit.apply(step.document))
        self._show(self.recorded, recorded=True)

    def preview(self, edit: Edit) -> None:
        """Show an edit without recording it; the next one starts from the recorded document again."""
        self._show(edit.apply(self.recorded), recorded=False)

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
        self._saved = Document(name="\0")

    def _show(self, document: Document, recorded: bool) -> None:
        before, self._shown = self._shown, document
        if before is document and not recorded:
            return
        change = compare(before, document, recorded)
        for listener in tuple(self._listeners):
            listener(change)
