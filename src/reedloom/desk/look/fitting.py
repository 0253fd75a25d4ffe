"""Pictures of tiles of any shape within a box."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter

PAINTED = QImage.Format.Format_RGB32
"""The form of pictures that are painted: those of three bytes a pixel take twice as long."""


def fitted(image: QImage, side: int) -> QImage:
    """A picture with so many pixels along its longer side, smooth, and in the form it has."""
    keeps, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    return image.scaled(side, side, keeps, smooth)


def paint_fitting(painter: QPainter, box: QRectF, image: QImage) -> None:
    """Draw a picture as large as it fits into a box, in its middle."""
    size = QSizeF(image.size()).scaled(box.size(), Qt.AspectRatioMode.KeepAspectRatio)
    area = QRectF(box.topLeft(), size)
    area.moveCenter(box.center())
    # With soft edges it would be painted by the line, through a mask.
    soft = painter.testRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.drawImage(area, image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, soft)
