"""A card: a node as drawn on the board, its picture first, its name under it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from reedloom.desk.board.ground import FAR
from reedloom.desk.board.strands import paint_stub
from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.swatch import swatch_pixmap
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import shown
from reedloom.desk.screen.workplace import Look
from reedloom.kit.data import GREY, Data, SameAs
from reedloom.kit.kind import Kind
from reedloom.kit.ports import Port
from reedloom.preview.encodings import BINS, Tones
from reedloom.weave.document import Node
from reedloom.weave.motifs import used_motif

PICTURE = 96.0
MARGIN = 8.0
BAR = 9.0
WIDTH = MARGIN + PICTURE + 4 + BAR + MARGIN
HEIGHT = MARGIN + 4 + PICTURE + 26
NOTCH = QSizeF(14, 10)
"""A notch's size, where a card has room for all of its own side by side."""


@dataclass
class CardState:
    """All that a card shows, besides its node."""

    look: Look | None = None
    failure: str = ""
    seconds: float | None = None
    notes: tuple[str, ...] = ()
    pins: str = ""
    selected: bool = False
    rows: int = 0
    """Rows of the kind's list that have something tied."""


class Card(QGraphicsItem):
    """Draws a node; it holds no state of the document but the node it shows and its kind."""

    def __init__(self, node: Node, kind: Kind) -> None:
        super().__init__()
        self.node, self.kind = node, kind
        self.state = CardState()
        self.hovered_port: tuple[bool, str] | None = None
        self.show_cost = False
        self.setPos(node.x, node.y)
        self.setZValue(2)
        # While the board is panned, a card is the same picture in another place.
        self.setCacheMode(QGraphicsItem.CacheMode.DeviceCoordinateCache)

    def boundingRect(self) -> QRectF:
        return QRectF(-60, -30, WIDTH + 120, HEIGHT + 60)

    def shape(self) -> QPainterPath:
        path = QPainterPath()
        path.addRect(self.body())
        return path

    def body(self) -> QRectF:
        """The card without its notches."""
        return QRectF(0, 0, WIDTH, HEIGHT)

    def take(self, node: Node, kind: Kind, state: CardState, show_cost: bool) -> None:
        """Show another state of the node."""
        self.node, self.kind, self.state, self.show_cost = node, kind, state, show_cost
        self.setPos(node.x, node.y)
        self.update()

    def show_selected(self, selected: bool) -> None:
        """Show whether the node is selected."""
        if selected != self.state.selected:
            self.state = replace(self.state, selected=selected)
            self.update()

    # -- ports ----------------------------------------------------------------------------------------

    def ports(self, is_output: bool) -> tuple[Port, ...]:
        """The ports that have a notch: of a list, such as layers, the rows in use and one more."""
        if is_output:
            return self.kind.outputs
        return tuple(p for p in self.kind.inputs if p.series <= self.state.rows + 1)

    def port_place(self, is_output: bool, name: str) -> QPointF:
        """The middle of a port's notch, in the card's coordinates."""
        ports = self.ports(is_output)
        index = next((i for i, p in enumerate(ports) if p.name == name), len(ports) - 1)
        return QPointF(WIDTH * (index + 1) / (len(ports) + 1), HEIGHT if is_output else 0.0)

    def port_at(self, point: QPointF, reach: float = 9.0) -> tuple[bool, str] | None:
        """The port nearest a point in the card's coordinates, within reach, as (is output, name)."""
        found: dict[tuple[bool, str], float] = {}
        for is_output in (True, False):
            for port in self.ports(is_output):
                away = point - self.port_place(is_output, port.name)
                if abs(away.x()) <= reach and abs(away.y()) <= reach + 3:
                    found[is_output, port.name] = abs(away.x()) + abs(away.y())
        return min(found, key=lambda port: found[port]) if found else None

    # -- painting -------------------------------------------------------------------------------------

    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        t = theme()
        near = option.levelOfDetailFromTransform(painter.worldTransform()) >= FAR
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, near)
        edge = t.colour("selection") if self.state.selected else t.colour("line")
        painter.setPen(QPen(edge, 2.2 if self.state.selected else 1.0))
        painter.setBrush(t.colour("raised"))
        box = QRectF(MARGIN, MARGIN + 4, PICTURE, PICTURE)
        if near and used_motif(self.node.kind):
            painter.drawRoundedRect(self.body().translated(4, -4), 6, 6)  # a second edge behind it
        if near:
            painter.drawRoundedRect(self.body(), 6, 6)
        else:
            painter.drawRect(self.body())
        self._paint_picture(painter, box, near)
        if near:
            bar = QRectF(box.right() + 4, box.top(), BAR, PICTURE)
            self._paint_range(painter, bar)
            self._paint_name(painter)
            self._paint_ports(painter)
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
        if self.node.muted:
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

    def _paint_name(self, painter: QPainter) -> None:
        t = theme()
        line = QRectF(MARGIN, HEIGHT - 23, WIDTH - 2 * MARGIN, 16)
        swatch = QRectF(line.left(), line.top() + 1, 14, 14)
        pixmap = swatch_pixmap(self.kind.family, 14)
        painter.drawPixmap(swatch, pixmap, QRectF(pixmap.rect()))
        font = small_font(pixels=12)
        painter.setFont(font)
        painter.setPen(t.colour("dim") if self.node.muted else t.colour("text"))
        room = line.adjusted(19, 0, 0, 0)
        name = QFontMetricsF(font).elidedText(
            shown(self.node.name or self.kind.label), Qt.TextElideMode.ElideRight, room.width()
        )
        painter.drawText(room, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft), name)

    def _paint_ports(self, painter: QPainter) -> None:
        t = theme()
        for is_output in (False, True):
            ports = self.ports(is_output)
            wide = min(NOTCH.width(), WIDTH / (len(ports) + 1) - 1.5)
            notch = QRectF(-wide / 2, -NOTCH.height() / 2, wide, NOTCH.height())
            for port in ports:
                at = self.port_place(is_output, port.name)
                hovered = self.hovered_port == (is_output, port.name)
                data = GREY if isinstance(port.data, SameAs) else port.data
                painter.setPen(QPen(t.colour("accent" if hovered else "line"), 1.2))
                painter.setBrush(t.colour("ground"))
                painter.drawRoundedRect(notch.translated(at), 3, 3)
                optional = not is_output and port.optional
                paint_stub(painter, at, _stub(data), t.colour("line" if optional else "strand"))
                if hovered:
                    self._paint_port_name(painter, at, is_output, port.label)

    def _paint_port_name(self, painter: QPainter, at: QPointF, is_output: bool, label: str) -> None:
        t = theme()
        font = small_font()
        painter.setFont(font)
        width = QFontMetricsF(font).horizontalAdvance(label) + 10
        box = QRectF(at.x() - width / 2, at.y() + (8 if is_output else -25), width, 17)
        painter.setPen(QPen(t.colour("line"), 1))
        painter.setBrush(t.colour("raised"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(t.colour("text"))
        painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), label)

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


def _stub(data: Data) -> Data:
    """A port that takes several kinds is drawn as the simplest of them."""
    return GREY if GREY in data else data


def paint_range_bar(painter: QPainter, bar: QRectF, tones: Tones) -> None:
    """A standing histogram between 0 (bottom) and 1, with warning ticks for values beyond."""
    t = theme()
    painter.save()
    painter.translate(bar.bottomLeft())
    painter.scale(bar.width(), bar.height())
    painter.fillPath(_outline(tones), t.colour("dim"))
    painter.restore()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t.colour("warning"))
    if tones.above > 0:
        painter.drawRect(QRectF(bar.left(), bar.top(), bar.width(), 3))
    if tones.below > 0:
        painter.drawRect(QRectF(bar.left(), bar.bottom() - 3, bar.width(), 3))


@lru_cache(maxsize=1024)
def _outline(tones: Tones) -> QPainterPath:
    """The histogram standing up from (0, 0) within a square of 1."""
    peak = max(1e-9, float(tones.counts.max()))
    path = QPainterPath()
    for i, count in enumerate(tones.counts.tolist()):
        x = (count / peak) ** 0.5
        path.lineTo(x, -i / BINS)
        path.lineTo(x, -(i + 1) / BINS)
    path.lineTo(0, -1)
    path.closeSubpath()
    return path
