"""A histogram with marks that can be dragged, and the picture of one that lies behind a curve."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import set_tip
from reedloom.preview.encodings import BINS, Tones


def paint_histogram(painter: QPainter, box: QRectF, tones: Tones | None, colour: QColor) -> None:
    """Fill a box with a lying histogram from 0 (left) to 1."""
    if tones is None or tones.counts.max() <= 0:
        return
    peak = float(tones.counts.max())
    path = QPainterPath(box.bottomLeft())
    for i, count in enumerate(tones.counts):
        y = box.bottom() - box.height() * 0.94 * (float(count) / peak) ** 0.6
        path.lineTo(box.left() + box.width() * i / BINS, y)
        path.lineTo(box.left() + box.width() * (i + 1) / BINS, y)
    path.lineTo(box.bottomRight())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawPath(path)


class ToneStrip(QWidget):
    """The first input's histogram with the node's marked tones on it."""

    changing = Signal(str, float)
    changed = Signal(str, float)

    def __init__(self) -> None:
        super().__init__()
        self.tones: Tones | None = None
        self.marks: dict[str, float] = {}
        self._held: str | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        set_tip(self, "The tones that come in; drag the marks.")
        self.setAccessibleName("Histogram of the input")

    def sizeHint(self) -> QSize:
        return QSize(200, 78)

    def show_tones(self, tones: Tones | None, marks: dict[str, float]) -> None:
        """Show a histogram and where the marks lie on it."""
        self.tones, self.marks = tones, marks
        self.update()

    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(6, 4, -6, -12)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self._box()
        painter.fillRect(box, t.colour("slot"))
        paint_histogram(painter, box, self.tones, t.colour("line").lighter(125))
        if self.tones is None:
            painter.setFont(small_font())
            painter.setPen(t.colour("dim"))
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), "Tie an input to see its tones")
        for value in self.marks.values():
            x = box.left() + box.width() * min(max(value, 0.0), 1.0)
            painter.setPen(QPen(t.colour("accent"), 1.5))
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            painter.setBrush(t.colour("accent"))
            painter.drawPolygon(QPolygonF([QPointF(x, box.bottom()), QPointF(x - 5, box.bottom() + 9),
                                           QPointF(x + 5, box.bottom() + 9)]))  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        box = self._box()
        value = (event.position().x() - box.left()) / box.width()
        self._held = min(self.marks, key=lambda m: abs(self.marks[m] - value), default=None)
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            box = self._box()
            value = min(max((event.position().x() - box.left()) / box.width(), 0.0), 1.0)
            self.changing.emit(self._held, round(value, 4))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            box = self._box()
            value = min(max((event.position().x() - box.left()) / box.width(), 0.0), 1.0)
            self.changed.emit(self._held, round(value, 4))
            self._held = None
