"""How threads are drawn: the strand shows the kind of data, so that colour need not."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from reedloom.kit.data import COLOUR, ISLANDS, MATERIAL, PATHS, POINTS, VECTOR, Data

STEP = 6.0
"""Scene units between the points of a strand's line, about."""


class Course(Struct, frozen=True):
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
    """The lines of a strand along a course, which tell the kind of data it carries.

    Grey is one line, colour three side by side, a vector two that cross, points beads on a line, paths a
    long wave, islands short blocks, a material a wide ribbon.
    """
    return _lines(course.start.toTuple(), course.end.toTuple(), data)


@lru_cache(maxsize=64)
def _lines(start: tuple[float, float], end: tuple[float, float], data: Data) -> list[QPainterPath]:
    """Kept, since those to the map rail are painted whenever anything on the board is."""
    course = Course(QPointF(*start), QPointF(*end))
    if data not in _OFFSETS:
        return [course.path()]
    at, aside, run = course.points()
    lines = [_line(at + aside * offset[:, None]) for offset in _OFFSETS[data](run)]
    if data in {POINTS, ISLANDS}:
        lines.append(_along(at, aside, run, block=data == ISLANDS))
    return lines


_OFFSETS: dict[Data, Callable[[np.ndarray], list[np.ndarray]]] = {
    COLOUR: lambda run: [np.full(len(run), d) for d in (-3.2, 0.0, 3.2)],
    VECTOR: lambda run: [3.0 * np.sin(run / 7.0), -3.0 * np.sin(run / 7.0)],
    POINTS: lambda run: [np.zeros(len(run))],
    ISLANDS: lambda run: [],
    PATHS: lambda run: [4.0 * np.sin(run / 12.0)],
    MATERIAL: lambda run: [np.full(len(run), d) for d in (-4.5, -1.5, 1.5, 4.5)],
}


def _along(at: np.ndarray, aside: np.ndarray, run: np.ndarray, block: bool) -> QPainterPath:
    """Beads, or short blocks, at even steps along a course."""
    path = QPainterPath()
    for where in np.arange(6.0, run[-1] - 4.0, 13.0):
        x, y = (float(np.interp(where, run, at[:, k])) for k in (0, 1))
        if not block:
            path.addEllipse(QPointF(x, y), 2.6, 2.6)
            continue
        a = np.array([float(np.interp(where, run, aside[:, k])) for k in (0, 1)])
        along = np.array([a[1], -a[0]])
        corners = [np.array([x, y]) + i * 2.6 * a + j * 3.6 * along for i, j in _CORNERS]
        path.addPolygon(QPolygonF([QPointF(*corner) for corner in corners]))
    return path


_CORNERS = ((-1, -1), (1, -1), (1, 1), (-1, 1), (-1, -1))


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
    if data == POINTS:
        painter.drawEllipse(at, 2.2, 2.2)
        return
    if data == ISLANDS:
        painter.drawRect(QRectF(at.x() - 2.5, at.y() - 2.5, 5, 5))
        return
    offsets = {COLOUR: (-3.0, 0.0, 3.0), MATERIAL: (-4.5, -1.5, 1.5, 4.5)}.get(data, (0.0,))
    for dx in offsets:
        painter.drawLine(at + QPointF(dx, -2.5), at + QPointF(dx, 2.5))
