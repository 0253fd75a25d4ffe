"""Editors of numbers: a slider and a field, and for seeds a button for another one."""

from __future__ import annotations

from typing import Any, ClassVar

from reedloom.desk.look.buttons import tool_button
from reedloom.desk.settings.editor import Editor
from reedloom.desk.settings.slider import NumberField, Slider
from reedloom.kit.parameters import Number, Seed


class NumberEditor(Editor):
    """A slider and a number field."""

    edits: ClassVar[type[Number]] = Number

    def __init__(self, parameter: Any) -> None:
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

    edits: ClassVar[type[Number]] = Seed

    def __init__(self, parameter: Any) -> None:
        super().__init__(parameter)
        another = tool_button("dice", "Another arrangement")
        another.clicked.connect(lambda: self.changed.emit((int(self.slider.value) + 1) % 2**31))
        self.row.insertWidget(1, another)
