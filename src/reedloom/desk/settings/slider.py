"""A slider over the useful range, and a number field that takes any legal value and arithmetic."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLineEdit, QSizePolicy, QWidget

from reedloom.desk.look.arrows import ARROWS
from reedloom.desk.look.keys import CTRL_ARROWS, take_keys
from reedloom.desk.look.theme import restyle, theme
from reedloom.errors import ReedError
from reedloom.kit.parameters import Number
from reedloom.weave.arithmetic import calculate

FINE = 0.1
"""How much slower the handle follows while Shift is held."""


def format_number(value: float) -> str:
    """A number as short as it can be, to six digits."""
    return f"{value:.6g}".replace("-0", "0") if value == 0 else f"{value:.6g}"


class Slider(QWidget):
    """A bar that fills to the value; beyond the useful range its end shows a tick."""

    changing = Signal(float)
    changed = Signal(float)

    def __init__(self, parameter: Number) -> None:
        super().__init__()
        self.parameter = parameter
        self.value = float(parameter.default)
        self._start: tuple[float, float] | None = None
        self.stops: tuple[float, ...] = ()
        """Values at which it stops, in order; all others are passed over."""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"{parameter.title} slider")
        take_keys(self, *CTRL_ARROWS)

    def sizeHint(self) -> QSize:
        return QSize(120, 22)

    def show_value(self, value: float) -> None:
        """Move to a value without telling anyone."""
        self.value = value
        self.update()

    def _legal(self, value: float) -> float:
        low, high = self.parameter.hard
        value = min(max(value, low), high)
        if self.stops:
            return min(self.stops, key=lambda stop: abs(stop - value))
        return float(round(value)) if self.parameter.is_whole else round(value, 6)

    def _next_stop(self, way: float) -> float:
        """The stop after the present value, or before it."""
        if way > 0:
            return min((stop for stop in self.stops if stop > self.value + 1e-6), default=self.value)
        return max((stop for stop in self.stops if stop < self.value - 1e-6), default=self.value)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        track = QRectF(3, self.height() / 2 - 4, self.width() - 6, 8)
        painter.setPen(QPen(t.colour("accent") if self.hasFocus() else t.colour("line"), 1))
        painter.setBrush(t.colour("slot"))
        painter.drawRoundedRect(track, 4, 4)
        low, high = self.parameter.useful
        share = (self.value - low) / (high - low) if high > low else 0.0
        held = min(max(share, 0.0), 1.0)
        zero = min(max(-low / (high - low), 0.0), 1.0) if high > low else 0.0
        first, last = sorted((zero, held))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.colour("accent"))
        fill = QRectF(
            track.left() + first * track.width(), track.top() + 2, (last - first) * track.width(), 4
        )
        painter.drawRoundedRect(fill, 2, 2)
        painter.setBrush(t.colour("dim"))
        for stop in self.stops:
            if low <= stop <= high and high > low:
                at = track.left() + (stop - low) / (high - low) * track.width()
                painter.drawRect(QRectF(at - 0.5, track.bottom() + 1, 1, 3))
        x = track.left() + held * track.width()
        painter.setBrush(t.colour("text"))
        painter.drawRoundedRect(QRectF(x - 3, track.top() - 4, 6, 16), 3, 3)
        if share < 0 or share > 1:
            painter.setBrush(t.colour("warning"))
            painter.drawRect(QRectF(track.right() - 2 if share > 1 else track.left(), track.top() - 4, 2, 16))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.setFocus()
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            if not fine:
                self.value = self._value_at(event.position().x())
            self._start = (event.position().x(), self.value)
            self.changing.emit(self.value)
            self.update()

    def _value_at(self, x: float) -> float:
        low, high = self.parameter.useful
        share = min(max((x - 3) / max(1, self.width() - 6), 0.0), 1.0)
        return self._legal(low + share * (high - low))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._start is None:
            return
        low, high = self.parameter.useful
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            step = (event.position().x() - self._start[0]) / max(1, self.width() - 6) * (high - low) * FINE
            value = self._legal(self._start[1] + step)
        else:
            value = self._value_at(event.position().x())
        if value != self.value:
            self.value = value
            self.changing.emit(value)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._start is not None:
            self._start = None
            self.changed.emit(self.value)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in ARROWS:
            right, down = ARROWS[event.key()]
            way = right - down
            self.value = (
                self._next_stop(way)
                if self.stops
                else self._legal(self.value + way * nudge_step(self.parameter, event))
            )
            self.update()
            self.changed.emit(self.value)
        else:
            super().keyPressEvent(event)


def nudge_step(parameter: Number, event: QKeyEvent) -> float:
    """How far an arrow key moves a value: a hundredth of the useful range; Shift ten times, Ctrl a tenth."""
    step = 1.0 if parameter.is_whole else (parameter.useful[1] - parameter.useful[0]) / 100
    if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
        step *= 10
    if event.modifiers() & Qt.KeyboardModifier.ControlModifier and not parameter.is_whole:
        step /= 10
    return step


class NumberField(QLineEdit):
    """A number as text; Enter or leaving it takes the value, Escape brings the old one back."""

    changed = Signal(float)
    refused = Signal(str)

    def __init__(self, parameter: Number) -> None:
        super().__init__()
        self.parameter = parameter
        self._value = float(parameter.default)
        self.setFixedWidth(74)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setAccessibleName(parameter.title)
        take_keys(self, *CTRL_ARROWS)
        self.returnPressed.connect(self._take)

    @property
    def value(self) -> float:
        """The number that was taken last."""
        return self._value

    def show_value(self, value: float) -> None:
        """Show a value without telling anyone."""
        self._value = value
        if not (self.hasFocus() and self.isModified()):
            self._show()

    def _show(self) -> None:
        unit = self.parameter.unit if self.parameter.unit in {"°", "×"} else ""
        self.setText(format_number(self._value) + unit)
        self.setModified(False)
        self._mark(False)

    def _mark(self, wrong: bool) -> None:
        restyle(self, "wrong", "true" if wrong else "")

    def _take(self) -> None:
        text = self.text().replace("°", "").replace("×", "")
        try:
            value = float(self.parameter.check(self._whole(calculate(text))))
        except ReedError as error:
            self._mark(True)
            self.refused.emit(str(error))
            return
        self.setModified(False)
        self._mark(False)
        if value != self._value:
            self._value = value
            self.changed.emit(value)
        self._show()
        self.selectAll()

    def _whole(self, value: float) -> float | int:
        return round(value) if self.parameter.is_whole and abs(value - round(value)) < 1e-9 else value

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.selectAll()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        if self.isModified():
            self._take()
            if self.property("wrong") == "true":
                self._show()
        super().focusOutEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Up, Qt.Key.Key_Down}:
            way = 1 if event.key() == Qt.Key.Key_Up else -1
            low, high = self.parameter.hard
            value = min(max(self._value + way * nudge_step(self.parameter, event), low), high)
            self._value = float(round(value)) if self.parameter.is_whole else round(value, 6)
            self._show()
            self.changed.emit(self._value)
        elif event.key() == Qt.Key.Key_Escape and self.isModified():
            self._show()
        else:
            super().keyPressEvent(event)
