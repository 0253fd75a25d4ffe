"""How threads are drawn: the strand shows the kind of data, so that colour need not."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from reedloom.kinds.declare import COLOUR, GREY, VECTOR, Data

STEP = 6.0
"""Scene units between the points of a strand's line, about."""


@dataclass(frozen=True, slots=True)
class Course:
    """The way of a thread: a cubic curve that leaves downwards and arrives from above."""

    start: QPointF
    end: QPointF

    @property
    def slack(self) -> float:
        """How far the thread hangs straight at its ends."""
        return max(36.0, min(160.0, abs(self.end.y() - self.start.y()) * 0.5))

    def path(self) -> QPainterPath:
        """The way as Qt draws it."""
        hang = QPointF(0, self.slack)
        path = QPainterPath(self.start)
        path.cubicTo(self.start + hang, self.end - hang, self.end)
        return path

    def points(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Points along the way (n, 2), the directions square to it, and the lengths run so far."""
        x0, y0, x1, y1 = self.start.x(), self.start.y(), self.end.x(), self.end.y()
        corners = np.array([[x0, y0], [x0, y0 + self.slack], [x1, y1 - self.slack], [x1, y1]])
        count = max(10, min(200, int((abs(x1 - x0) + abs(y1 - y0) + self.slack) / STEP)))
        t = np.linspace(0, 1, count)[:, None]
        s = 1 - t
        at = s**3 * corners[0] + 3 * s * s * t * corners[1] + 3 * s * t * t * corners[2] + t**3 * corners[3]
        legs = np.diff(corners, axis=0)
        run = s * s * legs[0] + 2 * s * t * legs[1] + t * t * legs[2]
        length = np.maximum(np.hypot(run[:, 0], run[:, 1]), 1e-9)[:, None]
        aside = np.stack([-run[:, 1], run[:, 0]], axis=-1) / length
        steps = np.hypot(*np.diff(at, axis=0).T)
        return at, aside, np.concatenate([[0.0], np.cumsum(steps)])

    def middle(self) -> QPointF:
        """The point half-way."""
        return (self.start + self.end) / 2


def strand_lines(course: Course, data: Data) -> list[QPainterPath]:
    """The lines of a strand along a course: one, three side by side, or two that cross."""
    if data not in {COLOUR, VECTOR}:
        return [course.path()]
    at, aside, run = course.points()
    if data == COLOUR:
        offsets = [np.full(len(run), d) for d in (-3.2, 0.0, 3.2)]
    else:
        twist = 3.0 * np.sin(run / 7.0)
        offsets = [twist, -twist]
    return [_line(at + aside * offset[:, None]) for offset in offsets]


def _line(points: np.ndarray) -> QPainterPath:
    path = QPainterPath()
    path.addPolygon(QPolygonF([QPointF(x, y) for x, y in points.tolist()]))
    return path


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
