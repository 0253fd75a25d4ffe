"""What all editors share: two signals, one way to show a value, and the class of parameter they edit."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from reedloom.desk.screen.workplace import Workplace
from reedloom.kit.parameters import Parameter
from reedloom.preview.encodings import Tones


class Editor(QWidget):
    """Shows a parameter's value and tells what the maker makes of it.

    `changing` is sent while something is dragged, `changed` once at its end. A subclass says which
    parameters it `edits`; that alone makes it their editor.
    """

    edits: ClassVar[type[Parameter]] = Parameter

    changing = Signal(object)
    changed = Signal(object)
    refused = Signal(str)
    pick_asked = Signal(bool, object)
    """Let the maker pick colours in the flat view: along a line or at a point, and who takes them."""
    tall = False
    """Whether it stands below its label, over the panel's whole width."""

    def __init__(self, parameter: Any) -> None:
        super().__init__()
        self.parameter: Any = parameter
        """Of the class that it edits."""
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(6)

    def show_value(self, value: Any) -> None:
        """Show a value without telling anyone; each editor says how."""

    def attach(self, workplace: Workplace) -> None:
        """Take part in what else the window shows; most editors need no more than their value."""

    def show_tones(self, tones: Tones | None) -> None:
        """Show the incoming tones, where that helps."""

    def show_others(self, values: Mapping[str, Any]) -> None:
        """Show what the node's other parameters change in how this one looks."""
