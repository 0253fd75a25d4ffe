"""What the commands of the Edit and Board menus do to the selected part of the weave."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QObject, QPointF, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QInputDialog, QWidget

from reedloom.desk.board.card import HEIGHT, WIDTH
from reedloom.desk.board.hanging import fitting_input
from reedloom.desk.board.view import BoardView
from reedloom.desk.screen.workplace import Workplace
from reedloom.errors import ReedError
from reedloom.kit.data import GREY
from reedloom.weave.arrange import align, arrange
from reedloom.weave.document import Bay, Document, End, Graph
from reedloom.weave.edits import (
    Batch,
    BringPiece,
    Connect,
    Disconnect,
    EachOf,
    Edit,
    GraphEdit,
    MoveItems,
    PutItem,
    RemoveItems,
    RemoveNodes,
    RemoveNotch,
    SetNode,
    SwapInputs,
    TakeOut,
    Untie,
)
from reedloom.weave.edits.bringing import copied
from reedloom.weave.fileformat import decode_document, encode_document
from reedloom.weave.motifs import is_inlet
from reedloom.weave.pieces import blank_note, incoming_threads, place_piece

SHIFT = (36.0, 36.0)
BAY_MARGIN = 24.0


class BoardCommands(QObject):
    """Commands on the selection; each submits one edit."""

    renamed = Signal()

    def __init__(self, workplace: Workplace, board: BoardView, window: QWidget) -> None:
        super().__init__(window)
        self.workplace, self.board, self.window_ = workplace, board, window

    @property
    def _graph(self) -> Graph:
        return self.workplace.graph

    # -- copies ---------------------------------------------------------------------------------------

    def copy(self) -> None:
        """Put the selection on the clipboard, as the text of a weave."""
        if self.workplace.selection:
            piece = self._piece()
            QGuiApplication.clipboard().setText(encode_document(piece, self.workplace.kinds).decode())
            count = len(piece.graph.nodes)
            self.workplace.message.emit(f"Copied {count} node{'s' if count != 1 else ''}", False)

    def _piece(self) -> Document:
        """The selection as a document of its own; inlets stay with their motif."""
        w = self.workplace
        chosen = [
            i for i in w.selection if i not in self._graph.nodes or not is_inlet(self._graph.nodes[i].kind)
        ]
        return copied(w.document, w.session.motif, chosen)

    def cut(self) -> None:
        """Copy the selection and delete it."""
        self.copy()
        self.delete()

    def paste(self) -> None:
        """Add what is on the clipboard, at the pointer."""
        text = QGuiApplication.clipboard().text()
        try:
            origin = decode_document(text.encode(errors="replace"), self.workplace.session.base_kinds)
        except ReedError:
            self.workplace.message.emit("There is no piece of a weave on the clipboard.", True)
            return
        piece = origin.graph
        items: list[Any] = [*piece.nodes.values(), *piece.bays.values(), *piece.notes.values()]
        places = [(i.x, i.y) for i in items]
        if not places:
            return
        at = self.board.pointer_place()
        left, top = min(p[0] for p in places), min(p[1] for p in places)
        if piece.nodes:
            at = self.board.free_place(at)
        self._place(origin, (at.x() - left, at.y() - top), "Paste", tied=False)

    def duplicate(self) -> None:
        """Copy the selection beside itself."""
        self._place(self._piece(), SHIFT, "Duplicate", tied=False)

    def duplicate_tied(self) -> None:
        """Copy the selection beside itself, fed by the same threads."""
        self._place(self._piece(), SHIFT, "Duplicate", tied=True)

    def _place(self, origin: Document, shift: tuple[float, float], label: str, tied: bool) -> None:
        piece = origin.graph
        if not (piece.nodes or piece.bays or piece.notes):
            return
        incoming = incoming_threads(self._graph, piece.nodes) if tied else ()
        edit, names = place_piece(self._graph, piece, shift, incoming, label)
        if self.workplace.submit(BringPiece(self.workplace.session.motif, edit, origin)):
            self.workplace.select(names.values())

    # -- deleting and tying ---------------------------------------------------------------------------

    def delete(self) -> None:
        """Take the selection away."""
        self._delete(close_up=False)

    def delete_closing(self) -> None:
        """Take the selection away and tie threads on past it."""
        self._delete(close_up=True)

    def _delete(self, close_up: bool) -> None:
        w = self.workplace
        inlets = [n for n in w.selected_nodes if is_inlet(self._graph.nodes[n].kind)]
        nodes = tuple(n for n in w.selected_nodes if n not in inlets)
        others = tuple(w.selection - set(w.selected_nodes))
        edits: list[Edit] = [RemoveNodes(nodes, close_up)] if nodes else []
        edits += [RemoveItems(others)] if others else []
        edits += [RemoveNotch(w.session.motif, "inlets", n) for n in inlets]
        if edits:
            lifted = tuple(w.session.lift(edit) for edit in edits)
            w.submit(edits[0] if len(edits) == 1 else EachOf("Remove", lifted))

    def tie_selected(self) -> None:
        """Tie the upper selected nodes to the lowest: each to its first input that is free and fits."""
        chosen = sorted(
            self.workplace.selected_nodes,
            key=lambda n: (self._graph.nodes[n].y, self._graph.nodes[n].x),
        )
        if len(chosen) < 2:
            self.workplace.message.emit(
                "Select two or more nodes; the upper ones are tied to the lowest.", True
            )
            return
        target = chosen[-1]
        declared = self.workplace.kinds.of(self._graph.nodes[target])
        free = [p for p in declared.inputs if p.name not in self._graph.incoming(target)]
        edits: list[GraphEdit] = []
        for source in chosen[:-1]:
            output = self.workplace.kinds.of(self._graph.nodes[source]).outputs[0].name
            data = self.board.board.data.get((source, output), GREY)
            port = fitting_input(free, data)
            if port is not None:
                free.remove(port)
                edits.append(Connect(End(node=source, port=output), End(node=target, port=port.name)))
        if edits:
            self.workplace.submit(Batch("Tie nodes", tuple(edits)))
        else:
            self.workplace.message.emit(
                f"'{self.workplace.kinds.title(self._graph.nodes[target])}' has no free input that fits.",
                True,
            )

    def untie_selected(self) -> None:
        """Untie everything that comes into the selected nodes, or leaves the selected node for the rail."""
        nodes = set(self.workplace.selected_nodes)
        edits: list[GraphEdit] = [Disconnect(t.target) for t in self._graph.threads if t.target.node in nodes]
        if not edits:
            edits = [Untie(c) for c, end in self._graph.ends.items() if end.node in nodes]
        if edits:
            self.workplace.submit(Batch("Untie", tuple(edits)))

    def take_out(self) -> None:
        """Untie the selected nodes and close the threads up."""
        if self.workplace.selected_nodes:
            self.workplace.submit(Batch("Take out", tuple(TakeOut(n) for n in self.workplace.selected_nodes)))

    def swap_inputs(self) -> None:
        """Exchange what comes into the first two inputs."""
        node = self.workplace.selected_node
        inputs = self.workplace.kinds.of(self._graph.nodes[node]).inputs if node else ()
        if node is None or len(inputs) < 2:
            self.workplace.message.emit("Select one node with two inputs, such as a blend.", True)
            return
        self.workplace.submit(SwapInputs(node, inputs[0].name, inputs[1].name))

    def mute(self) -> None:
        """Mute the selected nodes, or unmute them if all are muted."""
        nodes = self.workplace.selected_nodes
        if nodes:
            muted = not all(self._graph.nodes[n].muted for n in nodes)
            edits = tuple(SetNode(n, muted=muted) for n in nodes)
            self.workplace.submit(
                edits[0] if len(edits) == 1 else Batch("Mute" if muted else "Unmute", edits)
            )

    # -- tidying --------------------------------------------------------------------------------------

    def select_all(self) -> None:
        """Select everything on the board."""
        graph = self._graph
        self.workplace.select((*graph.nodes, *graph.bays, *graph.notes))

    def frame_in_bay(self) -> None:
        """Put a bay around the selected cards."""
        nodes = [self._graph.nodes[n] for n in self.workplace.selected_nodes]
        if not nodes:
            self.workplace.message.emit("Select the cards that the bay should hold.", True)
            return
        title, done = QInputDialog.getText(self.window_, "Frame in a bay", "Name of the bay:")
        if not done:
            return
        left, top = min(n.x for n in nodes) - BAY_MARGIN, min(n.y for n in nodes) - BAY_MARGIN - 26
        right, bottom = (
            max(n.x for n in nodes) + WIDTH + BAY_MARGIN,
            max(n.y for n in nodes) + HEIGHT + BAY_MARGIN,
        )
        bay = Bay(id=self._graph.free_id("bay"), title=title.strip(), x=left, y=top, width=right - left,
                  height=bottom - top, tint=len(self._graph.bays))  # fmt: skip
        self.workplace.submit(PutItem(bay))

    def add_note(self) -> None:
        """Write a note at the pointer."""
        at = self.board.pointer_place()
        note = blank_note(self._graph, at.x(), at.y())
        if self.workplace.submit(PutItem(note)):
            self.workplace.select({note.id})
            self.edit_text(note.id)

    def edit_text(self, item_id: str) -> None:
        """Edit the title of a bay or the text of a note."""
        bay, note = self._graph.bays.get(item_id), self._graph.notes.get(item_id)
        if bay is not None:
            text, done = QInputDialog.getText(self.window_, "Bay", "Name of the bay:", text=bay.title)
            if done:
                self.workplace.submit(PutItem(replace(bay, title=text.strip())))
        elif note is not None:
            text, done = QInputDialog.getMultiLineText(self.window_, "Note", "Text of the note:", note.text)
            if done:
                self.workplace.submit(PutItem(replace(note, text=text)))

    def rename(self) -> None:
        """Rename the selected bay or note here, a node in the settings."""
        others = self.workplace.selection - set(self.workplace.selected_nodes)
        if len(others) == 1 and len(self.workplace.selection) == 1:
            self.edit_text(next(iter(others)))
        elif self.workplace.selected_node is not None:
            self.renamed.emit()

    def arrange(self) -> None:
        """Lay the selected cards out in layers; all of them if none is selected."""
        chosen = self.workplace.selected_nodes or tuple(self._graph.nodes)
        places = arrange(self._graph, chosen)
        if places:
            self.workplace.submit(MoveItems(places, label="Arrange"))

    def align_row(self) -> None:
        """Lay the selected cards side by side."""
        self._align(across=True)

    def align_column(self) -> None:
        """Lay the selected cards one below the other."""
        self._align(across=False)

    def _align(self, across: bool) -> None:
        places = align(self._graph, self.workplace.selected_nodes, across)
        if places:
            self.workplace.submit(MoveItems(places, label="Hang in a row" if across else "Hang in a column"))
        else:
            self.workplace.message.emit("Select two cards or more.", True)

    def place_below(self, selected: tuple[str, ...]) -> QPointF:
        """A free place under some cards."""
        cards = [self.board.board.cards[n].pos() for n in selected]
        wanted = QPointF(sum(c.x() for c in cards) / len(cards), max(c.y() for c in cards) + HEIGHT + 48)
        return self.board.free_place(wanted)
