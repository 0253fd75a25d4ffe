"""Which keys commands have at present, and words that name them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QWidget

from reedloom.desk.look.words import set_tip

PRESENT: dict[str, str] = {}
"""Keys by command, as on the screen: "Ctrl+E", or "" for none. Whoever gives commands their keys fills it."""


def with_keys(text: str, command: str) -> str:
    """A text with a command's keys after it, if it has any."""
    keys = PRESENT.get(command)
    return f"{text} ({keys})" if keys else text


def set_tip_with_keys(on: QWidget, text: str | Callable[[], str], command: str) -> None:
    """Let a part say a text with a command's keys, whatever both are when the pointer rests on it."""
    tip = _Tip(on, text if callable(text) else lambda: text, command)
    on.installEventFilter(tip)
    tip.tell()


class _Tip(QObject):
    """Tells the keys anew each time that a tip is about to be shown."""

    def __init__(self, on: QWidget, text: Callable[[], str], command: str) -> None:
        super().__init__(on)
        self._on, self._text, self._command = on, text, command

    def tell(self) -> None:
        """Say it as it is now."""
        set_tip(self._on, with_keys(self._text(), self._command))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            self.tell()
        return False
