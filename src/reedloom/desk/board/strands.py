"""How threads are drawn: the strand shows the kind of data, so that colour need not."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from reedloom.kinds.declare import COLOUR, GREY, VECTOR, Data

STEP = 4.0
"""Scene units between the points of a strand's line."""


def hang(start: QPointF, end: QPointF) -> QPainterPath:
    """The course of a thread, leaving downwards and arriving from above."""
    slack = max(36.0, min(160.0, abs(end.y() - start.y()) * 0.5))
    path = QPainterPath(start)
    path.cubicTo(start + QPointF(0, slack), end - QPointF(0, slack), end)
    return path


def strand_lines(course: QPainterPath, data: Data) -> list[QPainterPath]:
    """The lines of a strand along a course: one, three side by side, or two that cross."""
    if data == COLOUR:
        return [_beside(course, lambda _s, d=d: d) for d in (-3.2, 0.0, 3.2)]
    if data == VECTOR:
        return [_beside(course, lambda s, k=k: k * 3.0 * math.sin(s / 7.0)) for k in (-1.0, 1.0)]
    return [course]


def _beside(course: QPainterPath, offset) -> QPainterPath:  # type: ignore[no-untyped-def]
    """A line at a distance from a course that may change along it."""
    length = course.length()
    count = max(8, int(length / STEP))
    line = QPainterPath()
    for i in range(count + 1):
        share = i / count
        point = course.pointAtPercent(share)
        angle = math.radians(course.angleAtPercent(share))
        shift = offset(share * length)
        at = QPointF(point.x() + math.sin(angle) * shift, point.y() + math.cos(angle) * shift)
        if i == 0:
            line.moveTo(at)
        else:
            line.lineTo(at)
    return line


def paint_strand(painter: QPainter, lines: list[QPainterPath], colour: QColor, width: float = 1.6) -> None:
    """Draw a strand's lines."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    for line in lines:
        painter.drawPath(line)


def paint_splice(painter: QPainter, at: QPointF, colour: QColor, ground: QColor) -> None:
    """A small binding where a thread converts from one kind of data to another."""
    painter.setPen(QPen(colour, 1.4))
    painter.setBrush(ground)
    painter.drawRoundedRect(QRectF(at.x() - 6, at.y() - 4, 12, 8), 2, 2)
    for dx in (-3.0, 0.0, 3.0):
        painter.drawLine(QPointF(at.x() + dx - 1, at.y() + 3), QPointF(at.x() + dx + 1, at.y() - 3))


def paint_stub(painter: QPainter, at: QPointF, data: Data, colour: QColor) -> None:
    """The mark within a notch: how many strands it takes."""
    painter.setPen(QPen(colour, 1.3))
    if data == VECTOR:
        painter.drawLine(at + QPointF(-2.5, -2.5), at + QPointF(2.5, 2.5))
        painter.drawLine(at + QPointF(-2.5, 2.5), at + QPointF(2.5, -2.5))
        return
    offsets = (0.0,) if data == GREY else (-3.0, 0.0, 3.0)
    for dx in offsets:
        painter.drawLine(at + QPointF(dx, -2.5), at + QPointF(dx, 2.5))
