"""Draws and edits a colour gradient: stops under a bar, in the colours the eye sees."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QColorDialog, QSizePolicy, QWidget

from reedloom.desk.theme import theme
from reedloom.desk.workplace import to_image
from reedloom.kernels.curves import gradient_table, read_table
from reedloom.loom.pictures import colour_from_bytes, encode, hex_colour

Stops = tuple[tuple[float, float, float, float], ...]
HELP = (
    "Click below the bar to add a stop, drag to move it, double-click to choose its colour, "
    "Delete to remove it. With the keyboard: Page Up and Page Down choose a stop, arrows move it, "
    "Enter chooses its colour, Insert adds one."
)


def ask_colour(parent: QWidget, linear: tuple[float, ...], title: str) -> tuple[float, float, float] | None:
    """Let the maker choose a colour in sRGB; returns it in linear light, or None."""
    chosen = QColorDialog.getColor(
        QColor(hex_colour(linear)), parent, title, QColorDialog.ColorDialogOption.DontUseNativeDialog
    )
    return colour_from_bytes(chosen.red(), chosen.green(), chosen.blue()) if chosen.isValid() else None


class GradientEditor(QWidget):
    """Edits stops (place, red, green, blue) in linear light."""

    changing = Signal(object)
    changed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.stops: Stops = ((0.0, 0.0, 0.0, 0.0), (1.0, 1.0, 1.0, 1.0))
        self.blending, self.mixing = "linear", "OKLab"
        self.chosen = 0
        self._held = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Gradient")
        self.setToolTip(HELP)

    def sizeHint(self) -> QSize:
        return QSize(260, 58)

    def show_value(self, stops: Stops) -> None:
        """Show a gradient without telling anyone."""
        self.stops = stops
        self.chosen = min(self.chosen, len(stops) - 1)
        self.update()

    def _bar(self) -> QRectF:
        return QRectF(self.rect()).adjusted(9, 4, -9, -22)

    def _x(self, place: float) -> float:
        return self._bar().left() + place * self._bar().width()

    def _place(self, x: float) -> float:
        return round(min(max((x - self._bar().left()) / self._bar().width(), 0.0), 1.0), 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        bar = self._bar()
        table = encode(gradient_table(self.stops, self.blending, self.mixing), True)[::8]
        painter.drawImage(bar, to_image(table[None]))
        painter.setPen(QPen(t.colour("accent" if self.hasFocus() else "line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(bar)
        for i, stop in enumerate(self.stops):
            x, top = self._x(stop[0]), bar.bottom() + 1
            shape = QPolygonF([QPointF(x, top), QPointF(x + 6, top + 6), QPointF(x + 6, top + 17),
                               QPointF(x - 6, top + 17), QPointF(x - 6, top + 6)])  # fmt: skip
            painter.setPen(
                QPen(t.colour("accent" if i == self.chosen else "dim"), 2 if i == self.chosen else 1)
            )
            painter.setBrush(QColor(hex_colour(stop[1:])))
            painter.drawPolygon(shape)

    def _near(self, point: QPointF) -> int | None:
        return next((i for i, s in enumerate(self.stops) if abs(self._x(s[0]) - point.x()) < 8), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        found = self._near(event.position())
        if event.button() == Qt.MouseButton.RightButton:
            if found is not None:
                self.chosen = found
                self._remove()
            return
        if found is None:
            self._add(self._place(event.position().x()))
        else:
            self.chosen = found
        self._held = True
        self.update()

    def _add(self, place: float) -> None:
        if len(self.stops) < 64:
            table = gradient_table(self.stops, self.blending, self.mixing)
            r, g, b = (round(float(c), 6) for c in read_table(table, np.array([place], np.float32))[0])
            self._sort((*self.stops, (place, r, g, b)), len(self.stops))
            self.changing.emit(self.stops)

    def _sort(self, stops: Stops, chosen: int) -> None:
        order = sorted(range(len(stops)), key=lambda i: stops[i][0])
        self.stops = tuple(stops[i] for i in order)
        self.chosen = order.index(chosen)
        self.update()

    def _move(self, place: float) -> None:
        stops = list(self.stops)
        stops[self.chosen] = (place, *stops[self.chosen][1:])
        self._sort(tuple(stops), self.chosen)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._move(self._place(event.position().x()))
            self.changing.emit(self.stops)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._held = False
            self.changed.emit(self.stops)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._held = False
        self._choose_colour()

    def _choose_colour(self) -> None:
        colour = ask_colour(self, self.stops[self.chosen][1:], "Colour of the stop")
        if colour is not None:
            stops = list(self.stops)
            stops[self.chosen] = (stops[self.chosen][0], *colour)
            self.stops = tuple(stops)
            self.changed.emit(self.stops)
            self.update()

    def _remove(self) -> None:
        if len(self.stops) > 1:
            self.stops = (*self.stops[: self.chosen], *self.stops[self.chosen + 1 :])
            self.chosen = max(0, self.chosen - 1)
            self.update()
            self.changed.emit(self.stops)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        size = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
        if key in {Qt.Key.Key_Left, Qt.Key.Key_Right}:
            step = size if key == Qt.Key.Key_Right else -size
            self._move(round(min(max(self.stops[self.chosen][0] + step, 0.0), 1.0), 4))
            self.changed.emit(self.stops)
        elif key in {Qt.Key.Key_PageUp, Qt.Key.Key_PageDown}:
            self.chosen = (self.chosen + (1 if key == Qt.Key.Key_PageUp else -1)) % len(self.stops)
            self.update()
        elif key == Qt.Key.Key_Delete:
            self._remove()
        elif key == Qt.Key.Key_Insert:
            following = self.stops[min(self.chosen + 1, len(self.stops) - 1)][0]
            self._add(round((self.stops[self.chosen][0] + following) / 2, 4))
            self.changed.emit(self.stops)
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self._choose_colour()
        else:
            super().keyPressEvent(event)
