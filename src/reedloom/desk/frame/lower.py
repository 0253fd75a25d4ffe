"""Below the view: settings, dials or colourways, one at a time."""

from __future__ import annotations

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from reedloom.desk.look.shortcuts import set_tip_with_keys

TABS = {
    "settings": ("Settings", "What is set on the selected card"),
    "dials": ("Dials", "What this weave offers to its user"),
    "colourways": ("Colourways", "Kept variants of the dials"),
}


class Lower(QWidget):
    """Shows one of some panels, with a button for each above it."""

    def __init__(self, panels: dict[str, QWidget]) -> None:
        super().__init__()
        self.panels = panels
        self.buttons: dict[str, QPushButton] = {}
        self.stack = QStackedWidget()
        group = QButtonGroup(self)
        row = QHBoxLayout()
        row.setContentsMargins(10, 6, 10, 2)
        row.setSpacing(4)
        for name, panel in panels.items():
            label, tip = TABS[name]
            button = QPushButton(label)
            button.setCheckable(True)
            set_tip_with_keys(button, tip, f"focus_{name}")
            button.clicked.connect(lambda _checked=False, n=name: self.show_panel(n))
            group.addButton(button)
            row.addWidget(button)
            self.buttons[name] = button
            self.stack.addWidget(panel)
        row.addStretch()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.stack, 1)
        self.show_panel(next(iter(panels)))

    def show_panel(self, name: str) -> None:
        """Show one of the panels."""
        self.buttons[name].setChecked(True)
        self.stack.setCurrentWidget(self.panels[name])

    @property
    def shown(self) -> str:
        """The panel that is shown."""
        return next(name for name, panel in self.panels.items() if panel is self.stack.currentWidget())
