"""The editor of drawn paths: which there are, and a table in which their knots' numbers are typed."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QItemSelectionModel, QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.paths_in_hand import PathsInHand
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.editor import Editor
from reedloom.desk.settings.slider import format_number
from reedloom.errors import ReedError
from reedloom.kit import drawing
from reedloom.kit.parameters import DrawnPaths
from reedloom.kit.parameters.drawn import Drawn
from reedloom.weave.arithmetic import calculate

COLUMNS = ("Across", "Down", "Sharp", "Width", "Height")
ROWS_HEIGHT = 190


class DrawnPathsEditor(Editor):
    """Paths to choose among, and the numbers of their knots; they are drawn over the flat view."""

    edits = DrawnPaths

    tall = True

    def __init__(self, parameter: Any) -> None:
        super().__init__(parameter)
        self.value: Drawn = ()
        self.in_hand: PathsInHand | None = None
        column = QVBoxLayout()
        column.setSpacing(5)
        self.draw = QPushButton("Draw over the flat view")
        set_tip(self.draw, "Shows the flat view, where clicks lay knots")
        self.which = QComboBox()
        self.which.setAccessibleName("Path")
        set_tip(self.which, "The path whose knots stand below; choosing one chooses its knots")
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setHorizontalHeaderLabels(COLUMNS)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.verticalHeader().setDefaultSectionSize(24)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        self.table.setFixedHeight(ROWS_HEIGHT)
        self.table.setAccessibleName("Knots of the path")
        set_tip(self.table, "Type numbers or arithmetic, such as 1/3; places are in tiles, sharp is 0 to 1")
        self.empty = Words("No paths yet.")
        self.empty.setProperty("role", "dim")
        line = QHBoxLayout()
        line.addWidget(self.draw)
        line.addWidget(self.which, 1)
        line.addWidget(self.empty, 1)
        column.addLayout(line)
        column.addWidget(self.table)
        column.addStretch()
        self.row.addLayout(column, 1)
        self.which.activated.connect(self._choose_path)
        self.table.itemChanged.connect(self._take)
        self.table.itemSelectionChanged.connect(self._choose_rows)
        self.setFocusProxy(self.draw)

    def attach(self, workplace: Workplace) -> None:
        """Share what is chosen with the flat view."""
        self.in_hand = workplace.paths_in_hand
        self.draw.clicked.connect(self._start)
        self.in_hand.changed.connect(self._show_chosen)

    def _start(self) -> None:
        if self.in_hand is not None and not self.in_hand.drawing:
            self.in_hand.draw_paths()

    def show_value(self, value: Any) -> None:
        if value == self.value and self.table.rowCount():
            return
        at, self.value = max(self.which.currentIndex(), 0), value
        with QSignalBlocker(self.which):
            self.which.clear()
            for number, path in enumerate(value, 1):
                count = len(drawing.knots_of(path))
                closed = "" if drawing.closing_of(path) is None else ", closed"
                self.which.addItem(f"Path {number} · {count} knots{closed}")
            self.which.setCurrentIndex(min(at, len(value) - 1))
        self.which.setVisible(bool(value))
        self.table.setVisible(bool(value))
        self.empty.setVisible(not value)
        self._fill()

    def _fill(self) -> None:
        """Show the chosen path's knots."""
        number = self.which.currentIndex()
        knots = drawing.knots_of(self.value[number]) if 0 <= number < len(self.value) else ()
        with QSignalBlocker(self.table):
            self.table.setRowCount(len(knots))
            for row, knot in enumerate(knots):
                for column, value in enumerate(knot):
                    item = QTableWidgetItem(format_number(value))
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                    self.table.setItem(row, column, item)
        self._show_chosen()

    def _take(self, item: QTableWidgetItem) -> None:
        """Take a typed number, for every chosen row of its column."""
        number, column = self.which.currentIndex(), item.column()
        rows = {index.row() for index in self.table.selectedIndexes() if index.column() == column}
        chosen = frozenset((number, row) for row in rows | {item.row()})
        try:
            typed = calculate(item.text())
            paths = self.parameter.check(drawing.put(self.value, chosen, drawing.FIELDS[column], typed))
        except ReedError as error:
            self.refused.emit(str(error))
            self._fill()
            return
        self.changed.emit(paths)

    # -- what is chosen -------------------------------------------------------------------------------

    def _choose_path(self, number: int) -> None:
        self._fill()
        if self.in_hand is not None:
            self.in_hand.choose(drawing.all_of(self.value, (number,)))

    def _choose_rows(self) -> None:
        number = self.which.currentIndex()
        rows = {index.row() for index in self.table.selectedIndexes()}
        if self.in_hand is not None and rows:
            self.in_hand.choose(frozenset((number, row) for row in rows))

    def _show_chosen(self) -> None:
        """Show the path that was chosen elsewhere, and mark its knots."""
        chosen = self.in_hand.chosen if self.in_hand is not None else drawing.NONE
        numbers = {p for p, _ in chosen}
        shown = self.which.currentIndex()
        if numbers and shown not in numbers and max(numbers) < self.which.count():
            self.which.setCurrentIndex(min(numbers))
            self._fill()
            return
        wanted = {row for p, row in chosen if p == shown}
        if wanted == {index.row() for index in self.table.selectedIndexes()}:
            return
        with QSignalBlocker(self.table):
            self.table.clearSelection()
            for row in sorted(wanted):
                for column in range(len(COLUMNS)):
                    index = self.table.model().index(row, column)
                    self.table.selectionModel().select(index, QItemSelectionModel.SelectionFlag.Select)
