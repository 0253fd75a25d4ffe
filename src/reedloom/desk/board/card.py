"""A card: a node as drawn on the board, its picture first (`face.py`), its name under it."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from reedloom.desk.board.face import BAR, GAP, PICTURE, CardState, Face
from reedloom.desk.board.ground import FAR
from reedloom.desk.board.strands import paint_stub
from reedloom.desk.look.swatch import swatch_pixmap
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import shown
from reedloom.kit.data import GREY, Data, SameAs
from reedloom.kit.kind import Kind
from reedloom.kit.ports import Port
from reedloom.weave.document import Node
from reedloom.weave.motifs import used_motif

MARGIN = 8.0
WIDTH = MARGIN + PICTURE + GAP + BAR + MARGIN
HEIGHT = MARGIN + 4 + PICTURE + 26
NOTCH = QSizeF(14, 10)
"""A notch's size, where a card has room for all of its own side by side."""


class Card(QGraphicsItem):
    """Draws a node; it holds no state of the document but the node it shows and its kind."""

    def __init__(self, node: Node, kind: Kind) -> None:
        super().__init__()
        self.node, self.kind = node, kind
        self.state = CardState()
        self.face = Face(self, QPointF(MARGIN, MARGIN + 4))
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
        before = self._frame
        self.node, self.kind, self.state, self.show_cost = node, kind, state, show_cost
        self.setPos(node.x, node.y)
        if self._frame != before:
            self.update()
        self.face.show_state(state, node.muted, show_cost)

    @property
    def _frame(self) -> tuple[object, ...]:
        """What is seen of a card beside its face."""
        return self.kind, self.node.name, self.node.muted, self.state.selected, self.state.rows

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
        if near and used_motif(self.node.kind):
            painter.drawRoundedRect(self.body().translated(4, -4), 6, 6)  # a second edge behind it
        if near:
            painter.drawRoundedRect(self.body(), 6, 6)
        else:
            painter.drawRect(self.body())
        if near:
            self._paint_name(painter)
            self._paint_ports(painter)

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


def _stub(data: Data) -> Data:
    """A port that takes several kinds is drawn as the simplest of them."""
    return GREY if GREY in data else data
