"""A picture with a name below it, to be chosen with the mouse or the keyboard."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFontMetricsF,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QWidget

from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.keys import take_keys
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import set_tip, shown

BELOW = 36
"""Pixels for the name and a second line."""


class PictureTile(QWidget):
    """Shows a picture and up to two lines below; the chosen one is framed."""

    taken = Signal()
    opened = Signal()
    """Enter, or a double click."""
    menu_asked = Signal(QPoint)
    moved = Signal(QPoint)
    """It was dragged and let go at a place on the screen."""

    def __init__(self, side: int, name: str, below: str = "") -> None:
        super().__init__()
        self.side, self.name, self.below = side, name, below
        self.image: QImage | None = None
        self.trouble = ""
        self.chosen = False
        self._pressed: QPoint | None = None
        self.setFixedSize(QSize(side + 8, side + BELOW + 6))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        take_keys(self, "F2")
        set_tip(self, name if not below else f"{name}\n{below}")

    def show_image(self, image: QImage | None, trouble: str = "") -> None:
        """Show a picture, or why there is none."""
        self.image, self.trouble = image, trouble
        if trouble:
            set_tip(self, f"{self.name}: {trouble}")
        self.update()

    def set_chosen(self, chosen: bool, below: str | None = None) -> None:
        """Show whether it is the one in use, and another second line."""
        self.chosen = chosen
        self.below = self.below if below is None else below
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        t, painter = theme(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(4, 4, self.side, self.side)
        painter.fillRect(box, t.colour("slot"))
        if self.image is not None:
            paint_fitting(painter, box, self.image)
        elif self.trouble:
            painter.setFont(small_font())
            painter.setPen(t.colour("warning"))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(box.adjusted(4, 4, -4, -4), int(flags), shown(self.trouble))
        if self.chosen or self.hasFocus():
            painter.setPen(QPen(t.colour("accent" if self.chosen else "dim"), 2.0))
            painter.drawRoundedRect(box.adjusted(-2.5, -2.5, 2.5, 2.5), 4, 4)
        if self.chosen and self.hasFocus():
            painter.setPen(QPen(t.colour("text"), 1.0, Qt.PenStyle.DotLine))
            painter.drawRect(box.adjusted(1, 1, -1, -1))
        self._paint_line(painter, self.name, box.bottom() + 3, "text", self.chosen)
        self._paint_line(painter, self.below, box.bottom() + 18, "dim", False)

    def _paint_line(self, painter: QPainter, text: str, top: float, colour: str, bold: bool) -> None:
        font = small_font(bold, 12)
        painter.setFont(font)
        painter.setPen(theme().colour(colour))
        room = QRectF(2, top, self.width() - 4, 16)
        cut = QFontMetricsF(font).elidedText(shown(text), Qt.TextElideMode.ElideRight, room.width())
        painter.drawText(room, int(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter), cut)

    # -- hands ----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.globalPosition().toPoint()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        at = event.globalPosition().toPoint()
        if pressed is None:
            return
        if (at - pressed).manhattanLength() > self.side // 3:
            self.moved.emit(at)
        else:
            self.setFocus()
            self.taken.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.opened.emit()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_asked.emit(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Space:
            self.taken.emit()
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.opened.emit()
        elif key == Qt.Key.Key_Menu:
            self.menu_asked.emit(self.mapToGlobal(self.rect().center()))
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: object) -> None:
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self.update()
