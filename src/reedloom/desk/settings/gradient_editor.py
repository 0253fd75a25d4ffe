"""Draws and edits a colour gradient: stops under a bar, in the colours the eye sees."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QColorDialog, QSizePolicy, QWidget

from reedloom.desk.look.theme import theme
from reedloom.desk.look.words import set_tip
from reedloom.desk.screen.workplace import to_image
from reedloom.desk.settings.knots import Knot, KnotEditor
from reedloom.kernels.curves import gradient_table, read_table
from reedloom.preview.encodings import colour_from_bytes, encode, hex_colour

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


class GradientEditor(KnotEditor):
    """Edits stops (place, red, green, blue) in linear light."""

    least = 1

    def __init__(self) -> None:
        super().__init__()
        self.knots = ((0.0, 0.0, 0.0, 0.0), (1.0, 1.0, 1.0, 1.0))
        self.blending, self.mixing = "linear", "OKLab"
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Gradient")
        set_tip(self, HELP)

    def sizeHint(self) -> QSize:
        return QSize(260, 58)

    def show_mixing(self, blending: str, mixing: str) -> None:
        """Show how colours pass into one another."""
        self.blending, self.mixing = blending, mixing
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
        table = encode(gradient_table(self.knots, self.blending, self.mixing), True)[::8]
        painter.drawImage(bar, to_image(table[None]))
        painter.setPen(QPen(t.colour("accent" if self.hasFocus() else "line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(bar)
        for i, stop in enumerate(self.knots):
            x, top = self._x(stop[0]), bar.bottom() + 1
            shape = QPolygonF([QPointF(x, top), QPointF(x + 6, top + 6), QPointF(x + 6, top + 17),
                               QPointF(x - 6, top + 17), QPointF(x - 6, top + 6)])  # fmt: skip
            painter.setPen(
                QPen(t.colour("accent" if i == self.chosen else "dim"), 2 if i == self.chosen else 1)
            )
            painter.setBrush(QColor(hex_colour(stop[1:])))
            painter.drawPolygon(shape)

    def near(self, point: QPointF) -> int | None:
        return next((i for i, s in enumerate(self.knots) if abs(self._x(s[0]) - point.x()) < 8), None)

    def place_of(self, point: QPointF) -> tuple[float, float]:
        return self._place(point.x()), 0.0

    def new_knot(self, x: float, y: float | None) -> Knot | None:
        table = gradient_table(self.knots, self.blending, self.mixing)
        return (x, *(round(float(c), 6) for c in read_table(table, np.array([x], np.float32))[0]))

    def moved(self, knot: Knot, x: float, y: float) -> Knot:
        return (round(min(max(x, 0.0), 1.0), 4), *knot[1:])

    def act(self, index: int) -> None:
        colour = ask_colour(self, self.knots[index][1:], "Colour of the stop")
        if colour is not None:
            self.replace_knot(index, (self.knots[index][0], *colour))
