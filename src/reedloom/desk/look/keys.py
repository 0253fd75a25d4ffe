"""Keys that a part of the window takes before the window's shortcuts do."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import TypeVar

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import QWidget

Name = TypeVar("Name")
CTRL_ARROWS = "Ctrl+Up", "Ctrl+Down"
"""Go out of a motif and into one, where no part of the window has another use for them."""


class _KeysFirst(QObject):
    """Says of some keys that they are meant for the part that has the keyboard."""

    def __init__(self, part: QWidget, keys: frozenset[str]) -> None:
        super().__init__(part)
        self.keys = keys

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() != QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
            return False
        if QKeySequence(event.keyCombination()).toString() not in self.keys:
            return False
        event.accept()
        return True


def take_keys(part: QWidget, *keys: str) -> None:
    """Let a part have keys that are shortcuts of the window too, while it has the keyboard.

    Parameters
    ----------
    keys : str
        As in `Command.keys`, such as "Ctrl+Up".
    """
    part.installEventFilter(_KeysFirst(part, frozenset(keys)))


def part_with_keyboard(parts: Mapping[Name, QWidget], focused: QWidget | None) -> Name | None:
    """Which of some parts holds what has the keyboard, by its name."""
    return next((name for name, part in parts.items() if focused and part.isAncestorOf(focused)), None)


def move_by_keys(part: QWidget, move: Callable[[int], None]) -> None:
    """Call `move` with -1 or 1 at Alt with an arrow up or down, before sliders and lists take these."""
    for keys, by in (("Alt+Up", -1), ("Alt+Down", 1)):
        shortcut = QShortcut(QKeySequence(keys), part, context=Qt.ShortcutContext.WidgetWithChildrenShortcut)
        shortcut.activated.connect(partial(move, by))
