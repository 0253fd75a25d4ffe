"""Words on the screen: plain text wherever they come from; a text of a weave is never taken for markup.

Markup in a text could name files, which would be opened. Labels, tooltips and questions are made here
and nowhere else; a check of the sources holds the rest of the window to it.
"""

from __future__ import annotations

from html import escape
from typing import Protocol

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QMessageBox, QWidget

from reedloom.errors import readable

LONGEST = 4000
"""Characters of a text on the screen."""


class Words(QLabel):
    """A label whose text is plain."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        if text:
            self.setText(text)

    def setText(self, text: str) -> None:
        super().setText(shown(text))


class HasTip(Protocol):
    """A widget, an action or an item of a list."""

    def setToolTip(self, toolTip: str) -> None: ...  # noqa: N803 - Qt's own name


def shown(text: str) -> str:
    """A text of several lines with nothing hidden in it."""
    return "\n".join(readable(line, LONGEST) for line in text[:LONGEST].split("\n"))


def set_tip(on: HasTip, text: str) -> None:
    """Let something say a plain text when the pointer rests on it."""
    plain = shown(text)
    if "<" in plain or "&" in plain:  # else it could be taken for markup
        plain = f"<qt>{escape(plain).replace(chr(10), '<br/>')}</qt>"
    on.setToolTip(plain)


def action_text(text: str) -> str:
    """A text for a menu or button, in which & stands for itself."""
    return readable(text).replace("&", "&&")


def ask(over: QWidget, title: str, text: str, answers: dict[str, str], stay: str) -> str:
    """Ask a question in a small window.

    Parameters
    ----------
    answers : mapping of a word to what its button says
        The first is what Enter takes.
    stay : str
        The word of the answer that Escape gives.

    Returns
    -------
    The word of the answer.
    """
    box = _box(over, title, text)
    roles = QMessageBox.ButtonRole
    buttons = {
        word: box.addButton(said, roles.RejectRole if word == stay else roles.ActionRole)
        for word, said in answers.items()
    }
    box.setDefaultButton(next(iter(buttons.values())))
    box.setEscapeButton(buttons[stay])
    box.exec()
    return next((word for word, button in buttons.items() if button is box.clickedButton()), stay)


def tell(over: QWidget, title: str, text: str, warning: bool = True) -> None:
    """Say something in a small window."""
    box = _box(over, title, text)
    box.setStandardButtons(QMessageBox.StandardButton.Ok)
    box.setIcon(QMessageBox.Icon.Warning if warning else QMessageBox.Icon.NoIcon)
    box.exec()


def _box(over: QWidget, title: str, text: str) -> QMessageBox:
    box = QMessageBox(over)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setWindowTitle(title)
    box.setText(shown(text))
    return box
