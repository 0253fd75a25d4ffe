"""The view above the settings: lit, flat, or both."""

from __future__ import annotations

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.flat.flat_panel import FlatPanel
from reedloom.desk.lit.lit_panel import LitPanel
from reedloom.desk.look.buttons import VIEW_ICON, tool_button
from reedloom.desk.look.shortcuts import set_tip_with_keys
from reedloom.desk.look.theme import icon
from reedloom.desk.look.words import set_tip
from reedloom.desk.screen.workplace import Workplace

PLACES = {
    "large_view": ("large", "Large view: the board makes room"),
    "view_apart": ("apart", "In a window of its own"),
}
CHOICES = {"lit": "Lit", "flat": "Flat", "both": "Both"}


class Views(QWidget):
    """Shows one of the two views, or both; the choice is remembered."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.flat, self.lit = FlatPanel(workplace), LitPanel(workplace)
        self.splitter = QSplitter(Qt.Orientation.Vertical)
        self.splitter.addWidget(self.lit)
        self.splitter.addWidget(self.flat)
        self.splitter.setHandleWidth(5)
        self.buttons: dict[str, QPushButton] = {}
        group = QButtonGroup(self)
        row = QHBoxLayout()
        row.setContentsMargins(10, 6, 10, 2)
        row.setSpacing(4)
        for name, label in CHOICES.items():
            button = QPushButton(label)
            button.setCheckable(True)
            set_tip(button, f"Show the {label.lower()} view" if name != "both" else "Show both views")
            button.clicked.connect(lambda _checked=False, n=name: self.show_view(n))
            group.addButton(button)
            row.addWidget(button)
            self.buttons[name] = button
        row.addStretch()
        self.place_buttons = {name: tool_button(*look, VIEW_ICON) for name, look in PLACES.items()}
        for name, tool in self.place_buttons.items():
            set_tip_with_keys(tool, PLACES[name][1], name)
            row.addWidget(tool)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(row)
        layout.addWidget(self.splitter, 1)
        kept = str(QSettings().value("view", "flat"))
        self.show_view(kept if kept in CHOICES else "flat")

    def refresh_icons(self) -> None:
        """Draw the icons in the theme's colours again."""
        self.flat.refresh_icons()
        self.lit.refresh_icons()
        for name, button in self.place_buttons.items():
            button.setIcon(icon(PLACES[name][0]))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Where there is room, lit and flat stand side by side."""
        wide = self.width() > 1.15 * self.height()
        self.splitter.setOrientation(Qt.Orientation.Horizontal if wide else Qt.Orientation.Vertical)

    def show_view(self, name: str) -> None:
        """Show "lit", "flat" or "both"."""
        self.buttons[name].setChecked(True)
        self.lit.setVisible(name in {"lit", "both"})
        self.flat.setVisible(name in {"flat", "both"})
        QSettings().setValue("view", name)
