"""Editors of colours: a swatch, and a gradient."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QPushButton

from reedloom.desk.look.buttons import tool_button
from reedloom.desk.settings.editor import Editor
from reedloom.desk.settings.gradient_editor import GradientEditor, ask_colour
from reedloom.kernels.curves import gradient_along
from reedloom.kit.parameters import ColourValue, Gradient
from reedloom.preview.encodings import hex_colour


class ColourEditor(Editor):
    """A swatch that opens the colour dialog; shown in sRGB, kept in linear light."""

    edits = ColourValue

    def __init__(self, parameter: Any) -> None:
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


class GradientRow(Editor):
    """A colour gradient."""

    edits = Gradient

    tall = True

    def __init__(self, parameter: Any) -> None:
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
        if self.parameter.mixed_by:
            self.gradient.show_mixing(*(values[name] for name in self.parameter.mixed_by))
