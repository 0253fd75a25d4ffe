"""The drawn paths in hand: whose they are, which knots are chosen, and what is done with them."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from reedloom.errors import ReedError
from reedloom.kit import drawing
from reedloom.kit.drawing import NONE, Change, Chosen
from reedloom.kit.parameters import DrawnPaths
from reedloom.kit.parameters.drawn import Drawn
from reedloom.weave.edits import EachOf

if TYPE_CHECKING:
    from reedloom.desk.screen.workplace import Workplace

NOT_HERE = "Select a card of drawn paths first."
NOTHING = "Choose knots first: click on them, or press Page Down in the flat view."


class PathsInHand(QObject):
    """The paths of the selected node, shared by the flat view, the commands and the settings."""

    changed = Signal()
    """Other knots are chosen, or drawing began or ended."""
    show_asked = Signal()
    """The flat view is wanted, with the paths over it."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__(workplace)
        self.workplace = workplace
        self._chosen: Chosen = NONE
        self.drawing = False
        """Whether a click lays knots."""
        self._node: str | None = None
        workplace.selection_changed.connect(self._on_selection)

    def _on_selection(self) -> None:
        if self.workplace.selected_node != self._node:
            self._node = self.workplace.selected_node
            self.choose(NONE, drawing_on=False)

    @property
    def parameter(self) -> DrawnPaths | None:
        """The drawn paths among the selected node's parameters."""
        w = self.workplace
        if w.selected_node is None or w.selected_node not in w.graph.nodes:
            return None
        declared = w.kinds.of(w.graph.nodes[w.selected_node]).parameters
        return next((p for p in declared if isinstance(p, DrawnPaths)), None)

    @property
    def paths(self) -> Drawn:
        """The paths as shown."""
        w, parameter = self.workplace, self.parameter
        if parameter is None or w.selected_node is None:
            return ()
        held: Drawn = w.kinds.value(w.graph.nodes[w.selected_node], parameter.name)
        return held

    @property
    def chosen(self) -> Chosen:
        """The chosen knots, as far as they are still there."""
        return drawing.still_there(self.paths, self._chosen)

    def choose(self, chosen: Chosen, drawing_on: bool | None = None) -> None:
        """Choose knots, and begin or end drawing."""
        self._chosen = chosen
        if drawing_on is not None:
            self.drawing = drawing_on
        self.changed.emit()

    def put(self, paths: Drawn, label: str = "", chosen: Chosen | None = None) -> None:
        """Show other paths; with a label they are taken, as one step."""
        from reedloom.desk.screen.scopes import value_edit

        w, parameter = self.workplace, self.parameter
        if parameter is None or w.selected_node is None:
            return
        try:
            edit = value_edit(w, w.selected_node, {parameter.name: paths})
        except ReedError as error:  # they follow a dial
            w.message.emit(str(error), True)
            return
        if w.submit(EachOf(label, (edit,))) if label else w.preview(edit):
            self.choose(self._chosen if chosen is None else chosen)

    def take(self, change: Change, label: str) -> None:
        """Take other paths as one step, with other knots chosen."""
        self.put(change[0], label, change[1])

    # -- commands -------------------------------------------------------------------------------------

    def draw_paths(self) -> None:
        """Begin to draw by hand, or end it."""
        if self.parameter is None:
            self.workplace.message.emit(NOT_HERE, True)
            return
        self.show_asked.emit()
        self.choose(self.chosen if not self.drawing else NONE, not self.drawing)

    def join_ends(self) -> None:
        """Join two chosen ends, or close a path whose ends are chosen."""
        chosen = self._ends_meant(self.chosen)
        found = drawing.joined(self.paths, chosen) if self._has_chosen() else None
        if found is not None:
            self.take(found, "Join paths")
        elif self.chosen:
            self.workplace.message.emit("Choose two ends to join, or one whole path to close it.", True)

    def _ends_meant(self, chosen: Chosen) -> Chosen:
        """Of a single path chosen whole, its two ends."""
        numbers = {p for p, _ in chosen}
        if len(numbers) == 1 and chosen == drawing.all_of(self.paths, numbers):
            return frozenset(one for one in chosen if drawing.is_end(self.paths, *one))
        return chosen

    def cut_paths(self) -> None:
        """Take away the piece after each chosen knot."""
        if self._has_chosen():
            self.put(drawing.cut(self.paths, self.chosen), "Cut paths", NONE)

    def sharpen_knots(self) -> None:
        """Make the chosen knots sharp, or smooth if they all were."""
        if self._has_chosen():
            self.put(drawing.sharpened(self.paths, self.chosen), "Sharp or smooth knots")

    def reverse_paths(self) -> None:
        """Let the paths of the chosen knots run the other way."""
        self._change(drawing.from_end_to_start, "Reverse paths")

    def double_paths(self) -> None:
        """Lay copies of the chosen knots' paths beside them."""
        self._change(drawing.doubled, "Double paths")

    def delete_knots(self) -> None:
        """Take away the chosen knots."""
        if self._has_chosen():
            self.put(drawing.removed(self.paths, self.chosen), "Delete knots", NONE)

    def _change(self, change: Callable[[Drawn, Chosen], Change], label: str) -> None:
        if self._has_chosen():
            self.take(change(self.paths, self.chosen), label)

    def _has_chosen(self) -> bool:
        """Whether there is something to work on; the maker is told what to do if not."""
        if not self.chosen:
            self.workplace.message.emit(NOT_HERE if self.parameter is None else NOTHING, True)
        return bool(self.chosen)
