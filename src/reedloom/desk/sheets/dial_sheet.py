"""The dial sheet: the view, the dials, the colourways and the maps, for the user of a made surface."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QSize, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from reedloom.desk.look.shortcuts import set_tip_with_keys
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.sheets.colourways_panel import ColourwaysPanel
from reedloom.desk.sheets.dial_rows import DialList, DialRow
from reedloom.weave.dials import Scope, scope_of
from reedloom.weave.document import Document
from reedloom.weave.edits import Edit, PutOn, TurnDials

COLUMN = 404
"""Pixels across the column of dials."""
NO_DIALS = (
    "This weave has no dials yet. Its maker can add them on the board: at the end of a row of the settings."
)


class SheetDials(DialList):
    """The weave's dials, each with its help below."""

    margins = (18, 4, 14, 8)
    spacing = 9

    def __init__(self, workplace: Workplace) -> None:
        super().__init__(workplace)
        self.refresh()

    def owner(self) -> Document:
        """The weave, whatever the board shows."""
        return self.workplace.document

    def scope(self) -> Scope:
        document = self.workplace.document
        return scope_of(document.dials, document.settings, document.surface)

    def turn(self, key: str, value: Any) -> Edit:
        return TurnDials({key: value})

    def when_empty(self) -> str:
        return NO_DIALS

    def decorate(self, row: DialRow) -> None:
        """What it does, in words, below its name."""
        if row.dial.help:
            told = Words(row.dial.help)
            told.setProperty("role", "dim")
            told.setWordWrap(True)
            row.grid.addWidget(told, 2, 1, 1, 4)
            row.grid.setVerticalSpacing(1)


class DialSheet(QWidget):
    """A page beside the board; the view and the map rail come here while it is shown."""

    left = Signal()
    """The board is wanted."""
    try_out_asked = Signal()

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.setObjectName("dialsheet")
        self.dials = SheetDials(workplace)
        self.colourways = ColourwaysPanel(workplace, side=62, blends=False)
        self.guests = QVBoxLayout()
        self.guests.setContentsMargins(0, 0, 0, 0)
        self.guests.setSpacing(0)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addLayout(self.guests, 1)
        row.addWidget(self._column())
        workplace.document_changed.connect(lambda _: self.refresh())
        workplace.document_replaced.connect(self.refresh)
        self.refresh()

    def _column(self) -> QWidget:
        column = QFrame()
        column.setObjectName("column")
        column.setFixedWidth(COLUMN)
        box = QVBoxLayout(column)
        box.setContentsMargins(0, 14, 0, 10)
        box.setSpacing(6)
        self.title, self.purpose = Words(), Words()
        self.title.setProperty("role", "large")
        self.purpose.setProperty("role", "dim")
        self.purpose.setWordWrap(True)
        head = QVBoxLayout()
        head.setContentsMargins(18, 0, 14, 4)
        head.setSpacing(2)
        head.addWidget(self.title)
        head.addWidget(self.purpose)
        box.addLayout(head)
        box.addWidget(self.dials, 1)
        self.heading = Words("Colourways")
        self.heading.setProperty("role", "heading")
        self.heading.setContentsMargins(18, 0, 0, 0)
        box.addWidget(self.heading)
        self.colourways.setFixedHeight(168)
        box.addWidget(self.colourways)
        box.addLayout(self._foot())
        return column

    def _foot(self) -> QHBoxLayout:
        self.back = QPushButton("All dials back")
        set_tip(self.back, "Turn every dial to its default")
        self.back.clicked.connect(lambda: self.workplace.submit(PutOn("", "Turn all dials back")))
        self.try_out = QPushButton("Try out…")
        set_tip_with_keys(self.try_out, "A grid of results over one or two dials", "try_out")
        self.try_out.clicked.connect(self.try_out_asked)
        self.board = QPushButton("To the board")
        set_tip_with_keys(self.board, "See how it is made", "dial_sheet")
        self.board.clicked.connect(self.left)
        foot = QHBoxLayout()
        foot.setContentsMargins(18, 0, 14, 0)
        foot.addWidget(self.back)
        foot.addWidget(self.try_out)
        foot.addStretch()
        foot.addWidget(self.board)
        return foot

    def sizeHint(self) -> QSize:
        return QSize(1280, 720)

    def refresh(self) -> None:
        """Show the newest state of what is not listed."""
        document = self.workplace.document
        self.title.setText(document.name)
        self.purpose.setText(document.purpose)
        self.purpose.setVisible(bool(document.purpose))
        self.back.setEnabled(bool(document.settings))
        for part in (self.heading, self.colourways):
            part.setVisible(bool(document.dials))
        self.try_out.setEnabled(bool(document.dials))

    def take(self, guests: list[QWidget]) -> None:
        """Have the view and the rail here."""
        for guest in guests:
            self.guests.addWidget(guest, 1 if guest is guests[0] else 0)
            guest.show()
        self.dials.focus_first()

    def close_down(self) -> None:
        """End the threads of its parts."""
        self.colourways.close_down()
