"""The face of a card: its picture and histogram, and the marks over them; all that a new result changes."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from reedloom.desk.board.ground import FAR
from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.screen.workplace import Look
from reedloom.preview.encodings import BINS, Tones

PICTURE = 96.0
BAR = 9.0
GAP = 4.0
FINE = 4 * int(BAR)
"""Pixels across the picture of a histogram."""


class CardState(Struct):
    """All that a card shows, besides its node."""

    look: Look | None = None
    failure: str = ""
    seconds: float | None = None
    notes: tuple[str, ...] = ()
    pins: str = ""
    selected: bool = False
    rows: int = 0
    """Rows of the kind's list that have something tied."""


class Face(QGraphicsItem):
    """Lies on a card, and is painted by itself: a dragged value changes many faces and no frame."""

    def __init__(self, card: QGraphicsItem, place: QPointF) -> None:
        super().__init__(card)
        self.state, self.muted, self.show_cost = CardState(), False, False
        self.setPos(place)
        self.setCacheMode(QGraphicsItem.CacheMode.DeviceCoordinateCache)

    def boundingRect(self) -> QRectF:
        return QRectF(0, 0, PICTURE + GAP + BAR, PICTURE)

    def shape(self) -> QPainterPath:
        return QPainterPath()  # what is under the pointer is the card

    def show_state(self, state: CardState, muted: bool, show_cost: bool) -> None:
        """Show another state of the node, if it differs in what is seen here."""
        before = self._seen
        self.state, self.muted, self.show_cost = state, muted, show_cost
        if self._seen != before:
            self.update()

    @property
    def _seen(self) -> tuple[object, ...]:
        state = self.state
        cost = state.seconds if self.show_cost else None
        return state.look, state.failure, bool(state.notes), state.pins, self.muted, cost

    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        near = option.levelOfDetailFromTransform(painter.worldTransform()) >= FAR
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, near)
        box = QRectF(0, 0, PICTURE, PICTURE)
        self._paint_picture(painter, box, near)
        if near:
            self._paint_range(painter, QRectF(box.right() + GAP, 0, BAR, PICTURE))
        self._paint_marks(painter, box)

    def _paint_picture(self, painter: QPainter, box: QRectF, near: bool) -> None:
        t = theme()
        painter.fillRect(box, t.colour("slot"))
        if self.state.failure:
            painter.setPen(t.colour("warning"))
            painter.setFont(small_font())
            painter.drawText(
                box.adjusted(5, 4, -5, -4),
                int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignCenter),
                self.state.failure,
            )
        elif self.state.look is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, near)
            paint_fitting(painter, box, self.state.look.image if near else self.state.look.tiny)
        if self.muted:
            veil = QColor(t.slot)
            veil.setAlpha(150)
            painter.fillRect(box, veil)
            painter.setPen(QPen(t.colour("warning"), 3))
            painter.drawLine(box.bottomLeft() + QPointF(6, -6), box.topRight() + QPointF(-6, 6))

    def _paint_range(self, painter: QPainter, bar: QRectF) -> None:
        """The histogram standing up from 0 to 1, with ticks where values go beyond."""
        t = theme()
        painter.fillRect(bar, t.colour("slot"))
        if self.state.look is not None and not self.state.failure:
            paint_range_bar(painter, bar, self.state.look.tones)

    def _paint_marks(self, painter: QPainter, box: QRectF) -> None:
        """Pins, cost and notes, over the picture's corners."""
        t = theme()
        painter.setFont(small_font(bold=True))
        for number, pin in enumerate(self.state.pins):
            tag = QRectF(box.left() + 3 + 20 * number, box.top() + 3, 17, 17)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.colour("accent"))
            painter.drawRoundedRect(tag, 4, 4)
            painter.setPen(t.colour("on_accent"))
            painter.drawText(tag, int(Qt.AlignmentFlag.AlignCenter), pin)
        if self.show_cost and self.state.seconds is not None:
            self._paint_tag(painter, box, f"{self.state.seconds * 1000:.1f} ms", top=True)
        if self.state.notes:
            self._paint_tag(painter, box, "note", top=False)

    def _paint_tag(self, painter: QPainter, box: QRectF, text: str, top: bool) -> None:
        t = theme()
        painter.setFont(small_font())
        width = QFontMetricsF(small_font()).horizontalAdvance(text) + 8
        tag = QRectF(box.right() - width - 2, box.top() + 3 if top else box.bottom() - 19, width, 16)
        ground = QColor(t.slot)
        ground.setAlpha(215)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ground)
        painter.drawRoundedRect(tag, 3, 3)
        painter.setPen(t.colour("text"))
        painter.drawText(tag, int(Qt.AlignmentFlag.AlignCenter), text)


def paint_range_bar(painter: QPainter, bar: QRectF, tones: Tones) -> None:
    """A standing histogram between 0 (bottom) and 1, with warning ticks for values beyond."""
    t = theme()
    painter.drawImage(bar, _standing(tones, t.colour("dim").rgba()))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t.colour("warning"))
    if tones.above > 0:
        painter.drawRect(QRectF(bar.left(), bar.top(), bar.width(), 3))
    if tones.below > 0:
        painter.drawRect(QRectF(bar.left(), bar.bottom() - 3, bar.width(), 3))


@lru_cache(maxsize=1024)
def _standing(tones: Tones, colour: int) -> QImage:
    """The histogram standing up, a row for each of its steps; to be drawn smaller across than it is."""
    lengths = np.sqrt(tones.counts / max(1e-9, tones.counts.max()))
    filled = (np.arange(FINE) + 0.5) / FINE < lengths[::-1, None]
    pixels = np.where(filled, np.uint32(colour), np.uint32(0))
    return QImage(pixels.data, FINE, BINS, 4 * FINE, QImage.Format.Format_ARGB32).copy()
