"""The line between two pictures shown in one place: where it is, how it is drawn and dragged."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from reedloom.desk.look.theme import small_font, theme

REACH = 8
"""Pixels from the line within which it is taken hold of."""


class Wipe:
    """A's share of the width, and whether it is being dragged."""

    def __init__(self) -> None:
        self.share = 0.5
        self.held = False

    def is_near(self, x: float, width: int) -> bool:
        """Whether a place is near enough to take hold."""
        return abs(x - width * self.share) < REACH

    def drag_to(self, x: float, width: int) -> None:
        """Move the line."""
        self.share = min(max(x / max(1, width), 0.0), 1.0)

    def step(self, by: float) -> None:
        """Move the line by a share of the width, as the keyboard does."""
        self.share = min(max(self.share + by, 0.0), 1.0)

    def right_part(self, width: int, height: int) -> QRectF:
        """Where B is seen."""
        return QRectF(width * self.share, 0, width * (1 - self.share), height)

    def paint(self, painter: QPainter, width: int, height: int) -> None:
        """The line with its two letters."""
        t, x = theme(), width * self.share
        painter.setPen(QPen(t.colour("accent"), 1.5))
        painter.drawLine(QPointF(x, 0), QPointF(x, height))
        painter.setFont(small_font(bold=True))
        for letter, at in (("A", x - 24), ("B", x + 6)):
            tag = QRectF(at, 8, 18, 18)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.colour("accent"))
            painter.drawRoundedRect(tag, 4, 4)
            painter.setPen(t.colour("on_accent"))
            painter.drawText(tag, int(Qt.AlignmentFlag.AlignCenter), letter)
