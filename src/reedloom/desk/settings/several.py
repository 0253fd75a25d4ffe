"""What several selected cards have in common, set for all of them at once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from reedloom.desk.look.buttons import tool_button
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.scopes import present_values, value_edit
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.editor import Editor
from reedloom.desk.settings.editors import make_editor
from reedloom.errors import ReedError
from reedloom.kit.parameters import Parameter
from reedloom.weave.edits import EachOf, Edit


def in_common(workplace: Workplace, node_ids: tuple[str, ...]) -> tuple[Parameter, ...]:
    """The parameters that all of some nodes have, of one name and sort, as the first declares them."""
    graph, kinds = workplace.graph, workplace.kinds
    first, *others = (kinds.of(graph.nodes[node_id]).parameters for node_id in node_ids)
    sorts = [{(p.name, type(p), p.words) for p in parameters} for parameters in others]
    return tuple(
        p for p in first if not p.series and all((p.name, type(p), p.words) in sort for sort in sorts)
    )


class SeveralRows(QWidget):
    """A row for each value that the selected cards have in common; where they differ, it says so."""

    def __init__(self, workplace: Workplace, node_ids: tuple[str, ...]) -> None:
        super().__init__()
        self.workplace, self.node_ids = workplace, node_ids
        self.editors: dict[str, Editor] = {}
        self.marks: dict[str, Words] = {}
        self._parts: dict[str, tuple[QWidget, ...]] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(5)
        self._grid.setColumnStretch(1, 1)
        self._grid.setColumnMinimumWidth(0, 92)
        shared = in_common(workplace, node_ids)
        text = "What is set here is set for all of them." if shared else "They have no value in common."
        quiet = Words(", ".join(self._titles()) + f". {text}")
        quiet.setProperty("role", "dim")
        quiet.setWordWrap(True)
        column.addWidget(quiet)
        column.addLayout(self._grid)
        for parameter in shared:
            self._add_row(parameter)
        self.refresh()

    def _titles(self) -> list[str]:
        graph, kinds = self.workplace.graph, self.workplace.kinds
        labels = Counter(kinds.of(graph.nodes[node_id]).label for node_id in self.node_ids)
        return [label if count == 1 else f"{count} × {label}" for label, count in labels.items()]

    def _add_row(self, parameter: Parameter) -> None:
        name = parameter.name
        editor = make_editor(parameter)
        editor.changing.connect(lambda value: self._set(name, value, self.workplace.preview))
        editor.changed.connect(lambda value: self._set(name, value, self.workplace.submit))
        editor.refused.connect(lambda text: self.workplace.message.emit(text, True))
        editor.pick_asked.connect(self.workplace.pick_asked)
        label, mark = Words(parameter.title), Words("differ")
        mark.setProperty("role", "dim")
        reset = tool_button("reset", "Back to the default, in all of them", 14)
        reset.setAccessibleName(f"Reset {parameter.title}")
        reset.clicked.connect(lambda: self._set(name, parameter.default, self.workplace.submit))
        for part in (label, editor):
            set_tip(part, f"{parameter.help}{parameter.measure}")
        row = self._grid.rowCount()
        self._grid.addWidget(label, row, 0)
        self._grid.addWidget(mark, row, 2)
        self._grid.addWidget(reset, row, 3)
        if editor.tall:
            self._grid.addWidget(editor, row + 1, 0, 1, 4)
        else:
            self._grid.addWidget(editor, row, 1)
        self.editors[name], self.marks[name] = editor, mark
        self._parts[name] = (label, editor, reset)

    def refresh(self) -> None:
        """Show the values of the first card, and which of them are not those of all."""
        if not all(node_id in self.workplace.graph.nodes for node_id in self.node_ids):
            return
        first, *others = (present_values(self.workplace, node_id) for node_id in self.node_ids)
        for name, editor in self.editors.items():
            if name not in first:
                continue
            editor.show_value(first[name])
            editor.show_others(first)
            matters = editor.parameter.matters(first)
            for part in self._parts[name]:
                part.setVisible(matters)
            differ = sorted({str(values.get(name)) for values in (first, *others)})
            self.marks[name].setVisible(matters and len(differ) > 1)
            set_tip(self.marks[name], "They differ: " + "; ".join(differ[:6]))

    def _set(self, name: str, value: Any, act: Callable[[Edit], bool]) -> None:
        title = self.editors[name].parameter.title.lower()
        try:
            edits = tuple(value_edit(self.workplace, node_id, {name: value}) for node_id in self.node_ids)
            act(EachOf(f"Set {title} of {len(edits)} nodes", edits))
        except ReedError as error:  # one of them follows a formula
            self.workplace.message.emit(str(error), True)
