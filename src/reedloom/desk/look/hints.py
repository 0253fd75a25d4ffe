"""The next step, written over a view."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter

from reedloom.desk.look.theme import small_font, theme


def paint_hint(painter: QPainter, text: str, middle: QPointF) -> None:
    """Write a few words on a plate of the accent's colour."""
    t = theme()
    painter.setFont(small_font(bold=True))
    box = QRectF(0, 0, painter.fontMetrics().horizontalAdvance(text) + 24, 24)
    box.moveCenter(middle)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t.colour("accent"))
    painter.drawRoundedRect(box, 5, 5)
    painter.setPen(t.colour("on_accent"))
    painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)
