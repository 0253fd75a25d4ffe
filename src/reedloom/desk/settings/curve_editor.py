"""Draws and edits a tone curve: knots to drag, smooth or sharp, over the incoming histogram."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from reedloom.desk.arrows import ARROWS
from reedloom.desk.settings.tones import paint_histogram
from reedloom.desk.theme import theme
from reedloom.kernels.curves import evaluate_curve
from reedloom.loom.pictures import Tones

Knots = tuple[tuple[float, float, float], ...]
GAP = 0.002
"""Least distance between two knots."""
HELP = (
    "Click to add a knot, drag to move it, double-click to make it sharp or smooth, Delete to remove it. "
    "With the keyboard: Page Up and Page Down choose a knot, arrows move it, Insert adds one."
)


class CurveEditor(QWidget):
    """Edits knots (x, y, sharp) within 0..1."""

    changing = Signal(object)
    changed = Signal(object)

    def __init__(self, height: int = 168) -> None:
        super().__init__()
        self.knots: Knots = ((0.0, 0.0, 0.0), (1.0, 1.0, 0.0))
        self.tones: Tones | None = None
        self.chosen = 0
        self._held = False
        self._height = height
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(height)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Tone curve")
        self.setToolTip(HELP)

    def sizeHint(self) -> QSize:
        return QSize(260, self._height)

    def show_value(self, knots: Knots) -> None:
        """Show a curve without telling anyone."""
        self.knots = tuple((k[0], k[1], k[2]) for k in knots)
        self.chosen = min(self.chosen, len(self.knots) - 1)
        self.update()

    def show_tones(self, tones: Tones | None) -> None:
        """Show a histogram behind the curve."""
        self.tones = tones
        self.update()

    def _box(self) -> QRectF:
        return QRectF(self.rect()).adjusted(8, 8, -8, -8)

    def _to_widget(self, x: float, y: float) -> QPointF:
        box = self._box()
        return QPointF(box.left() + x * box.width(), box.bottom() - y * box.height())

    def _from_widget(self, point: QPointF) -> tuple[float, float]:
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

    def _near(self, point: QPointF) -> int | None:
        for i, (x, y, _) in enumerate(self.knots):
            away = self._to_widget(x, y) - point
            if abs(away.x()) < 9 and abs(away.y()) < 9:
                return i
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        found = self._near(event.position())
        if event.button() == Qt.MouseButton.RightButton:
            if found is not None:
                self.chosen = found
                self._remove()
            return
        if found is None:
            self._add(*self._from_widget(event.position()))
        else:
            self.chosen = found
        self._held = True
        self.update()

    def _add(self, x: float, y: float) -> None:
        if len(self.knots) < 64 and all(abs(k[0] - x) > GAP for k in self.knots):
            self.knots = tuple(sorted((*self.knots, (x, y, 0.0))))
            self.chosen = next(i for i, k in enumerate(self.knots) if k[0] == x)
            self.changing.emit(self.knots)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._put(*self._from_widget(event.position()))
            self.changing.emit(self.knots)

    def _put(self, x: float, y: float) -> None:
        """Move the chosen knot, between its neighbours."""
        i = self.chosen
        low = self.knots[i - 1][0] + GAP if i > 0 else 0.0
        high = self.knots[i + 1][0] - GAP if i < len(self.knots) - 1 else 1.0
        moved = (round(min(max(x, low), high), 4), round(min(max(y, 0.0), 1.0), 4), self.knots[i][2])
        self.knots = (*self.knots[:i], moved, *self.knots[i + 1 :])
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._held = False
            self.changed.emit(self.knots)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._near(event.position())
        if found is not None:
            self._toggle_sharp(found)

    def _toggle_sharp(self, index: int) -> None:
        x, y, sharp = self.knots[index]
        self.knots = (*self.knots[:index], (x, y, 0.0 if sharp else 1.0), *self.knots[index + 1 :])
        self.update()
        self.changed.emit(self.knots)

    def _remove(self) -> None:
        if len(self.knots) > 2:
            self.knots = (*self.knots[: self.chosen], *self.knots[self.chosen + 1 :])
            self.chosen = max(0, self.chosen - 1)
            self.update()
            self.changed.emit(self.knots)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        size = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
        if key in ARROWS:
            x, y, _ = self.knots[self.chosen]
            self._put(x + ARROWS[key][0] * size, y - ARROWS[key][1] * size)
            self.changed.emit(self.knots)
        elif key in {Qt.Key.Key_PageUp, Qt.Key.Key_PageDown}:
            self.chosen = (self.chosen + (1 if key == Qt.Key.Key_PageUp else -1)) % len(self.knots)
            self.update()
        elif key == Qt.Key.Key_Delete:
            self._remove()
        elif key == Qt.Key.Key_Insert:
            x, following = (
                self.knots[self.chosen][0],
                self.knots[min(self.chosen + 1, len(self.knots) - 1)][0],
            )
            middle = round((x + following) / 2, 4)
            self._add(middle, round(float(evaluate_curve(self.knots, np.array([middle]))[0]), 4))
            self.changed.emit(self.knots)
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self._toggle_sharp(self.chosen)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()
