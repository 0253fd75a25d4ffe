"""Small quiet buttons with an icon, named for the eye and for the screen reader."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QToolButton

from reedloom.desk.look.theme import icon
from reedloom.desk.look.words import set_tip

VIEW_ICON = 18
"""Of the icons above the views, which are looked for more often than those among settings."""


def tool_button(picture: str, tip: str, size: int = 16) -> QToolButton:
    """A quiet button with a shipped icon, so many pixels wide."""
    button = QToolButton()
    button.setIcon(icon(picture, size))
    button.setIconSize(QSize(size, size))
    button.setProperty("quiet", "true")
    set_tip(button, tip)
    button.setAccessibleName(tip)
    return button
