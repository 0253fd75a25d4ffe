"""Editors of what is drawn: a tone curve, and a binding draft."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QDialog, QVBoxLayout

from reedloom.desk.look.buttons import tool_button
from reedloom.desk.settings.curve_editor import CurveEditor
from reedloom.desk.settings.draft_editor import DraftEditor
from reedloom.desk.settings.editor import Editor
from reedloom.kit.parameters import Draft, ToneCurve
from reedloom.preview.encodings import Tones


class CurveRow(Editor):
    """A tone curve in place, and large on request."""

    edits = ToneCurve

    tall = True

    def __init__(self, parameter: Any) -> None:
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


class DraftRow(Editor):
    """A binding draft."""

    edits = Draft

    tall = True

    def __init__(self, parameter: Any) -> None:
        super().__init__(parameter)
        self.draft = DraftEditor()
        self.row.addWidget(self.draft, 1)
        self.draft.grid.changing.connect(self.changing)
        self.draft.grid.changed.connect(self.changed)
        self.setFocusProxy(self.draft)

    def show_value(self, value: Any) -> None:
        self.draft.show_value(value)
