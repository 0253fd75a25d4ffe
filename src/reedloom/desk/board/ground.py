"""What lies under the cards: strands, bays and notes."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPainterPathStroker, QPen
from PySide6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from reedloom.desk.board.strands import Course, paint_splice, paint_strand, strand_lines
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import shown
from reedloom.kit.data import GREY, Data
from reedloom.weave.document import Bay, Note, Thread

FAR = 0.45
"""Below this zoom only outlines are drawn."""
TINTS = ("#8f7f5e", "#5e7f8f", "#6f8a5e", "#8f5e6b", "#7a6a9a", "#8a8a8a")
BAY_TITLE = 26.0
FAR_TITLE = 0.6
"""Below this zoom a bay's name is drawn above it."""
ABOVE = 54.0
GRIP = 14.0
"""Side of the corner by which bays and notes are resized."""


class Strand(QGraphicsItem):
    """A thread between two cards."""

    def __init__(self, thread: Thread) -> None:
        super().__init__()
        self.thread = thread
        self.lit = False
        self.course = Course(QPointF(), QPointF())
        self.path = QPainterPath()
        self._data = GREY
        self._lines: list[QPainterPath] | None = None
        self._splice = False
        self._key: tuple[object, ...] = ()
        self.setZValue(1)

    def lay(self, start: QPointF, end: QPointF, data: Data, splice: bool) -> None:
        """Set where the thread runs and what it carries."""
        key = (start.x(), start.y(), end.x(), end.y(), data, splice)
        if key == self._key:
            return
        self._key = key
        self.prepareGeometryChange()
        self.course = Course(start, end)
        self.path = self.course.path()
        self._data, self._splice = data, splice
        self._lines = None  # laid out when first painted near
        self.update()

    def boundingRect(self) -> QRectF:
        return self.path.boundingRect().adjusted(-10, -10, 10, 10)

    def shape(self) -> QPainterPath:
        stroker = QPainterPathStroker()
        stroker.setWidth(14)
        return stroker.createStroke(self.path)

    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        near = option.levelOfDetailFromTransform(painter.worldTransform()) >= FAR
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, near)
        colour = theme().colour("accent" if self.lit else "strand")
        if not near:
            if self.lit:  # the others are drawn by the board, all in one stroke
                paint_strand(painter, [self.path], colour, 0)
            return
        if self._lines is None:
            self._lines = strand_lines(self.course, self._data)
        paint_strand(painter, self._lines, colour, 2.2 if self.lit else 1.6)
        if self._splice:
            paint_splice(painter, self.course.middle(), colour, theme().colour("ground"))


class BayItem(QGraphicsItem):
    """A named, tinted region that moves with what lies in it."""

    def __init__(self, bay: Bay) -> None:
        super().__init__()
        self.bay = bay
        self.selected = False
        self.setZValue(0)
        self.take(bay, False)

    def take(self, bay: Bay, selected: bool) -> None:
        """Show another state of the bay."""
        self.prepareGeometryChange()
        self.bay, self.selected = bay, selected
        self.setPos(bay.x, bay.y)
        self.update()

    def boundingRect(self) -> QRectF:
        return QRectF(-2, -ABOVE, self.bay.width + 4, self.bay.height + ABOVE + 2)

    def handle(self) -> QRectF:
        """The title strip, by which the bay is taken hold of."""
        return QRectF(0, 0, self.bay.width, BAY_TITLE)

    def shape(self) -> QPainterPath:
        path = QPainterPath()
        path.addRect(self.handle())
        path.addRect(QRectF(self.bay.width - GRIP, self.bay.height - GRIP, GRIP, GRIP))
        return path

    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        tint = QColor(TINTS[self.bay.tint % len(TINTS)])
        ground = QColor(tint)
        ground.setAlpha(34)
        edge = theme().colour("selection") if self.selected else tint
        painter.setPen(QPen(edge, 2.0 if self.selected else 1.0))
        painter.setBrush(ground)
        box = QRectF(0, 0, self.bay.width, self.bay.height)
        painter.drawRoundedRect(box, 8, 8)
        self._paint_title(painter, option.levelOfDetailFromTransform(painter.worldTransform()))
        _paint_grip(painter, box)

    def _paint_title(self, painter: QPainter, zoom: float) -> None:
        """The name within the strip; from afar larger and above it, so that it can still be read."""
        far = zoom < FAR_TITLE
        font = small_font(bold=True, pixels=round(min(12 / zoom, ABOVE - 14)) if far else 13)
        line = (
            QRectF(2, -ABOVE, self.bay.width - 4, ABOVE - 4) if far else self.handle().adjusted(10, 0, -10, 0)
        )
        painter.setFont(font)
        painter.setPen(theme().colour("text"))
        title = QFontMetricsF(font).elidedText(
            shown(self.bay.title) or "Bay", Qt.TextElideMode.ElideRight, line.width()
        )
        upright = Qt.AlignmentFlag.AlignBottom if far else Qt.AlignmentFlag.AlignVCenter
        painter.drawText(line, int(upright | Qt.AlignmentFlag.AlignLeft), title)


class NoteItem(QGraphicsItem):
    """A text on the board."""

    def __init__(self, note: Note) -> None:
        super().__init__()
        self.note = note
        self.selected = False
        self.setZValue(0.5)
        self.take(note, False)

    def take(self, note: Note, selected: bool) -> None:
        """Show another state of the note."""
        self.prepareGeometryChange()
        self.note, self.selected = note, selected
        self.setPos(note.x, note.y)
        self.update()

    def boundingRect(self) -> QRectF:
        return QRectF(-2, -2, self.note.width + 4, self.note.height + 4)

    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t = theme()
        box = QRectF(0, 0, self.note.width, self.note.height)
        painter.setPen(QPen(t.colour("selection"), 2) if self.selected else Qt.PenStyle.NoPen)
        ground = QColor(t.panel)
        ground.setAlpha(200)
        painter.setBrush(ground)
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QPen(t.colour("accent"), 2))
        painter.drawLine(box.topLeft() + QPointF(1, 4), box.bottomLeft() + QPointF(1, -4))
        painter.setFont(small_font(pixels=12))
        painter.setPen(t.colour("text"))
        painter.drawText(
            box.adjusted(10, 6, -8, -6), int(Qt.TextFlag.TextWordWrap), shown(self.note.text) or "Write here"
        )
        _paint_grip(painter, box)


def _paint_grip(painter: QPainter, box: QRectF) -> None:
    painter.setPen(QPen(theme().colour("dim"), 1))
    for d in (4.0, 8.0):
        painter.drawLine(box.bottomRight() - QPointF(d, 2), box.bottomRight() - QPointF(2, d))
