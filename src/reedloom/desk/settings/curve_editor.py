"""Draws and edits a tone curve: knots to drag, smooth or sharp, over the incoming histogram."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from reedloom.desk.look.theme import theme
from reedloom.desk.look.words import set_tip
from reedloom.desk.settings.knots import Knot, KnotEditor
from reedloom.desk.settings.tone_marks import paint_histogram
from reedloom.kernels.curves import evaluate_curve
from reedloom.preview.encodings import Tones

GAP = 0.002
"""Least distance between two knots."""
HELP = (
    "Click to add a knot, drag to move it, double-click to make it sharp or smooth, Delete to remove it. "
    "With the keyboard: Page Up and Page Down choose a knot, arrows move it, Insert adds one."
)


class CurveEditor(KnotEditor):
    """Edits knots (x, y, sharp) within 0..1."""

    def __init__(self, height: int = 168) -> None:
        super().__init__()
        self.knots = ((0.0, 0.0, 0.0), (1.0, 1.0, 0.0))
        self.tones: Tones | None = None
        self._height = height
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(height)
        self.setAccessibleName("Tone curve")
        set_tip(self, HELP)

    def sizeHint(self) -> QSize:
        return QSize(260, self._height)

    def show_tones(self, tones: Tones | None) -> None:
        """Show a histogram behind the curve."""
        self.tones = tones
        self.update()

    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(8, 8, -8, -8)

    def _to_widget(self, x: float, y: float) -> QPointF:
        box = self._box()
        return QPointF(box.left() + x * box.width(), box.bottom() - y * box.height())

    def place_of(self, point: QPointF) -> tuple[float, float]:
        box = self._box()
        x = min(max((point.x() - box.left()) / box.width(), 0.0), 1.0)
        y = min(max((box.bottom() - point.y()) / box.height(), 0.0), 1.0)
        return round(x, 4), round(y, 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self._box()
        painter.fillRect(box, t.colour("slot"))
        paint_histogram(painter, box, self.tones, t.colour("raised"))
        painter.setPen(QPen(t.colour("raised"), 1))
        for i in range(1, 4):
            painter.drawLine(self._to_widget(i / 4, 0), self._to_widget(i / 4, 1))
            painter.drawLine(self._to_widget(0, i / 4), self._to_widget(1, i / 4))
        painter.setPen(QPen(t.colour("accent" if self.hasFocus() else "line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        x = np.linspace(0, 1, 160)
        y = evaluate_curve(self.knots, x)
        painter.setPen(QPen(t.colour("text"), 1.8))
        painter.drawPolyline(
            QPolygonF([self._to_widget(float(a), float(b)) for a, b in zip(x, y, strict=True)])
        )
        for i, (kx, ky, sharp) in enumerate(self.knots):
            at = self._to_widget(kx, ky)
            painter.setPen(QPen(t.colour("ground"), 1.2))
            painter.setBrush(t.colour("accent" if i == self.chosen else "text"))
            mark = QRectF(at.x() - 5, at.y() - 5, 10, 10)
            if sharp:
                painter.drawRect(mark)
            else:
                painter.drawEllipse(mark)

    def near(self, point: QPointF) -> int | None:
        for i, (x, y, _) in enumerate(self.knots):
            away = self._to_widget(x, y) - point
            if abs(away.x()) < 9 and abs(away.y()) < 9:
                return i
        return None

    def new_knot(self, x: float, y: float | None) -> Knot | None:
        if any(abs(k[0] - x) <= GAP for k in self.knots):
            return None
        on_line = float(evaluate_curve(self.knots, np.array([x]))[0]) if y is None else y
        return (x, round(on_line, 4), 0.0)

    def moved(self, knot: Knot, x: float, y: float) -> Knot:
        i = self.chosen
        low = self.knots[i - 1][0] + GAP if i > 0 else 0.0
        high = self.knots[i + 1][0] - GAP if i < len(self.knots) - 1 else 1.0
        return (round(min(max(x, low), high), 4), round(min(max(y, 0.0), 1.0), 4), knot[2])

    def act(self, index: int) -> None:
        x, y, sharp = self.knots[index]
        self.replace_knot(index, (x, y, 0.0 if sharp else 1.0))
