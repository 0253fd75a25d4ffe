"""Paints the weave swatch of a family: an 8×8 binding pattern."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap

from reedloom.desk.look.theme import theme
from reedloom.kit.families import FAMILIES


def paint_swatch(painter: QPainter, family: str, box: QRectF, fore: QColor, back: QColor) -> None:
    """Fill `box` with a family's pattern."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
    rows = bytes(FAMILIES[family].swatch)  # by a name, since the picture does not keep it
    squares = QImage(rows, 8, 8, 1, QImage.Format.Format_Mono)
    squares.setColorTable([back.rgba(), fore.rgba()])
    painter.drawImage(box, squares)
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
