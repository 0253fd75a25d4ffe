"""Keeps the board's items in step with the document and its newest pictures."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath
from PySide6.QtWidgets import QGraphicsScene

from reedloom.desk.board.card import Card, CardState
from reedloom.desk.board.ground import BayItem, NoteItem, Strand
from reedloom.desk.screen.workplace import Workplace
from reedloom.kit.data import GREY, Data
from reedloom.weave.document import End, Node, Thread
from reedloom.weave.graph import converts, output_data
from reedloom.weave.session import Change


class BoardScene(QGraphicsScene):
    """Items by id; nothing here writes the document."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.cards: dict[str, Card] = {}
        self.strands: dict[Thread, Strand] = {}
        self.bays: dict[str, BayItem] = {}
        self.notes: dict[str, NoteItem] = {}
        self.data: dict[tuple[str, str], Data] = {}
        self.show_cost = False
        self.far_strands = QPainterPath()
        self.setItemIndexMethod(QGraphicsScene.ItemIndexMethod.NoIndex)
        workplace.document_changed.connect(self._on_change)
        workplace.document_replaced.connect(self.rebuild)
        workplace.selection_changed.connect(self.refresh_cards)
        workplace.pins_changed.connect(self.refresh_cards)
        workplace.looks_changed.connect(self._on_looks)
        self.rebuild()

    def rebuild(self) -> None:
        """Make everything afresh. (`clear` would end items that Python and a gesture still hold.)"""
        for items in (self.cards, self.strands, self.bays, self.notes):
            for item in items.values():
                self.removeItem(item)
        self.cards, self.strands, self.bays, self.notes = {}, {}, {}, {}
        self._match()

    def _on_change(self, change: Change) -> None:
        before, after = change.before.graph, change.after.graph
        same_parts = before.nodes.keys() == after.nodes.keys() and not (change.bays or change.notes)
        if change.threads or not same_parts:
            self._match()
            return
        # A dragged value or card: only what differs is looked at.
        for node_id in change.nodes:
            self._refresh_card(node_id)
        if any(
            (before.nodes[n].x, before.nodes[n].y) != (after.nodes[n].x, after.nodes[n].y)
            for n in change.nodes
        ):
            self.lay_strands()

    def _on_looks(self, ends: set[End]) -> None:
        for node_id in {end.node for end in ends}:
            if node_id in self.cards:
                self._refresh_card(node_id)

    def set_show_cost(self, shown: bool) -> None:
        """Show or hide the time each node took."""
        self.show_cost = shown
        self.refresh_cards()

    def refresh_cards(self) -> None:
        """Show the newest state on every card, bay and note."""
        for node_id in self.cards:
            self._refresh_card(node_id)
        selection = self.workplace.selection
        for bay_id, bay in self.bays.items():
            bay.take(self.workplace.graph.bays[bay_id], bay_id in selection)
        for note_id, note in self.notes.items():
            note.take(self.workplace.graph.notes[note_id], note_id in selection)
        self._light_strands()

    def _match(self) -> None:
        graph = self.workplace.graph
        self.data = output_data(graph, self.workplace.kinds)
        self._match_items(self.cards, graph.nodes, self._make_card)
        self._match_items(self.bays, graph.bays, BayItem)
        self._match_items(self.notes, graph.notes, NoteItem)
        present = set(graph.threads)
        for thread in self.strands.keys() - present:
            self.removeItem(self.strands.pop(thread))
        for thread in present - self.strands.keys():
            self.strands[thread] = Strand(thread)
            self.addItem(self.strands[thread])
        self.refresh_cards()
        self.lay_strands()

    def _match_items(self, items: dict[str, Any], wanted: dict[str, Any], make: Callable[[Any], Any]) -> None:
        """Remove items whose part is gone and make those that are new."""
        for gone in items.keys() - wanted.keys():
            self.removeItem(items.pop(gone))
        for new in wanted.keys() - items.keys():
            items[new] = make(wanted[new])
            self.addItem(items[new])

    def _make_card(self, node: Node) -> Card:
        return Card(node, self.workplace.kinds.of(node))

    def _refresh_card(self, node_id: str) -> None:
        w = self.workplace
        node = w.graph.nodes.get(node_id)
        if node is None:
            return
        kind = w.kinds.of(node)
        end = End(node=node_id, port=kind.outputs[0].name) if kind.outputs else None
        state = CardState(
            look=w.looks.get(end) if end else None,
            failure=w.failures.get(node_id, ""),
            seconds=w.seconds.get(node_id),
            notes=w.said_of(node_id),
            pins="".join(name for name, pin in w.pins.items() if pin is not None and pin.node == node_id),
            selected=node_id in w.selection,
        )
        card = self.cards[node_id]
        if node is not card.node or state != card.state or self.show_cost != card.show_cost:
            card.take(node, kind, state, self.show_cost)

    def lay_strands(self) -> None:
        """Run every strand between where its cards are now."""
        graph, kinds = self.workplace.graph, self.workplace.kinds
        for thread, strand in self.strands.items():
            data = self.data.get((thread.source.node, thread.source.port), GREY)
            port = kinds.of(graph.nodes[thread.target.node]).input(thread.target.port)
            strand.lay(
                self.port_place(thread.source, True),
                self.port_place(thread.target, False),
                data,
                converts(port, data),
            )

        self.far_strands = QPainterPath()
        for strand in self.strands.values():
            self.far_strands.addPath(strand.path)

    def _light_strands(self) -> None:
        for thread, strand in self.strands.items():
            lit = bool({thread.source.node, thread.target.node} & self.workplace.selection)
            if lit != strand.lit:
                strand.lit = lit
                strand.update()

    def port_place(self, end: End, is_output: bool) -> QPointF:
        """A port's place on the board."""
        card = self.cards[end.node]
        return card.pos() + card.port_place(is_output, end.port)

    def content_box(self) -> QRectF:
        """The box around all cards, bays and notes."""
        box = QRectF()
        for card in self.cards.values():
            box |= card.body().translated(card.pos())
        for item in (*self.bays.values(), *self.notes.values()):
            box |= item.sceneBoundingRect()
        return box
