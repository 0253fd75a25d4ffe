"""What the curve and the gradient editor share: knots that are chosen, dragged, added and removed."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QWidget

from reedloom.desk.look.arrows import ARROWS

Knot = tuple[float, ...]
MOST = 64


class KnotEditor(QWidget):
    """Keeps knots sorted by their first number; `changing` while dragged, `changed` at the end.

    An editor says where knots lie (`near`, `place_of`), what a new one looks like (`new_knot`), where
    one may go (`moved`) and what Enter or a double click does (`act`).
    """

    changing = Signal(object)
    changed = Signal(object)
    least = 2

    def __init__(self) -> None:
        super().__init__()
        self.knots: tuple[Knot, ...] = ()
        self.chosen = 0
        self._held = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_value(self, knots: tuple[Knot, ...]) -> None:
        """Show knots without telling anyone."""
        self.knots = tuple(knots)
        self.chosen = min(self.chosen, len(self.knots) - 1)
        self.update()

    # -- what an editor says --------------------------------------------------------------------------

    def near(self, point: QPointF) -> int | None:
        """The knot under a point of the widget."""
        return None

    def place_of(self, point: QPointF) -> tuple[float, float]:
        """What a point of the widget means."""
        return point.x(), point.y()

    def new_knot(self, x: float, y: float | None) -> Knot | None:
        """A knot for a place, at height `y` or on the line; None where none can be."""
        return None

    def moved(self, knot: Knot, x: float, y: float) -> Knot:
        """A knot at another place, held where it may go."""
        return knot

    def act(self, index: int) -> None:
        """What Enter or a double click on a knot does."""

    # -- changes --------------------------------------------------------------------------------------

    def _sort(self, knots: list[Knot], chosen: int) -> None:
        order = sorted(range(len(knots)), key=lambda i: knots[i][0])
        self.knots = tuple(knots[i] for i in order)
        self.chosen = order.index(chosen)
        self.update()

    def replace_knot(self, index: int, knot: Knot) -> None:
        """Put another knot in one's place, as one step."""
        self._sort([*self.knots[:index], knot, *self.knots[index + 1 :]], index)
        self.changed.emit(self.knots)

    def _add(self, x: float, y: float | None) -> None:
        knot = self.new_knot(x, y) if len(self.knots) < MOST else None
        if knot is not None:
            self._sort([*self.knots, knot], len(self.knots))
            self.changing.emit(self.knots)

    def _put(self, x: float, y: float) -> None:
        knots = list(self.knots)
        knots[self.chosen] = self.moved(knots[self.chosen], x, y)
        self._sort(knots, self.chosen)

    def _remove(self) -> None:
        if len(self.knots) > self.least:
            self.knots = (*self.knots[: self.chosen], *self.knots[self.chosen + 1 :])
            self.chosen = max(0, self.chosen - 1)
            self.update()
            self.changed.emit(self.knots)

    # -- hands ----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        found = self.near(event.position())
        if found is not None:
            self.chosen = found
        if event.button() == Qt.MouseButton.RightButton:
            if found is not None:
                self._remove()
            return
        if found is None:
            self._add(*self.place_of(event.position()))
        self._held = True
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._put(*self.place_of(event.position()))
            self.changing.emit(self.knots)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self._held = False
            self.changed.emit(self.knots)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._held = False
        found = self.near(event.position())
        if found is not None:
            self.act(found)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        size = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
        if key in ARROWS:
            knot = self.knots[self.chosen]
            self._put(knot[0] + ARROWS[key][0] * size, knot[1] - ARROWS[key][1] * size)
            self.changed.emit(self.knots)
        elif key in {Qt.Key.Key_PageUp, Qt.Key.Key_PageDown}:
            self.chosen = (self.chosen + (1 if key == Qt.Key.Key_PageUp else -1)) % len(self.knots)
            self.update()
        elif key == Qt.Key.Key_Delete:
            self._remove()
        elif key == Qt.Key.Key_Insert:
            following = self.knots[min(self.chosen + 1, len(self.knots) - 1)]
            self._add(round((self.knots[self.chosen][0] + following[0]) / 2, 4), None)
            self.changed.emit(self.knots)
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.act(self.chosen)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()
