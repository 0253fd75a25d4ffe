"""Editors of words: choices, switches, texts, formulas, files."""

from __future__ import annotations

from typing import Any

from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QLineEdit, QPushButton, QVBoxLayout

from reedloom.desk.look.words import Words
from reedloom.desk.settings.editor import Editor
from reedloom.kit.formulas import FormulaError
from reedloom.kit.parameters import Choice, File, FormulaText, Switch, Text


class _QuietCombo(QComboBox):
    """A choice that the wheel does not change by accident while the panel scrolls."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class ChoiceEditor(Editor):
    """One of a few words."""

    edits = Choice

    def __init__(self, parameter: Any) -> None:
        super().__init__(parameter)
        self.combo = _QuietCombo()
        self.combo.addItems([c[:1].upper() + c[1:] for c in parameter.choices])
        self.combo.setAccessibleName(parameter.title)
        self.combo.setMaxVisibleItems(24)
        self.row.addWidget(self.combo, 1)
        self.combo.activated.connect(lambda i: self.changed.emit(parameter.choices[i]))
        self.setFocusProxy(self.combo)

    def show_value(self, value: Any) -> None:
        self.combo.setCurrentIndex(self.parameter.choices.index(value))


class SwitchEditor(Editor):
    """On or off."""

    edits = Switch

    def __init__(self, parameter: Any) -> None:
        super().__init__(parameter)
        self.box = QCheckBox("On")
        self.box.setAccessibleName(parameter.title)
        self.row.addWidget(self.box, 1)
        self.box.clicked.connect(self.changed.emit)
        self.setFocusProxy(self.box)

    def show_value(self, value: Any) -> None:
        self.box.setChecked(bool(value))
        self.box.setText("On" if value else "Off")


class TextEditor(Editor):
    """A line of text."""

    edits = Text

    def __init__(self, parameter: Any) -> None:
        super().__init__(parameter)
        self.line = QLineEdit()
        self.line.setAccessibleName(parameter.title)
        self.row.addWidget(self.line, 1)
        self.line.editingFinished.connect(lambda: self.changed.emit(self.line.text()))
        self.setFocusProxy(self.line)

    def show_value(self, value: Any) -> None:
        self.line.setText(value)


class FileEditor(TextEditor):
    """A path, with a button to choose the file."""

    edits = File

    def __init__(self, parameter: Any) -> None:
        super().__init__(parameter)
        choose = QPushButton("Choose…")
        choose.clicked.connect(self._choose)
        self.row.addWidget(choose)

    def _choose(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, self.parameter.title)
        if path:
            self.changed.emit(path)


class FormulaEditor(Editor):
    """A formula; what is wrong with it is said below, and the place is marked."""

    edits = FormulaText

    tall = True

    def __init__(self, parameter: Any) -> None:
        super().__init__(parameter)
        self.line = QLineEdit()
        self.line.setAccessibleName(parameter.title)
        self.trouble = Words()
        self.trouble.setProperty("role", "warning")
        self.trouble.setWordWrap(True)
        column = QVBoxLayout()
        column.setSpacing(2)
        column.addWidget(self.line)
        column.addWidget(self.trouble)
        self.row.addLayout(column, 1)
        self.line.textEdited.connect(lambda _: self._look())
        self.line.editingFinished.connect(self._take)
        self.setFocusProxy(self.line)

    def _look(self) -> FormulaError | None:
        """Say what is wrong with the text as it stands, with an arrow to the character."""
        try:
            self.parameter.read(self.line.text())
        except FormulaError as error:
            text = self.line.text()
            near = text[max(0, error.at - 8) : error.at + 9]
            self.trouble.setText(f"{error} Near “{near}”.")
            self.trouble.show()
            return error
        self.trouble.hide()
        return None

    def _take(self) -> None:
        error = self._look()
        if error is None:
            self.changed.emit(self.line.text())
        else:
            self.line.setSelection(error.at, 1)

    def show_value(self, value: Any) -> None:
        if not self.line.hasFocus() or self.line.text() == value:
            self.line.setText(value)
            self._look()
