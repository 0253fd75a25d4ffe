"""A value that follows a dial or a formula: the formula, its present result, and names while typing."""

from __future__ import annotations

import re
from collections.abc import Mapping

from PySide6.QtCore import QEvent, QObject, QRect, Qt, Signal
from PySide6.QtGui import QKeyEvent, QStandardItem, QStandardItemModel
from PySide6.QtWidgets import QCompleter, QHBoxLayout, QLineEdit, QListView, QVBoxLayout, QWidget

from reedloom.desk.look.theme import restyle
from reedloom.desk.look.words import Words, set_tip
from reedloom.errors import ReedError
from reedloom.kit.formulas import FUNCTIONS
from reedloom.kit.parameters import Number, Parameter
from reedloom.weave.dials import MEASURES, Scope, drive

WORD = re.compile(r"[A-Za-z_]\w*$")
MEASURE_HELP = {
    "tile_width": "the tile's width in metres",
    "tile_height": "the tile's height in metres",
    "tile_depth": "from height 0 to 1, in metres",
}


class FormulaLine(QWidget):
    """A line for a formula over dials; what it comes to, or why it cannot be, stands below it."""

    tried = Signal(str)
    """A formula that can be worked out, while it is typed."""
    written = Signal(str)
    """One that is meant."""
    dropped = Signal()
    """It is left as it was."""

    def __init__(self, parameter: Parameter) -> None:
        super().__init__()
        self.parameter = parameter
        self.scope = Scope({}, {})
        self.formula = ""
        self.line = QLineEdit()
        self.line.setProperty("role", "formula")
        self.line.setPlaceholderText("a dial, or arithmetic with dials")
        self.line.setAccessibleName(f"Formula of {parameter.title}")
        self.line.installEventFilter(self)
        self.result = Words()
        self.result.setProperty("role", "dim")
        self.result.setMinimumWidth(64)
        self.trouble = Words()
        self.trouble.setProperty("role", "warning")
        self.trouble.setWordWrap(True)
        self.trouble.hide()
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self.line, 1)
        row.addWidget(self.result)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(row)
        column.addWidget(self.trouble)
        self.setFocusProxy(self.line)
        self.names = QStandardItemModel(self)
        self.completer = QCompleter(self.names, self)
        self.completer.setWidget(self.line)
        self.completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self.completer.setCompletionRole(Qt.ItemDataRole.UserRole + 1)
        self.completer.activated[str].connect(self._complete)  # type: ignore[index]
        self.offered = QListView()
        self.completer.setPopup(self.offered)
        self.line.textEdited.connect(self._on_typed)
        self.line.editingFinished.connect(self._take)

    # -- what is shown --------------------------------------------------------------------------------

    def show_formula(self, formula: str, scope: Scope, labels: Mapping[str, str]) -> None:
        """Show a formula with its present result.

        labels : the dials' names as a person reads them, offered while typing.
        """
        self.scope = scope
        if not self.line.hasFocus():  # what is shown while it is typed is not yet meant
            self.formula = formula
            self.line.setText(formula)
        self._offer(labels)
        self._look(self.line.text())

    def _offer(self, labels: Mapping[str, str]) -> None:
        offered = {name: labels.get(name, "") for name in self.scope.values if name not in MEASURES}
        offered |= MEASURE_HELP
        if isinstance(self.parameter, Number):
            offered |= {f"{name}(": "" for name in FUNCTIONS}
        if [self.names.item(i).data(Qt.ItemDataRole.UserRole) for i in range(self.names.rowCount())] == [
            *offered
        ]:
            return
        self.names.clear()
        for name, label in offered.items():
            item = QStandardItem(f"{name}   {label}" if label else name)
            item.setData(name, Qt.ItemDataRole.UserRole)
            item.setData(f"{name} {label}", Qt.ItemDataRole.UserRole + 1)
            self.names.appendRow(item)

    def _look(self, text: str) -> bool:
        """Say what a formula comes to, or what is wrong with it and where."""
        try:
            value, note = drive(self.parameter, text, self.scope)
        except ReedError as error:
            self.result.setText("= ?")
            self.trouble.setText(str(error)[:1].upper() + str(error)[1:])
            self.trouble.show()
            restyle(self.line, "wrong", "true")
            return False
        unit = getattr(self.parameter, "unit", "")
        told = f"{value:.4g} {unit}".strip() if isinstance(value, float) else self.parameter.caption(value)
        self.result.setText(f"= {told}" if not isinstance(value, tuple) else "")
        set_tip(self.result, "What the formula comes to at present")
        self.trouble.setText(note)
        self.trouble.setVisible(bool(note))
        restyle(self.line, "wrong", "")
        return True

    # -- typing ---------------------------------------------------------------------------------------

    def _on_typed(self, text: str) -> None:
        if self._look(text):
            self.tried.emit(text)
        found = WORD.search(text[: self.line.cursorPosition()])
        if found is None:
            self.offered.hide()
            return
        self.completer.setCompletionPrefix(found.group())
        if not self.completer.completionCount():
            self.offered.hide()
            return
        self.offered.setCurrentIndex(self.completer.completionModel().index(0, 0))
        self.completer.complete(QRect(0, self.line.height(), max(260, self.line.width()), 1))

    def _complete(self, text: str) -> None:
        """Put a chosen name in the place of what was typed of it."""
        name = text.split(" ", maxsplit=1)[0]
        at = self.line.cursorPosition()
        whole = self.line.text()
        found = WORD.search(whole[:at])
        start = found.start() if found is not None else at
        self.line.setText(whole[:start] + name + whole[at:])
        self.line.setCursorPosition(start + len(name))
        if self._look(self.line.text()):
            self.tried.emit(self.line.text())

    def _take(self) -> None:
        if self.offered.isVisible():
            return
        text = self.line.text().strip()
        if text != self.formula and self._look(text):
            self.formula = text
            self.written.emit(text)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() != Qt.Key.Key_Escape:
                return False
            self.line.setText(self.formula)
            self._look(self.formula)
            self.dropped.emit()
            return True
        return super().eventFilter(watched, event)
