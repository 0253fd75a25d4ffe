"""Shows every command with its keys, and what hands do on the board."""

from __future__ import annotations

from html import escape

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

from reedloom.desk.frame.commands import COMMANDS, MENUS
from reedloom.desk.look.shortcuts import PRESENT

HANDS = (
    ("Type a letter on the board", "find a node and hang it at the pointer, tied to the selection"),
    ("Arrow keys", "go from card to card"),
    (
        "Drag from a notch",
        "pull a thread; let go on empty ground to see what fits, on the rail to make a map",
    ),
    ("Drag a tied input away", "untie it, or tie it elsewhere"),
    ("Ctrl-drag from an output to another", "move all its threads"),
    ("Drop a card on a thread", "tie it in; Alt-drag takes it out again"),
    ("Wheel; middle drag or Space-drag", "zoom to the pointer; move the board"),
    ("Ctrl with the wheel, over a card", "peek at it while Ctrl is held; turn further for its other results"),
    ("Double-click a card; a bay or note", "put it on pin A; edit its text"),
    (
        "Drawn paths, in the flat view",
        "click on a knot, or on a line for a whole path, with Shift for more; double-click for sharp or "
        "smooth, on a line for another knot; drag to move, with Alt past ends and edges",
    ),
    (
        "Drawn paths, with keys",
        "Page Down and Up choose a knot, with Ctrl a path; arrows move, with Ctrl turn and scale; Insert "
        "lays a knot, Delete takes it away; Enter ends a path or makes knots sharp; Esc leaves drawing",
    ),
    ("In a slider: Shift-drag", "ten times finer"),
    ("In a number: arrows, Shift, Ctrl", "nudge by a hundredth of the range, by ten, by a tenth of it"),
    ("A dial, a layer, a colourway: Alt with arrows", "move it among the others"),
    ("A colourway: F2, Delete", "rename it, leave it out"),
    ("A slot of the rail: Enter, Delete, F2", "tie the selected card there, untie it, rename an outlet"),
)


class KeysDialog(QDialog):
    """A page to read."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys and hands")
        self.resize(640, 620)
        page = QTextBrowser()
        page.setHtml(_page())
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(page)
        layout.addWidget(buttons)


def _page() -> str:
    parts = ["<h3>Hands</h3>", _table(HANDS)]
    for menu in MENUS:
        rows = [(PRESENT[c.method], c.label) for c in COMMANDS if c.menu == menu and PRESENT[c.method]]
        parts += [f"<h3>{menu}</h3>", _table(rows)]
    return "".join(parts)


def _table(rows: object) -> str:
    lines = (f"<tr><td width=250><b>{escape(a)}</b></td><td>{escape(b)}</td></tr>" for a, b in rows)  # type: ignore[attr-defined]
    return f"<table cellpadding=3>{''.join(lines)}</table>"
