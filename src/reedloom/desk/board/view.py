"""The board on screen: zoom, pan, keys, and which gesture a press begins."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QMimeData, QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPixmapCache,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QGraphicsView, QMenu, QWidget

from reedloom.desk.board.card import HEIGHT, WIDTH, Card
from reedloom.desk.board.ground import FAR, GRIP, BayItem, NoteItem, Strand
from reedloom.desk.board.hands import Band, Gesture, Move, Pan, Pull, Resize
from reedloom.desk.board.scene import BoardScene
from reedloom.desk.board.strands import Course, paint_strand, strand_lines
from reedloom.desk.look.arrows import ARROWS
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.screen.workplace import PEEK, Workplace
from reedloom.kit.data import GREY
from reedloom.weave.document import End
from reedloom.weave.edits import Disconnect
from reedloom.weave.motifs import used_motif

ZOOMS = (0.1, 3.0)
READABLE = 0.6
CACHE = 128 * 1024
"""Kilobytes in which pictures of cards are kept."""
EMPTY_LINES = (
    "Begin to type, and choose what to hang first:",
    "“gradient noise”, “cellular noise”, “disc” ...",
    "or open a family in the creel on the left.",
    "Finished surfaces to look into: File, Demo weaves.",
)


class BoardView(QGraphicsView):
    """The board. It turns hands into edits; what edits do is not its business."""

    typed = Signal(str)
    """A letter was typed that begins a search."""
    offer_fitting = Signal(object, bool, QPoint)
    """A thread from this end was let go on empty ground."""
    rail_hovered = Signal(QPoint)
    edit_text = Signal(str)
    """A bay or note wants its text edited."""
    pin_asked = Signal(str)
    go_asked = Signal(str)
    """A use of a motif is to be gone into."""
    menu_asked = Signal(QPoint)
    swatch_dropped = Signal(object, QPointF)
    """A file of the swatch book was let go at a place of the board."""

    def __init__(self, workplace: Workplace) -> None:
        self.board = BoardScene(workplace)
        super().__init__(self.board)
        self.workplace = workplace
        self.gesture: Gesture | None = None
        self.channel_under: Callable[[QPoint], str | None] = lambda _: None
        self.slot_place: Callable[[str], QPoint | None] = lambda _: None
        self._hovered: Card | None = None
        self._space = False
        self.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.setViewportUpdateMode(QGraphicsView.ViewportUpdateMode.FullViewportUpdate)
        self.setTransformationAnchor(QGraphicsView.ViewportAnchor.NoAnchor)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QGraphicsView.Shape.NoFrame)
        self.setSceneRect(QRectF(-50000, -50000, 100000, 100000))
        self.setMouseTracking(True)
        QPixmapCache.setCacheLimit(CACHE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Board")
        workplace.document_replaced.connect(self.show_opened)

    # -- where things are -----------------------------------------------------------------------------

    def card_under(self, at: QPoint) -> Card | None:
        """The topmost card under a point of the view."""
        point = self.mapToScene(at)
        for card in reversed(list(self.board.cards.values())):
            if card.body().adjusted(0, -6, 0, 6).contains(point - card.pos()):
                return card
        return None

    def port_under(self, at: QPoint) -> tuple[End, bool] | None:
        """The port near a point of the view, and whether it is an output."""
        point = self.mapToScene(at)
        reach = max(9.0, 9.0 / self.transform().m11())
        for card in reversed(list(self.board.cards.values())):
            found = card.port_at(point - card.pos(), reach)
            if found is not None:
                return End(node=card.node.id, port=found[1]), found[0]
        return None

    def strand_near(self, point: QPointF, reach: float = 8.0) -> Strand | None:
        """A strand that passes near a point of the scene."""
        box = QRectF(point.x() - reach, point.y() - reach, 2 * reach, 2 * reach)
        for strand in self.board.strands.values():
            if strand.boundingRect().intersects(box) and strand.shape().intersects(box):
                return strand
        return None

    def ground_item_under(self, at: QPoint) -> BayItem | NoteItem | None:
        """A note, or a bay by its title or corner, under a point of the view."""
        point = self.mapToScene(at)
        items: list[BayItem | NoteItem] = [*self.board.notes.values(), *self.board.bays.values()]
        for item in items:
            if item.shape().contains(point - item.pos()):
                return item
        return None

    def pointer_place(self) -> QPointF:
        """Where the pointer is on the board; the view's middle if it is elsewhere."""
        at = self.viewport().mapFromGlobal(self.cursor().pos())
        inside = self.viewport().rect().contains(at)
        return self.mapToScene(at if inside else self.viewport().rect().center())

    def free_place(self, wanted: QPointF) -> QPointF:
        """The nearest place to `wanted` where a card covers no other, looking down, then right."""
        x, y = wanted.x(), wanted.y()
        near = [
            (node.x, node.y)
            for node in self.workplace.graph.nodes.values()
            if node.x > x - WIDTH - 8 and y - HEIGHT - 12 < node.y < y + 9 * (HEIGHT + 30)
        ]
        taken = np.array(near).reshape(-1, 1, 2)
        column, row = np.divmod(np.arange(200), 8)
        places = np.stack([x + column * (WIDTH + 24), y + row * (HEIGHT + 30)], axis=1)
        covers = (np.abs(taken - places) < (WIDTH + 8, HEIGHT + 12)).all(axis=2).any(axis=0)
        free = np.flatnonzero(~covers)
        return QPointF(*map(float, places[free[0]])) if len(free) else wanted

    # -- zoom and pan ---------------------------------------------------------------------------------

    def pan_by(self, step: QPoint) -> None:
        """Move the view by pixels."""
        for bar, pixels in ((self.horizontalScrollBar(), step.x()), (self.verticalScrollBar(), step.y())):
            bar.setValue(bar.value() - pixels)

    def zoom_at(self, factor: float, at: QPoint) -> None:
        """Zoom with a point of the view staying in its place."""
        zoom = self.transform().m11()
        factor = min(max(zoom * factor, ZOOMS[0]), ZOOMS[1]) / zoom
        before = self.mapToScene(at)
        self.scale(factor, factor)
        self.pan_by(at - self.mapFromScene(before))

    def fit_all(self) -> None:
        """Show everything, no larger than it is."""
        box = self.board.content_box()
        self._show(box if not box.isEmpty() else QRectF(-300, -200, 600, 400), 1.0)

    def show_opened(self) -> None:
        """Show all of a weave just opened; a large one where its first note is, large enough to read."""
        box, view = self.board.content_box(), self.viewport().rect()
        note = next(iter(self.board.notes.values()), None)
        fitting = min(view.width() / max(1, box.width()), view.height() / max(1, box.height()))
        if note is None or fitting > READABLE:
            self.fit_all()
            return
        wide, high = view.width() / READABLE, view.height() / READABLE
        top = max(note.y() - high * 0.4, box.top())  # nothing is above that
        self._show(QRectF(note.x() - 20, top, wide - 60, high - 60), READABLE)

    def fit_selection(self) -> None:
        """Show the selected cards, or everything."""
        box = QRectF()
        for node_id in self.workplace.selected_nodes:
            card = self.board.cards[node_id]
            box |= card.body().translated(card.pos())
        if box.isEmpty():
            self.fit_all()
        else:
            self._show(box, 1.2)

    def _show(self, box: QRectF, most: float) -> None:
        view = self.viewport().rect()
        box = box.adjusted(-30, -30, 30, 30)
        zoom = min(view.width() / box.width(), view.height() / box.height(), most)
        self.resetTransform()
        zoom = max(zoom, ZOOMS[0])
        self.scale(zoom, zoom)
        self.centerOn(box.center())
        self.viewport().update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        at = event.position().toPoint()
        card = self.card_under(at) if event.modifiers() & Qt.KeyboardModifier.ControlModifier else None
        if card is not None:
            self._peek(card, -1 if event.angleDelta().y() > 0 else 1)
            return
        self.zoom_at(1.0015 ** event.angleDelta().y(), at)

    def _peek(self, card: Card, step: int) -> None:
        """Let the views show a card's result while Ctrl is held; further turns of the wheel, its others."""
        w = self.workplace
        ends = [End(node=card.node.id, port=port.name) for port in w.kinds.of(card.node).outputs]
        if not ends:
            return
        self.setFocus()  # where Ctrl is let go
        seen, here = w.pins.get(PEEK), [w.at(end) for end in ends]
        w.peek(ends[(here.index(seen) + step) % len(ends) if seen in here else 0])

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.viewport().update()

    # -- mouse ----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        self.setFocus()
        if event.button() == Qt.MouseButton.MiddleButton or self._space:
            self.gesture = Pan(self, at)
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton:
            self.gesture = self._begin(at, event.modifiers())

    def _begin(self, at: QPoint, modifiers: Qt.KeyboardModifier) -> Gesture:
        shift = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        control = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        port = self.port_under(at)
        if port is not None:
            return Pull(self, port[0], port[1], control)
        card = self.card_under(at)
        item = None if card is not None else self.ground_item_under(at)
        if card is None and item is None:
            return Band(self, at, shift)
        if card is not None:
            chosen = card.node.id
        else:
            assert item is not None
            chosen = item.bay.id if isinstance(item, BayItem) else item.note.id
        selection = self.workplace.selection
        if shift:
            self.workplace.select(selection ^ {chosen})
        elif chosen not in selection:
            self.workplace.select({chosen})
        if item is not None and self._on_grip(item, at):
            return Resize(self, item)
        return Move(self, at, bool(modifiers & Qt.KeyboardModifier.AltModifier))

    def _on_grip(self, item: BayItem | NoteItem, at: QPoint) -> bool:
        corner = item.boundingRect().bottomRight() - (self.mapToScene(at) - item.pos())
        return corner.x() < GRIP + 2 and corner.y() < GRIP + 2

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        if self.gesture is not None:
            self.gesture.move(at)
        else:
            self.hover_port(at)

    def hover_port(self, at: QPoint) -> None:
        """Name the port under the pointer."""
        found = self.port_under(at)
        card = self.board.cards.get(found[0].node) if found else None
        port = (found[1], found[0].port) if found else None
        if self._hovered is not None and self._hovered is not card:
            self._hovered.hovered_port = None
            self._hovered.setZValue(2)
            self._hovered.update()
        self._hovered = card
        if card is not None and card.hovered_port != port:
            card.hovered_port = port
            card.setZValue(3)
            card.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        gesture, self.gesture = self.gesture, None
        self.unsetCursor()
        if gesture is not None:
            gesture.release(event.position().toPoint())
            self.viewport().update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        item = self.ground_item_under(at)
        card = self.card_under(at)
        if card is not None and used_motif(card.node.kind):
            self.go_asked.emit(card.node.id)
        elif card is not None:
            self.pin_asked.emit("A")
        elif item is not None:
            self.edit_text.emit(item.bay.id if isinstance(item, BayItem) else item.note.id)
        else:
            self.typed.emit("")

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        card = self.card_under(event.pos())
        if card is not None and card.node.id not in self.workplace.selection:
            self.workplace.select({card.node.id})
        strand = None if card else self.strand_near(self.mapToScene(event.pos()))
        if strand is not None:
            menu = QMenu(self)
            target = strand.thread.target
            menu.addAction("Untie", lambda: self.workplace.submit(Disconnect(target)))
            menu.exec(event.globalPos())
            return
        self.menu_asked.emit(event.globalPos())

    # -- what is dragged here --------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if _dragged_weave(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        if _dragged_weave(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        path = _dragged_weave(event.mimeData())
        if path is not None:
            event.acceptProposedAction()
            self.swatch_dropped.emit(path, self.mapToScene(event.position().toPoint()))

    # -- keys -----------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, text = event.key(), event.text()
        bare = not event.modifiers() & ~(
            Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier
        )
        if key == Qt.Key.Key_Escape and self.gesture is not None:
            self.gesture.cancel()
            self.gesture = None
            self.viewport().update()
        elif key == Qt.Key.Key_Escape:
            self.workplace.select(())
        elif key == Qt.Key.Key_Space:
            self._space = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif key in ARROWS and bare:
            self._walk(key)
        elif bare and text.isalpha():
            self.typed.emit(text)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
            self.unsetCursor()
        elif event.key() == Qt.Key.Key_Control:
            self.workplace.peek_no_more()
        super().keyReleaseEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.workplace.peek_no_more()  # Ctrl may be let go where it cannot be seen
        super().focusOutEvent(event)

    def _walk(self, key: int) -> None:
        """Select the nearest card in the direction of an arrow key."""
        dx, dy = ARROWS[key]
        here = self.workplace.selected_node
        cards = self.board.cards
        if not cards:
            return
        if here is None:
            self.workplace.select({next(iter(cards))})
            return
        start = cards[here].pos()
        best, least = None, 1e12
        for node_id, card in cards.items():
            away = card.pos() - start
            along = away.x() * dx + away.y() * dy
            aside = abs(away.x() * dy) + abs(away.y() * dx)
            if node_id != here and along > 10 and along + 2 * aside < least:
                best, least = node_id, along + 2 * aside
        if best is not None:
            self.workplace.select({best})
            self.ensure_seen(best)

    def ensure_seen(self, node_id: str) -> None:
        """Scroll just as far as needed to show a card."""
        card = self.board.cards[node_id]
        box = self.mapFromScene(card.body().translated(card.pos())).boundingRect()
        view = self.viewport().rect().adjusted(12, 12, -12, -12)
        step = QPoint(
            max(0, view.left() - box.left()) - max(0, box.right() - view.right()),
            max(0, view.top() - box.top()) - max(0, box.bottom() - view.bottom()),
        )
        if not step.isNull():
            self.pan_by(step)

    # -- painting -------------------------------------------------------------------------------------

    def drawBackground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        painter.fillRect(rect, theme().colour("ground"))
        if not self.board.cards and not self.board.notes:
            self._paint_empty(painter)
        if self.transform().m11() < FAR:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            paint_strand(painter, [self.board.far_strands], theme().colour("strand"), 0)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_rail_strands(painter)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.save()
        painter.resetTransform()
        middle = self.viewport().rect().center()
        for number, line in enumerate(EMPTY_LINES):
            painter.setFont(small_font(bold=number == 0, pixels=15 if number == 0 else 13))
            painter.setPen(theme().colour("text" if number == 0 else "dim"))
            box = QRectF(middle.x() - 260, middle.y() - 50 + number * 26, 520, 24)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), line)
        painter.restore()

    def _paint_rail_strands(self, painter: QPainter) -> None:
        """The threads that run off the board into the map rail below."""
        bottom = self.viewport().height()
        for channel, end in self.workplace.graph.ends.items():
            slot = self.slot_place(channel)
            if slot is None or end.node not in self.board.cards:
                continue
            x = self.viewport().mapFromGlobal(slot).x()
            data = self.board.data.get((end.node, end.port), GREY)
            course = Course(self.board.port_place(end, True), self.mapToScene(QPoint(x, bottom)))
            lit = end.node in self.workplace.selection
            paint_strand(
                painter, strand_lines(course, data), theme().colour("accent" if lit else "line"), 1.6
            )

    def drawForeground(self, painter: QPainter, rect: QRectF | QRect) -> None:
        if self.gesture is not None:
            self.gesture.paint(painter)

    def focusNextPrevChild(self, forward: bool) -> bool:
        return QWidget.focusNextPrevChild(self, forward)


def _dragged_weave(data: QMimeData) -> Path | None:
    """The weave's file that is dragged, from the swatch book or a file manager."""
    for url in data.urls():
        path = Path(url.toLocalFile())
        if url.isLocalFile() and path.suffix == ".reed":
            return path
    return None
