"""Pictures of tiles of any shape within a box."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter


def paint_fitting(painter: QPainter, box: QRectF, image: QImage) -> None:
    """Draw a picture as large as it fits into a box, in its middle."""
    size = QSizeF(image.size()).scaled(box.size(), Qt.AspectRatioMode.KeepAspectRatio)
    area = QRectF(box.topLeft(), size)
    area.moveCenter(box.center())
    painter.drawImage(area, image)
