"""A list that floats over the window and is searched by typing; the keyboard does all of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QEvent, QObject, QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from reedloom.desk.look.words import Words

THING_ROLE = Qt.ItemDataRole.UserRole
"""What a row of the list stands for."""
STEPS = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}


class FloatingSearch(QFrame):
    """A line to type into, what fits below it, and what keys do.

    Parameters
    ----------
    find : callable
        The things that fit a text, best first.
    take : callable
        Does what Enter or a click is for, with the chosen thing.
    asks, hint, nothing : str
        What the empty line asks for, what stands below the list, and there when nothing fits.
    """

    closed = Signal()

    def __init__(
        self,
        parent: QWidget,
        *,
        find: Callable[[str], Sequence[Any]],
        take: Callable[[Any], None],
        asks: str,
        hint: str,
        nothing: str,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("finder")
        self._ground, self._find, self._take = parent, find, take
        self._hints = {True: hint, False: nothing}
        self.line = QLineEdit(placeholderText=asks)
        self.rows = QListWidget()
        self.rows.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hint = Words(hint)
        self.hint.setProperty("role", "dim")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 6)
        layout.setSpacing(6)
        for part in (self.line, self.rows, self.hint):
            layout.addWidget(part)
        self.line.textChanged.connect(self.search)
        self.line.installEventFilter(self)
        self.rows.itemClicked.connect(lambda _item: self.choose())
        self.hide()

    def open_at(self, text: str, at: QPoint) -> None:
        """Show it near a point of its parent, with some text typed."""
        parent = self._ground.rect()
        self.move(
            max(8, min(at.x(), parent.width() - self.width() - 8)),
            max(8, min(at.y(), parent.height() - self.height() - 8)),
        )
        self.line.setText(text)
        self.search(text)
        self.show()
        self.raise_()
        self.line.setFocus()

    def search(self, text: str) -> None:
        """Show what fits a text."""
        self.rows.clear()
        for thing in self._find(text):
            item = QListWidgetItem()
            item.setData(THING_ROLE, thing)
            self.rows.addItem(item)
        self.rows.setCurrentRow(0)
        self.hint.setText(self._hints[self.rows.count() > 0])

    @property
    def chosen_thing(self) -> Any:
        """What the chosen row stands for; None if there is none."""
        item = self.rows.currentItem()
        return None if item is None else item.data(THING_ROLE)

    def choose(self) -> None:
        """Close, and take the chosen thing."""
        thing = self.chosen_thing
        if thing is not None:
            self.close_quietly()
            self._take(thing)

    def close_quietly(self) -> None:
        """Hide without choosing."""
        if self.isVisible():
            self.hide()
            self.closed.emit()

    def key(self, event: QKeyEvent) -> bool:
        """Act on a key pressed in the line; whether it was one that means something here."""
        key = event.key()
        if key in STEPS:
            count = max(1, self.rows.count())
            self.rows.setCurrentRow((self.rows.currentRow() + STEPS[Qt.Key(key)]) % count)
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.choose()
        elif key == Qt.Key.Key_Escape:
            self.close_quietly()
        else:
            return False
        return True

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress:
            assert isinstance(event, QKeyEvent)
            if self.key(event):
                return True
        elif event.type() == QEvent.Type.FocusOut:
            self.close_quietly()
        return super().eventFilter(watched, event)
