"""Paints the weave swatch of a family: an 8×8 binding pattern."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap

from reedloom.desk.look.theme import theme
from reedloom.kit.families import FAMILIES


def paint_swatch(painter: QPainter, family: str, box: QRectF, fore: QColor, back: QColor) -> None:
    """Fill `box` with a family's pattern."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.fillRect(box, back)
    painter.setBrush(fore)
    step = box.width() / 8
    for y, row in enumerate(FAMILIES[family].swatch):
        for x in range(8):
            if row >> (7 - x) & 1:
                corner = QPointF(box.left() + x * step, box.top() + y * step)
                end = QPointF(box.left() + (x + 1) * step, box.top() + (y + 1) * step)
                painter.drawRect(QRectF(corner, end))
    painter.restore()


def swatch_pixmap(family: str, size: int) -> QPixmap:
    """A family's swatch as a picture, sharp on fine screens too."""
    return _pixmap(family, size, theme().text, theme().slot)


@cache
def _pixmap(family: str, size: int, fore: str, back: str) -> QPixmap:
    pixmap = QPixmap(QSize(size * 2, size * 2))
    painter = QPainter(pixmap)
    paint_swatch(painter, family, QRectF(0, 0, size * 2, size * 2), QColor(fore), QColor(back))
    painter.end()
    pixmap.setDevicePixelRatio(2.0)
    return pixmap


def swatch_icon(family: str, size: int) -> QIcon:
    """A family's swatch as an icon."""
    return QIcon(swatch_pixmap(family, size))
