"""Handles of the selected node over the flat view: drawn, found under the pointer, and dragged."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPen

from reedloom.desk.look.theme import theme
from reedloom.desk.screen.scopes import present_values, value_edit
from reedloom.desk.screen.workplace import Workplace
from reedloom.errors import ReedError
from reedloom.kit.handles import FreeHandles, Handle, handles_of
from reedloom.weave.graph import downstream

NEAR = 9.0
"""How many pixels from a handle it can be taken."""


class FlatHandles:
    """The handles of the selected node, while it is the one that is looked at."""

    def __init__(self, workplace: Workplace) -> None:
        self.workplace = workplace
        self.held: int | None = None

    def node(self) -> str | None:
        """The node whose handles are shown: the selected one, or that which gives its place."""
        w = self.workplace
        node_id = w.selected_node
        if node_id is None:
            return None
        place = w.graph.incoming(node_id).get("place")
        if place is not None and not self._gives_place(node_id):
            # Drawn at another place, a form is not where its values say; the place itself can be moved.
            node_id = place.node
            if not self._gives_place(node_id) or "place" in w.graph.incoming(node_id):
                return None
        seen = {w.on_board(end.node) for end in w.pins.values() if end is not None}
        followed = self._gives_place(node_id) and not seen.isdisjoint(downstream(w.graph, [node_id]))
        return node_id if followed or node_id in seen else None

    def _gives_place(self, node_id: str) -> bool:
        handles = self.workplace.kinds.of(self.workplace.graph.nodes[node_id]).handles
        return isinstance(handles, FreeHandles) and handles.of_place

    def shown(self) -> list[Handle]:
        """The handles there are now."""
        w, node_id = self.workplace, self.node()
        if node_id is None:
            return []
        handles = w.kinds.of(w.graph.nodes[node_id]).handles
        return handles_of(handles, present_values(w, node_id), w.document.surface.aspect)

    def take(self, point: QPointF, to_widget: Callable[[float, float], QPointF]) -> bool:
        """Take the handle under a point, knots before the centre; whether there is one."""
        found = [
            (away.x() ** 2 + away.y() ** 2, -number)
            for number, handle in enumerate(self.shown())
            for away in [to_widget(handle.u, handle.v) - point]
        ]
        near = [pair for pair in found if pair[0] <= NEAR**2]
        self.held = -min(near)[1] if near else None
        return self.held is not None

    def drag(self, u: float, v: float, done: bool) -> None:
        """Move the held handle; a drag is one step of the history."""
        handles = self.shown()
        node_id = self.node()
        if self.held is None or node_id is None or self.held >= len(handles):
            return
        try:
            edit = value_edit(self.workplace, node_id, handles[self.held].moved(u, v))
        except ReedError as error:  # it follows a formula
            self.workplace.message.emit(str(error), True)
            self.held = None
            return
        if done:
            self.workplace.submit(edit)
            self.held = None
        else:
            self.workplace.preview(edit)

    def paint(self, painter: QPainter, to_widget: Callable[[float, float], QPointF]) -> None:
        """Draw the handles: a cross in a ring for the centre, a disc for the rim, lozenges for knots."""
        t = theme()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, handle in enumerate(self.shown()):
            at = to_widget(handle.u, handle.v)
            for colour, width in ((t.colour("ground"), 4.0), (t.colour("accent"), 2.0)):
                painter.setPen(QPen(colour, width))
                painter.setBrush(t.colour("accent") if number == self.held else t.colour("ground"))
                if handle.name == "centre":
                    painter.drawEllipse(QRectF(at.x() - 6, at.y() - 6, 12, 12))
                    painter.drawLine(at - QPointF(3, 0), at + QPointF(3, 0))
                    painter.drawLine(at - QPointF(0, 3), at + QPointF(0, 3))
                elif handle.name == "rim":
                    painter.drawEllipse(at, 4.5, 4.5)
                else:
                    d = 5.5
                    corners = [QPointF(0, -d), QPointF(d, 0), QPointF(0, d), QPointF(-d, 0)]
                    painter.drawPolygon([at + corner for corner in corners])
