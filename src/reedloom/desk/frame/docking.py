"""Where view and settings are: in their column, the view large, or either in a window of its own."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QSplitter, QVBoxLayout, QWidget

COLUMN = 440
"""Pixels across the column at first."""
SHARES = (490, 270)
"""Pixels of height of the view and of the settings at first."""
SETTINGS_WIDTH = 380


class Apart(QWidget):
    """A window of its own for a part of the workbench; closing it gives the part back."""

    closed = Signal()

    def __init__(self, part: QWidget, title: str, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.part = part
        self.setObjectName("column")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setWindowTitle(title)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(part)
        part.show()
        self.resize(860, 820)

    def closeEvent(self, event: QCloseEvent) -> None:
        event.accept()
        self.closed.emit()


class Places:
    """Moves the view and the settings about; the commands of the View menu that do so."""

    def __init__(self, column: QSplitter, views: QWidget, settings: QWidget, others: list[QWidget]) -> None:
        self.column, self.views, self.settings, self._others = column, views, settings, others
        self.apart: dict[str, Apart] = {}
        self.on_back: Callable[[str], None] = lambda name: None
        """Told when a part came back because its window was closed."""

    def large_view(self, on: bool) -> None:
        """Give the view the board's place; the settings stay beside it."""
        for other in self._others:
            other.setVisible(not on)
        self.column.setOrientation(Qt.Orientation.Horizontal if on else Qt.Orientation.Vertical)
        wide = self.column.window().width()
        self.column.setSizes([wide - SETTINGS_WIDTH, SETTINGS_WIDTH] if on else list(SHARES))

    def view_apart(self, on: bool) -> None:
        """Tear the view off into its own window, or bring it back."""
        self._move("view_apart", self.views, "View", on)

    def settings_apart(self, on: bool) -> None:
        """Tear the settings off into their own window, or bring them back."""
        self._move("settings_apart", self.settings, "Settings", on)

    def _move(self, name: str, part: QWidget, title: str, on: bool) -> None:
        if on and name not in self.apart:
            window = Apart(part, f"{title} · Reed Loom", self.column.window())
            window.closed.connect(lambda: self._bring_back(name))
            self.apart[name] = window
            window.show()
        elif not on:
            self._bring_back(name)
        self.column.setVisible(len(self.apart) < 2)

    def _bring_back(self, name: str) -> None:
        window = self.apart.pop(name, None)
        if window is None:
            return
        self.column.insertWidget(0 if window.part is self.views else 1, window.part)
        window.part.show()
        self.column.setVisible(True)
        self.column.setSizes(list(SHARES))
        window.deleteLater()
        self.on_back(name)

    def close_all(self) -> None:
        """Close the windows of their own."""
        for name in tuple(self.apart):
            self.apart[name].close()
