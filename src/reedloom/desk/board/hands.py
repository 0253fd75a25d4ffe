"""What a pressed mouse button does on the board: one small class for each gesture."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from reedloom.desk.board.card import HEIGHT, WIDTH
from reedloom.desk.board.ground import BayItem, NoteItem
from reedloom.desk.board.hanging import slot_edit
from reedloom.desk.board.strands import Course, paint_strand, strand_lines
from reedloom.desk.look.theme import theme
from reedloom.errors import ReedError
from reedloom.kit.data import GREY
from reedloom.weave.document import End
from reedloom.weave.edits import (
    Batch,
    Connect,
    Disconnect,
    GraphEdit,
    InsertOnThread,
    MoveItems,
    MoveThreads,
    PutItem,
    TakeOut,
)
from reedloom.weave.pieces import items_within

if TYPE_CHECKING:
    from reedloom.desk.board.view import BoardView


class Gesture:
    """Something under way between press and release; what a gesture does not say does nothing."""

    def move(self, at: QPoint) -> None:
        """The pointer is at another place of the view."""

    def release(self, at: QPoint) -> None:
        """The button was let go."""

    def cancel(self) -> None:
        """Escape: leave everything as it was."""

    def paint(self, painter: QPainter) -> None:
        """Draw on top of the board, in scene coordinates."""


class Pan(Gesture):
    """Moves the view."""

    def __init__(self, view: BoardView, at: QPoint) -> None:
        self.view, self.last = view, at

    def move(self, at: QPoint) -> None:
        """Follow the pointer."""
        step, self.last = at - self.last, at
        self.view.pan_by(step)


class Band(Gesture):
    """Selects what a rectangle touches."""

    def __init__(self, view: BoardView, at: QPoint, add: bool) -> None:
        self.view, self.start = view, view.mapToScene(at)
        self.earlier = view.workplace.selection
        self.before = self.earlier if add else frozenset()
        self.box = QRectF(self.start, self.start)

    def move(self, at: QPoint) -> None:
        """Stretch the rectangle."""
        self.box = QRectF(self.start, self.view.mapToScene(at)).normalized()
        scene = self.view.board
        touched = {
            n for n, card in scene.cards.items() if self.box.intersects(card.body().translated(card.pos()))
        }
        touched |= {n for n, note in scene.notes.items() if self.box.intersects(note.sceneBoundingRect())}
        self.view.workplace.select(self.before | touched)
        self.view.viewport().update()

    def release(self, at: QPoint) -> None:
        """A click on empty ground selects nothing."""
        if self.box.isEmpty():
            self.view.workplace.select(self.before)

    def cancel(self) -> None:
        """Back to the earlier selection."""
        self.view.workplace.select(self.earlier)

    def paint(self, painter: QPainter) -> None:
        """The rectangle."""
        colour = theme().colour("selection")
        painter.setPen(QPen(colour, 0))
        colour.setAlpha(40)
        painter.fillRect(self.box, colour)
        painter.drawRect(self.box)


class Move(Gesture):
    """Moves the selected cards, bays with what lies in them, and notes; one step when let go.

    A single untied card let go on a thread is tied in; pulled with Alt it is taken out first.
    """

    def __init__(self, view: BoardView, at: QPoint, take_out: bool) -> None:
        self.view, self.start = view, view.mapToScene(at)
        w = view.workplace
        graph = w.graph
        moving = set(w.selection)
        for bay_id in moving & graph.bays.keys():
            moving |= items_within(graph, graph.bays[bay_id], WIDTH, HEIGHT)
        items = graph.nodes | graph.bays | graph.notes
        self.places = {i: (items[i].x, items[i].y) for i in moving if i in items}
        node = w.selected_node
        self.first: tuple[GraphEdit, ...] = (TakeOut(node),) if take_out and node else ()
        self.moved = False

    def _edit(self, at: QPoint) -> GraphEdit:
        step = self.view.mapToScene(at) - self.start
        places = {i: (x + step.x(), y + step.y()) for i, (x, y) in self.places.items()}
        move = MoveItems(places)
        return Batch("Take out", (*self.first, move)) if self.first else move

    def move(self, at: QPoint) -> None:
        """Show the items at their new place."""
        if not self.moved and (self.view.mapToScene(at) - self.start).manhattanLength() < 3:
            return
        self.moved = True
        self.view.workplace.preview(self._edit(at))

    def release(self, at: QPoint) -> None:
        """Record the step."""
        if not self.moved:
            return
        edit = self._edit(at)
        tied_in = self._tie_in(edit)
        if tied_in is None or not self.view.workplace.submit(tied_in):
            self.view.workplace.submit(edit)

    def _tie_in(self, edit: GraphEdit) -> GraphEdit | None:
        node = self.view.workplace.selected_node
        graph = self.view.workplace.graph
        if node is None or len(self.places) != 1 or self.first or graph.incoming(node):
            return None
        if any(graph.followers(node)) or any(e.node == node for e in graph.ends.values()):
            return None
        card = self.view.board.cards[node]
        middle = card.pos() + card.body().center()
        strand = self.view.strand_near(middle, reach=26)
        if strand is None:
            return None
        tied = Batch("Tie in", (edit, InsertOnThread(node, strand.thread.target)))
        try:
            session = self.view.workplace.session
            session.lift(tied).apply(session.recorded, session.kinds)
        except ReedError:
            return None  # it does not fit there, so it is only moved
        return tied

    def cancel(self) -> None:
        """Back to the recorded places."""
        self.view.workplace.session.drop_preview()


class Resize(Gesture):
    """Drags the lower right corner of a bay or note."""

    def __init__(self, view: BoardView, item: BayItem | NoteItem) -> None:
        self.view = view
        self.item = item.bay if isinstance(item, BayItem) else item.note

    def _edit(self, at: QPoint) -> GraphEdit:
        corner = self.view.mapToScene(at)
        width = max(80.0, corner.x() - self.item.x)
        height = max(40.0, corner.y() - self.item.y)
        return PutItem(replace(self.item, width=width, height=height))

    def move(self, at: QPoint) -> None:
        """Show the new size."""
        self.view.workplace.preview(self._edit(at))

    def release(self, at: QPoint) -> None:
        """Record the step."""
        self.view.workplace.submit(self._edit(at))

    def cancel(self) -> None:
        """Back to the recorded size."""
        self.view.workplace.session.drop_preview()


class Pull(Gesture):
    """Pulls a thread from a port to another port, to a slot of the map rail, or to empty ground.

    Pulled from a tied input, the thread's end is taken along. With Ctrl all threads of an output go.
    """

    def __init__(self, view: BoardView, end: End, is_output: bool, all_threads: bool) -> None:
        self.view, self.all_threads = view, all_threads and is_output
        graph = view.workplace.graph
        self.taken: End | None = None
        tied = None if is_output else graph.incoming(end.node).get(end.port)
        if tied is not None:
            self.taken, end, is_output = end, tied, True
        self.end, self.is_output = end, is_output
        self.tip = view.board.port_place(self.taken or end, is_output if self.taken is None else False)
        self.data = view.board.data.get((end.node, end.port), GREY) if is_output else GREY

    def move(self, at: QPoint) -> None:
        """Follow the pointer; a port near by is shown by name."""
        self.tip = self.view.mapToScene(at)
        self.view.hover_port(at)
        self.view.viewport().update()
        self.view.rail_hovered.emit(self.view.viewport().mapToGlobal(at))

    def release(self, at: QPoint) -> None:
        """Tie to what is under the pointer; on empty ground untie, or offer what fits."""
        w = self.view.workplace
        channel = self.view.channel_under(self.view.viewport().mapToGlobal(at))
        found = self.view.port_under(at)
        if channel is not None and self.is_output:
            w.submit(slot_edit(w, self.end, channel))
        elif found is not None and found[1] != self.is_output:
            self._tie(found[0])
        elif self.all_threads and found is not None and found[1]:
            w.submit(MoveThreads(self.end, found[0]))
        elif self.taken is not None:
            w.submit(Disconnect(self.taken))
        elif found is None:
            self.view.offer_fitting.emit(self.end, self.is_output, self.view.viewport().mapToGlobal(at))

    def _tie(self, other: End) -> None:
        source, target = (self.end, other) if self.is_output else (other, self.end)
        edits: tuple[GraphEdit, ...] = (Connect(source, target),)
        if self.taken is not None and self.taken != target:
            edits = (Disconnect(self.taken), *edits)
        self.view.workplace.submit(edits[0] if len(edits) == 1 else Batch("Move thread", edits))

    def paint(self, painter: QPainter) -> None:
        """The thread in the hand."""
        start = self.view.board.port_place(self.end, self.is_output)
        course = Course(start, self.tip) if self.is_output else Course(self.tip, start)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_strand(painter, strand_lines(course, self.data), theme().colour("accent"), 2.2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().colour("accent"))
        painter.drawEllipse(QPointF(self.tip), 4, 4)
