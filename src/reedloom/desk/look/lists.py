"""What those who paint rows of lists ask."""

from __future__ import annotations

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QStyleOptionViewItem

from reedloom.desk.look.theme import theme


def is_chosen(option: QStyleOptionViewItem) -> bool:
    """Whether a row is the one that is chosen."""
    from PySide6.QtWidgets import QStyle  # its many names take 14 ms of a start, before any list is painted

    return bool(option.state & QStyle.StateFlag.State_Selected)


def paint_chosen(painter: QPainter, box: QRect) -> None:
    """The ground of a chosen row."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme().colour("line"))
    painter.drawRoundedRect(box, 5, 5)
