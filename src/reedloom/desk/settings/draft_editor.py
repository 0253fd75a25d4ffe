"""Edits a binding draft: squares to fill by click, drag or keyboard, and how many there are."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from reedloom.desk.look.arrows import ARROWS
from reedloom.desk.look.keys import CTRL_ARROWS, take_keys
from reedloom.desk.look.theme import theme
from reedloom.desk.look.words import Words, set_tip
from reedloom.kit.parameters import DRAFT_LIMIT

Rows = tuple[str, ...]
HELP = (
    "Click or drag to fill squares: filled is warp above weft. "
    "With the keyboard: arrows move, Space fills, Ctrl with arrows changes how many there are."
)
SIDE = 168


class DraftGrid(QWidget):
    """The squares of a draft."""

    changing = Signal(object)
    changed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.rows: Rows = ("#.", ".#")
        self.at = (0, 0)
        self._filling: str | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Binding draft")
        take_keys(self, *CTRL_ARROWS)
        set_tip(self, HELP)

    def sizeHint(self) -> QSize:
        return QSize(SIDE, SIDE)

    def show_value(self, rows: Rows) -> None:
        """Show a draft without telling anyone."""
        self.rows = rows
        self.at = (min(self.at[0], len(rows[0]) - 1), min(self.at[1], len(rows) - 1))
        self.update()

    def resized(self, columns: int, rows: int) -> Rows:
        """The draft with so many columns and rows; new ones carry its repeat on."""
        columns, rows = (min(max(n, 1), DRAFT_LIMIT) for n in (columns, rows))
        old = self.rows
        return tuple("".join(old[y % len(old)][x % len(old[0])] for x in range(columns)) for y in range(rows))

    def resize_by(self, columns: int, rows: int) -> None:
        """Add or take columns and rows."""
        self._take(self.resized(len(self.rows[0]) + columns, len(self.rows) + rows))

    def _side(self) -> float:
        return min(self.width() / len(self.rows[0]), self.height() / len(self.rows)) - 0.1

    def square(self, x: int, y: int) -> QRectF:
        """Where a square is drawn."""
        side = self._side()
        return QRectF(x * side, y * side, side, side)

    def _square_at(self, point: QPointF) -> tuple[int, int] | None:
        x, y = int(point.x() // self._side()), int(point.y() // self._side())
        return (x, y) if 0 <= x < len(self.rows[0]) and 0 <= y < len(self.rows) else None

    def _filled(self, x: int, y: int, mark: str) -> Rows:
        row = self.rows[y]
        return (*self.rows[:y], row[:x] + mark + row[x + 1 :], *self.rows[y + 1 :])

    def _take(self, rows: Rows) -> None:
        self.show_value(rows)
        self.changed.emit(rows)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._square_at(event.position())
        if event.button() == Qt.MouseButton.LeftButton and found:
            self.at = found
            self._filling = "." if self.rows[found[1]][found[0]] == "#" else "#"
            self._paint_square(found)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        found = self._square_at(event.position())
        if self._filling and found:
            self._paint_square(found)

    def _paint_square(self, at: tuple[int, int]) -> None:
        assert self._filling is not None
        self.at = at
        self.show_value(self._filled(*at, self._filling))
        self.changing.emit(self.rows)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._filling:
            self._filling = None
            self.changed.emit(self.rows)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = ARROWS.get(event.key())
        x, y = self.at
        if step and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.resize_by(*step)
        elif step:
            self.at = ((x + step[0]) % len(self.rows[0]), (y + step[1]) % len(self.rows))
            self.update()
        elif event.key() == Qt.Key.Key_Space:
            self._take(self._filled(x, y, "." if self.rows[y][x] == "#" else "#"))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        for y, row in enumerate(self.rows):
            for x, mark in enumerate(row):
                painter.fillRect(self.square(x, y), t.colour("text" if mark == "#" else "slot"))
                painter.setPen(QPen(t.colour("line"), 1))
                painter.drawRect(self.square(x, y))
        if self.hasFocus():
            painter.setPen(QPen(t.colour("accent"), 2))
            painter.drawRect(self.square(*self.at).adjusted(1, 1, -1, -1))


class DraftEditor(QWidget):
    """The squares, with buttons for more and fewer."""

    def __init__(self) -> None:
        super().__init__()
        self.grid = DraftGrid()
        self.note = Words("Used when the binding is “Own draft”.")
        self.note.setProperty("role", "quiet")
        self.note.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.note)
        column.addWidget(self.grid)
        line = QHBoxLayout()
        line.setSpacing(4)
        self.counts: dict[str, Words] = {}
        for name, step in (("columns", (1, 0)), ("rows", (0, 1))):
            self.counts[name] = Words()
            line.addWidget(self.counts[name])
            for sign, word in ((-1, "Fewer"), (1, "More")):
                line.addWidget(self._step_button(f"{word} {name}", sign, step))
            line.addSpacing(10)
        line.addStretch()
        column.addLayout(line)
        self.setFocusProxy(self.grid)

    def _step_button(self, tip: str, sign: int, step: tuple[int, int]) -> QToolButton:
        button = QToolButton()
        button.setText("−" if sign < 0 else "+")
        set_tip(button, tip)
        button.setAccessibleName(tip)
        button.clicked.connect(lambda: self.grid.resize_by(sign * step[0], sign * step[1]))
        return button

    def show_value(self, rows: Rows) -> None:
        """Show a draft without telling anyone."""
        self.grid.show_value(rows)
        self.counts["columns"].setText(f"{len(rows[0])} across")
        self.counts["rows"].setText(f"{len(rows)} down")
