"""What the commands do that make motifs, go into them, and take them apart."""

from __future__ import annotations

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QInputDialog, QWidget

from reedloom.desk.board.view import BoardView
from reedloom.desk.screen.workplace import Workplace
from reedloom.weave.edits import DescribeMotif, ForkMotif, PackMotif, UnpackMotif
from reedloom.weave.edits.motifs import free_motif_id
from reedloom.weave.motifs import used_motif


class MotifCommands(QObject):
    """Commands on the selection, or on the motif that the board shows."""

    def __init__(self, workplace: Workplace, board: BoardView, window: QWidget) -> None:
        super().__init__(window)
        self.workplace, self.board, self.window_ = workplace, board, window
        board.go_asked.connect(self.go_into)

    def pack_motif(self) -> None:
        """Pack the selected nodes into a motif; one card stands for them."""
        w = self.workplace
        if not w.selected_nodes:
            w.message.emit("Select the nodes that the motif should hold.", True)
            return
        title, done = QInputDialog.getText(
            self.window_, "Pack into a motif", "Name of the motif:", text=self._suggested()
        )
        if not done or not title.strip():
            return
        key = free_motif_id(w.document.motifs, title)
        use = w.graph.free_id(key)
        chosen = tuple(i for i in (*w.graph.nodes, *w.graph.bays, *w.graph.notes) if i in w.selection)
        if w.submit(PackMotif(w.session.motif, chosen, title.strip(), key, use)):
            w.select({use})

    def _suggested(self) -> str:
        """The name of a bay that was selected with the nodes, or of the lowest node."""
        graph = self.workplace.graph
        for bay_id, bay in graph.bays.items():
            if bay_id in self.workplace.selection and bay.title:
                return bay.title
        lowest = max((graph.nodes[n] for n in self.workplace.selected_nodes), key=lambda n: (n.y, n.x))
        return self.workplace.kinds.title(lowest)

    def _selected_use(self) -> str:
        """The selected use of a motif; empty, and a word about it, if none is."""
        node = self.workplace.selected_node
        if node is not None and used_motif(self.workplace.graph.nodes[node].kind):
            return node
        self.workplace.message.emit("Select the card of a motif first; it has a second edge behind it.", True)
        return ""

    def go_in(self) -> None:
        """Go into the selected motif."""
        use = self._selected_use()
        if use:
            self.go_into(use)

    def go_into(self, use: str) -> None:
        """Show the graph of a motif that a node uses."""
        if self.workplace.go((*self.workplace.session.path, use)):
            self.board.show_opened()
            self.board.setFocus()

    def go_out(self) -> None:
        """Show the graph in which the present motif is used."""
        path = self.workplace.session.path
        if not path:
            self.workplace.message.emit("This is the weave's own board; there is nothing around it.", False)
        elif self.workplace.go(path[:-1]):
            self.board.show_opened()
            self.board.setFocus()

    def unpack_motif(self) -> None:
        """Lay the nodes of the selected motif out in its place."""
        w, use = self.workplace, self._selected_use()
        before = set(w.graph.nodes)
        if use and w.submit(UnpackMotif(w.session.motif, use)):
            w.select(set(w.graph.nodes) - before)

    def fork_motif(self) -> None:
        """Give the selected card a motif of its own."""
        w, use = self.workplace, self._selected_use()
        if use:
            old = used_motif(w.graph.nodes[use].kind)
            key = free_motif_id(w.document.motifs, f"{old}_own")
            if w.submit(ForkMotif(w.session.motif, use, key)):
                w.message.emit("This card has a motif of its own now; the others stay with theirs.", False)

    def describe_motif(self) -> None:
        """Name the motif that the board shows, or the selected one, and say what it is for."""
        w = self.workplace
        node = w.selected_node
        key = used_motif(w.graph.nodes[node].kind) if node is not None else ""
        key = key or w.session.motif
        if key not in w.document.motifs:
            w.message.emit("Select the card of a motif first, or go into one.", True)
            return
        motif = w.document.motifs[key]
        title, done = QInputDialog.getText(self.window_, "Motif", "Name of the motif:", text=motif.title)
        if not done or not title.strip():
            return
        purpose, done = QInputDialog.getText(
            self.window_, "Motif", "What it is for, in one sentence:", text=motif.purpose
        )
        if done:
            w.submit(DescribeMotif(key, title.strip(), purpose.strip()))
