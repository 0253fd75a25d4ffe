"""The row of what can be done with drawn paths, above the flat view while there are some in hand."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from reedloom.desk.look.words import set_tip
from reedloom.desk.screen.paths_in_hand import PathsInHand


class PathStrip(QWidget):
    """Buttons for the commands on paths; those that need chosen knots wait for some."""

    def __init__(self, in_hand: PathsInHand) -> None:
        super().__init__()
        self.in_hand = in_hand
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 0, 10, 4)
        row.setSpacing(4)
        acts: tuple[tuple[str, Callable[[], None], str], ...] = (
            ("Draw", in_hand.draw_paths, "Lay knots with clicks, or drag to draw freely"),
            ("Sharp", in_hand.sharpen_knots, "Chosen knots sharp, or smooth again; also a double click"),
            ("Join", in_hand.join_ends, "Join two chosen ends, or close a chosen path"),
            ("Cut", in_hand.cut_paths, "Take away the piece after each chosen knot"),
            ("Reverse", in_hand.reverse_paths, "Let chosen paths run from their end to their start"),
            ("Double", in_hand.double_paths, "Lay copies of chosen paths beside them"),
            ("Delete", in_hand.delete_knots, "Take chosen knots away"),
        )
        self.buttons: dict[str, QPushButton] = {}
        for name, act, tip in acts:
            button = QPushButton(name)
            button.setProperty("slim", "true")
            set_tip(button, tip)
            button.clicked.connect(lambda _checked=False, a=act: a())
            row.addWidget(button)
            self.buttons[name] = button
        row.addStretch()
        self.buttons["Draw"].setCheckable(True)
        in_hand.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show whether drawing is on, and what can be done now."""
        for name, button in self.buttons.items():
            button.setEnabled(name == "Draw" or bool(self.in_hand.chosen))
        self.buttons["Draw"].setChecked(self.in_hand.drawing)
