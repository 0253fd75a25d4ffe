"""Keeps the board's items in step with the document and its newest pictures."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath
from PySide6.QtWidgets import QGraphicsScene

from reedloom.desk.board.card import Card
from reedloom.desk.board.face import CardState
from reedloom.desk.board.ground import BayItem, NoteItem, Strand
from reedloom.desk.screen.workplace import Workplace
from reedloom.kit.data import GREY, Data
from reedloom.kit.kind import Kind
from reedloom.weave.document import End, Graph, Node, Thread
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
        self._selected: frozenset[str] = frozenset()
        self.setItemIndexMethod(QGraphicsScene.ItemIndexMethod.NoIndex)
        workplace.document_changed.connect(self._on_change)
        workplace.document_replaced.connect(self.rebuild)
        workplace.place_changed.connect(self.rebuild)
        workplace.selection_changed.connect(self._on_selection)
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
        before, after = change.graphs
        same_parts = before.nodes.keys() == after.nodes.keys() and not (change.bays or change.notes)
        if change.threads or not same_parts:
            self._match((*change.nodes, *change.bays, *change.notes))
            return
        # A dragged value or card: only what differs is looked at.
        for node_id in change.nodes:
            self._refresh_card(node_id)
        if any(
            (before.nodes[n].x, before.nodes[n].y) != (after.nodes[n].x, after.nodes[n].y)
            for n in change.nodes
        ):
            self.lay_strands(t for t in self.strands if {t.source.node, t.target.node} & change.nodes)

    def _on_looks(self, ends: set[End]) -> None:
        for node_id in {self.workplace.on_board(end.node) for end in ends}:
            if node_id in self.cards:
                self._refresh_card(node_id)

    def _on_selection(self) -> None:
        """Only what came to the selection or left it looks different."""
        now = self.workplace.selection
        changed, self._selected = now ^ self._selected, now
        for item_id in changed:
            if item_id in self.cards:
                self.cards[item_id].show_selected(item_id in now)
            else:
                self._refresh_item(item_id)
        self._light_strands()

    def _refresh_item(self, item_id: str) -> None:
        """Show the newest state of a card, bay or note."""
        graph, chosen = self.workplace.graph, item_id in self.workplace.selection
        if item_id in self.cards:
            self._refresh_card(item_id)
        elif item_id in self.bays and item_id in graph.bays:
            self.bays[item_id].take(graph.bays[item_id], chosen)
        elif item_id in self.notes and item_id in graph.notes:
            self.notes[item_id].take(graph.notes[item_id], chosen)

    def set_show_cost(self, shown: bool) -> None:
        """Show or hide the time each node took."""
        self.show_cost = shown
        self.refresh_cards()

    def refresh_cards(self) -> None:
        """Show the newest state on every card, bay and note."""
        for item_id in (*self.cards, *self.bays, *self.notes):
            self._refresh_item(item_id)
        self._light_strands()

    def _match(self, changed: Iterable[str] | None = None) -> None:
        """Have an item for each part of the graph, and no other; `changed` parts, or all, are shown anew."""
        graph = self.workplace.graph
        before, self.data = self.data, output_data(graph, self.workplace.kinds)
        new = self._match_items(self.cards, graph.nodes, self._make_card)
        new |= self._match_items(self.bays, graph.bays, BayItem)
        new |= self._match_items(self.notes, graph.notes, NoteItem)
        present, before_strands = set(graph.threads), set(self.strands)
        for thread in self.strands.keys() - present:
            self.removeItem(self.strands.pop(thread))
        added = present - self.strands.keys()
        tied_anew = {t.target.node for t in (added | (before_strands - present))} & self.cards.keys()
        for thread in added:
            self.strands[thread] = Strand(thread)
            self.addItem(self.strands[thread])
        everything = {*self.cards, *self.bays, *self.notes}
        for item_id in everything if changed is None else new | set(changed) | tied_anew:
            self._refresh_item(item_id)
        self._light_strands()
        if changed is None:
            self.lay_strands()
            return
        moved = set(changed) | tied_anew  # a list's notches move up when one more row is tied
        other = {end for end, data in self.data.items() if before.get(end) != data}
        self.lay_strands(
            t
            for t in present
            if t in added
            or t.source.node in moved
            or t.target.node in moved
            or (t.source.node, t.source.port) in other
        )

    def _match_items(
        self, items: dict[str, Any], wanted: dict[str, Any], make: Callable[[Any], Any]
    ) -> set[str]:
        """Remove items whose part is gone and make those that are new, in order; returns which."""
        for gone in items.keys() - wanted.keys():
            self.removeItem(items.pop(gone))
        added = [new for new in wanted if new not in items]
        for new in added:
            items[new] = make(wanted[new])
            self.addItem(items[new])
        return set(added)

    def _make_card(self, node: Node) -> Card:
        return Card(node, self.workplace.kinds.of(node))

    def _refresh_card(self, node_id: str) -> None:
        w = self.workplace
        node = w.graph.nodes.get(node_id)
        if node is None:
            return
        kind = w.kinds.of(node)
        flat_id = w.flat_id(node_id)
        end = End(node=flat_id, port=kind.outputs[0].name) if kind.outputs else None
        state = CardState(
            look=w.looks.get(end) if end else None,
            failure=w.failures.get(flat_id, ""),
            seconds=w.seconds.get(flat_id),
            notes=w.said_of(node_id),
            pins="".join(name for name, pin in w.pins.items() if pin is not None and pin.node == flat_id),
            selected=node_id in w.selection,
            rows=rows_in_use(kind, w.graph, node_id),
        )
        card = self.cards[node_id]
        if node is not card.node or state != card.state or self.show_cost != card.show_cost:
            card.take(node, kind, state, self.show_cost)

    def lay_strands(self, threads: Iterable[Thread] | None = None) -> None:
        """Run some strands, or all, between where their cards are now."""
        graph, kinds = self.workplace.graph, self.workplace.kinds
        for thread in self.strands if threads is None else threads:
            data = self.data.get((thread.source.node, thread.source.port), GREY)
            port = kinds.of(graph.nodes[thread.target.node]).input(thread.target.port)
            start, end = self.port_place(thread.source, True), self.port_place(thread.target, False)
            self.strands[thread].lay(start, end, data, converts(port, data))
        self.far_strands = QPainterPath()
        for strand in self.strands.values():
            self.far_strands.addPath(strand.path)

    def _light_strands(self) -> None:
        chosen = self.workplace.selection
        for thread, strand in self.strands.items():
            lit = thread.source.node in chosen or thread.target.node in chosen
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


def rows_in_use(kind: Kind, graph: Graph, node_id: str) -> int:
    """The last row of a kind's list that has something tied; 0 for none, or for a kind without one."""
    if not any(port.series for port in kind.inputs):
        return 0
    tied = graph.incoming(node_id)
    return max((port.series for port in kind.inputs if port.name in tied), default=0)
