"""One editor for each type of parameter; all have the same two signals and one way to show a value."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QWheelEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.look.theme import icon
from reedloom.desk.settings.curve_editor import CurveEditor
from reedloom.desk.settings.draft_editor import DraftEditor
from reedloom.desk.settings.gradient_editor import GradientEditor, ask_colour
from reedloom.desk.settings.slider import NumberField, Slider
from reedloom.kernels.curves import gradient_along
from reedloom.kit.declare import Parameter, ParameterType
from reedloom.kit.formulas import FormulaError, read_formula
from reedloom.preview.encodings import Tones, hex_colour


class Editor(QWidget):
    """Shows a parameter's value and tells what the maker makes of it.

    `changing` is sent while something is dragged, `changed` once at its end.
    """

    changing = Signal(object)
    changed = Signal(object)
    refused = Signal(str)
    pick_asked = Signal(bool, object)
    """Let the maker pick colours in the flat view: along a line or at a point, and who takes them."""
    tall = False
    """Whether it stands below its label, over the panel's whole width."""

    def __init__(self, parameter: Parameter) -> None:
        super().__init__()
        self.parameter = parameter
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(6)

    def show_value(self, value: Any) -> None:
        """Show a value without telling anyone; each editor says how."""

    def show_tones(self, tones: Tones | None) -> None:
        """Show the incoming tones, where that helps."""

    def show_others(self, values: Mapping[str, Any]) -> None:
        """Show what the node's other parameters change in how this one looks."""


def tool_button(picture: str, tip: str) -> QToolButton:
    """A small quiet button with an icon."""
    button = QToolButton()
    button.setIcon(icon(picture, 16))
    button.setProperty("quiet", "true")
    button.setToolTip(tip)
    button.setAccessibleName(tip)
    return button


class NumberEditor(Editor):
    """A slider and a number field."""

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        self.slider, self.field = Slider(parameter), NumberField(parameter)
        self.row.addWidget(self.slider, 1)
        self.row.addWidget(self.field)
        self.slider.changing.connect(self._on_changing)
        self.slider.changed.connect(self._send)
        self.field.changed.connect(self._send)
        self.field.refused.connect(self.refused)
        self.setFocusProxy(self.field)

    def _plain(self, value: float) -> float | int:
        return round(value) if self.parameter.is_whole else value

    def _on_changing(self, value: float) -> None:
        self.field.show_value(value)
        self.changing.emit(self._plain(value))

    def _send(self, value: float) -> None:
        self.changed.emit(self._plain(value))

    def show_value(self, value: Any) -> None:
        self.slider.show_value(float(value))
        self.field.show_value(float(value))


class SeedEditor(NumberEditor):
    """A number with a button for another one."""

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        another = tool_button("dice", "Another arrangement")
        another.clicked.connect(lambda: self.changed.emit((int(self.slider.value) + 1) % 2**31))
        self.row.insertWidget(1, another)


class _QuietCombo(QComboBox):
    """A choice that the wheel does not change by accident while the panel scrolls."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class ChoiceEditor(Editor):
    """One of a few words."""

    def __init__(self, parameter: Parameter) -> None:
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

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        self.box = QCheckBox("On")
        self.box.setAccessibleName(parameter.title)
        self.row.addWidget(self.box, 1)
        self.box.clicked.connect(self.changed.emit)
        self.setFocusProxy(self.box)

    def show_value(self, value: Any) -> None:
        self.box.setChecked(bool(value))
        self.box.setText("On" if value else "Off")


class ColourEditor(Editor):
    """A swatch that opens the colour dialog; shown in sRGB, kept in linear light."""

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        self.value: tuple[float, ...] = parameter.default
        self.button = QPushButton()
        self.button.setAccessibleName(parameter.title)
        self.row.addWidget(self.button, 1)
        self.button.clicked.connect(self._ask)
        pick = tool_button("pick", "Pick the colour in the flat view")
        pick.clicked.connect(lambda: self.pick_asked.emit(False, lambda found: self.changed.emit(found[0])))
        self.row.addWidget(pick)
        self.setFocusProxy(self.button)

    def _ask(self) -> None:
        colour = ask_colour(self, self.value, self.parameter.title)
        if colour is not None:
            self.changed.emit(colour)

    def show_value(self, value: Any) -> None:
        self.value = value
        code = hex_colour(value)
        ink = "#1c1a17" if QColor(code).lightnessF() > 0.5 else "#f6eede"
        self.button.setText(code)
        self.button.setStyleSheet(f"background: {code}; color: {ink};")


class CurveRow(Editor):
    """A tone curve in place, and large on request."""

    tall = True

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        self.curve = CurveEditor()
        self.row.addWidget(self.curve, 1)
        larger = tool_button("large", "Edit the curve large")
        larger.clicked.connect(self._open_large)
        self.row.addWidget(larger, 0, Qt.AlignmentFlag.AlignTop)
        self.curve.changing.connect(self.changing)
        self.curve.changed.connect(self.changed)
        self.setFocusProxy(self.curve)

    def _open_large(self) -> None:
        dialog = QDialog(self.window())
        dialog.setWindowTitle(self.parameter.title)
        large = CurveEditor(480)
        large.show_value(self.curve.knots)
        large.show_tones(self.curve.tones)
        large.changing.connect(self.changing)
        large.changed.connect(self.changed)
        layout = QVBoxLayout(dialog)
        layout.addWidget(large)
        dialog.resize(QSize(620, 560))
        dialog.exec()

    def show_value(self, value: Any) -> None:
        self.curve.show_value(value)

    def show_tones(self, tones: Tones | None) -> None:
        self.curve.show_tones(tones)


class GradientRow(Editor):
    """A colour gradient."""

    tall = True

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        self.gradient = GradientEditor()
        self.row.addWidget(self.gradient, 1)
        line = tool_button("line", "Take the colours along a line drawn over the flat view")
        line.clicked.connect(lambda: self.pick_asked.emit(True, self._take_line))
        self.row.addWidget(line, 0, Qt.AlignmentFlag.AlignTop)
        self.gradient.changing.connect(self.changing)
        self.gradient.changed.connect(self.changed)
        self.setFocusProxy(self.gradient)

    def show_value(self, value: Any) -> None:
        self.gradient.show_value(value)

    def _take_line(self, colours: list[tuple[float, ...]]) -> None:
        self.changed.emit(gradient_along(colours))

    def show_others(self, values: Mapping[str, Any]) -> None:
        if {"blending", "mixing"} <= values.keys():
            self.gradient.show_mixing(values["blending"], values["mixing"])


class DraftRow(Editor):
    """A binding draft."""

    tall = True

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        self.draft = DraftEditor()
        self.row.addWidget(self.draft, 1)
        self.draft.grid.changing.connect(self.changing)
        self.draft.grid.changed.connect(self.changed)
        self.setFocusProxy(self.draft)

    def show_value(self, value: Any) -> None:
        self.draft.show_value(value)

    def show_others(self, values: Mapping[str, Any]) -> None:
        self.draft.note.setVisible(values.get("binding", "own draft") != "own draft")


class FormulaEditor(Editor):
    """A formula; what is wrong with it is said below, and the place is marked."""

    tall = True

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        self.line = QLineEdit()
        self.line.setAccessibleName(parameter.title)
        self.trouble = QLabel()
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
            read_formula(self.line.text(), frozenset(self.parameter.names))
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


class TextEditor(Editor):
    """A line of text, or a file with a button to choose it."""

    def __init__(self, parameter: Parameter) -> None:
        super().__init__(parameter)
        self.line = QLineEdit()
        self.line.setAccessibleName(parameter.title)
        self.row.addWidget(self.line, 1)
        self.line.editingFinished.connect(lambda: self.changed.emit(self.line.text()))
        if parameter.type is ParameterType.FILE:
            choose = QPushButton("Choose…")
            choose.clicked.connect(self._choose)
            self.row.addWidget(choose)
        self.setFocusProxy(self.line)

    def _choose(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, self.parameter.title)
        if path:
            self.changed.emit(path)

    def show_value(self, value: Any) -> None:
        self.line.setText(value)


EDITORS: dict[ParameterType, type[Editor]] = {
    ParameterType.CHOICE: ChoiceEditor,
    ParameterType.BOOLEAN: SwitchEditor,
    ParameterType.COLOUR: ColourEditor,
    ParameterType.SEED: SeedEditor,
    ParameterType.TONE_CURVE: CurveRow,
    ParameterType.GRADIENT: GradientRow,
    ParameterType.DRAFT: DraftRow,
    ParameterType.TEXT: TextEditor,
    ParameterType.FORMULA: FormulaEditor,
    ParameterType.FILE: TextEditor,
}


def make_editor(parameter: Parameter) -> Editor:
    """The editor for a parameter's type."""
    return EDITORS.get(parameter.type, NumberEditor)(parameter)
