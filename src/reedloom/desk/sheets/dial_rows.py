"""Rows of dials in groups: what the panel of dials and the dial sheet share."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLayout, QScrollArea, QVBoxLayout, QWidget

from reedloom.desk.look.buttons import tool_button
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.scopes import present_owner, present_scope
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.editor import Editor
from reedloom.desk.settings.editors import make_editor
from reedloom.errors import ReedError
from reedloom.kit.parameters import Parameter
from reedloom.weave.dials import Scope, dial_parameter, scope_of
from reedloom.weave.document import Dial, Document
from reedloom.weave.edits import Edit, PutDial, TurnDials
from reedloom.weave.edits.dials import Owner


def turn_edit(workplace: Workplace, key: str, value: Any) -> Edit:
    """The edit that turns a dial of the weave, or changes the default of one of the motif one is in."""
    motif = workplace.session.motif
    if not motif:
        return TurnDials({key: value})
    dial = replace(present_owner(workplace).dials[key], default=value)
    return PutDial(motif, key, dial, label="Change the dial's default")


class DialRow(QWidget):
    """One dial: its name, its editor, and a button back to its default."""

    changing = Signal(str, object)
    changed = Signal(str, object)

    def __init__(self, key: str, dial: Dial, parameter: Parameter) -> None:
        super().__init__()
        self.key, self.dial, self.parameter = key, dial, parameter
        self.trouble: Words | None = None
        self.name = Words(parameter.title)
        self.name.setFixedWidth(112)
        self.name.setWordWrap(True)
        self.editor: Editor = make_editor(parameter)
        self.editor.setAccessibleDescription(parameter.help)
        self.reset = tool_button("reset", "Back to the default", 14)
        self.reset.setAccessibleName(f"Reset {parameter.title}")
        text = f"{parameter.help}{parameter.measure}"
        for part in (self.name, self.editor):
            set_tip(part, text)
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(6)
        self.grid.setVerticalSpacing(3)
        self.grid.setColumnStretch(2, 1)
        self.grid.addWidget(self.name, 0, 1)
        if self.editor.tall:
            self.grid.addWidget(self.editor, 1, 1, 1, 4)
        else:
            self.grid.addWidget(self.editor, 0, 2)
        self.grid.addWidget(self.reset, 0, 3)
        self.editor.changing.connect(lambda value: self.changing.emit(self.key, value))
        self.editor.changed.connect(lambda value: self.changed.emit(self.key, value))
        self.reset.clicked.connect(lambda: self.changed.emit(self.key, self.parameter.default))

    def show_trouble(self, text: str) -> None:
        """Say why the dial cannot be used as it is turned; nothing if it can."""
        if self.trouble is None:
            if not text:
                return
            self.trouble = Words()
            self.trouble.setProperty("role", "warning")
            self.trouble.setWordWrap(True)
            self.grid.addWidget(self.trouble, 3, 1, 1, 4)
        self.trouble.setText(text)
        self.trouble.setVisible(bool(text))

    def show_value(self, value: Any) -> None:
        """Show how the dial is turned."""
        self.editor.show_value(value)
        self.reset.setEnabled(value != self.parameter.default)


class DialList(QScrollArea):
    """Dials in groups, in their order; a subclass says whose, and what else each row has."""

    margins = (10, 8, 12, 14)
    spacing = 5

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows: dict[str, DialRow] = {}
        self._built: tuple[Any, ...] = ()
        self._stale = False
        for signal in (workplace.document_replaced, workplace.place_changed):
            signal.connect(self.refresh_if_seen)
        workplace.document_changed.connect(lambda _: self.refresh_if_seen())

    # -- what a subclass says --------------------------------------------------------------------------

    def owner(self) -> Owner:
        """Whose dials these are."""
        return present_owner(self.workplace)

    def scope(self) -> Scope:
        """How the dials are turned, and which of them cannot be used so."""
        owner = self.owner()
        if not isinstance(owner, Document):
            return scope_of(owner.dials, {}, self.workplace.document.surface)
        return present_scope(self.workplace)

    def decorate(self, row: DialRow) -> None:
        """Add what a row has besides its editor."""

    def when_empty(self) -> str:
        """What is said when there are no dials."""
        return ""

    def foot(self) -> QLayout | None:
        """What stands below all dials."""
        return None

    # -- building -------------------------------------------------------------------------------------

    def refresh_if_seen(self) -> None:
        """Show the newest state now if anybody sees it, else when it is shown."""
        if self.isVisible():
            self.refresh()
        else:
            self._stale = True

    def showEvent(self, event: object) -> None:
        if self._stale:
            self.refresh()

    def refresh(self) -> None:
        """Show the newest state; rows are made anew only where dials are declared otherwise."""
        self._stale = False
        owner = self.owner()
        whole = isinstance(owner, Document)
        declared = (
            self.workplace.session.motif if not whole else "",
            tuple((key, dial if whole else replace(dial, default=0)) for key, dial in owner.dials.items()),
        )
        if declared != self._built or self.widget() is None:
            self._built = declared
            self._rebuild(owner.dials)
        scope = self.scope()
        for key, row in self.rows.items():
            row.dial = owner.dials[key]
            row.show_trouble(scope.faults.get(key, ""))
            if key in scope.values:
                row.show_value(scope.values[key])

    def _rebuild(self, dials: dict[str, Dial]) -> None:
        focused = self.focusWidget()
        if focused is not None:
            focused.clearFocus()  # what is typed half-way is taken while its editor still stands
        self.rows = {}
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(*self.margins)
        column.setSpacing(self.spacing)
        groups: dict[str, list[str]] = {}
        for key, dial in dials.items():
            groups.setdefault(dial.group, []).append(key)
        for group, keys in groups.items():
            if group:
                heading = Words(group)
                heading.setProperty("role", "heading")
                column.addWidget(heading)
            for key in keys:
                self._add_row(column, key, dials[key])
        if not dials:
            hint = Words(self.when_empty())
            hint.setWordWrap(True)
            hint.setProperty("role", "dim")
            column.addWidget(hint)
        foot = self.foot()
        if foot is not None:
            column.addSpacing(6)
            column.addLayout(foot)
        column.addStretch()
        self.setWidget(body)

    def _add_row(self, column: QVBoxLayout, key: str, dial: Dial) -> None:
        try:
            row = DialRow(key, dial, dial_parameter(key, dial))
        except ReedError as error:
            broken = Words(f"{dial.label or key}: {error}")
            broken.setWordWrap(True)
            broken.setProperty("role", "warning")
            column.addWidget(broken)
            return
        row.changing.connect(lambda k, value: self.workplace.preview(self.turn(k, value)))
        row.changed.connect(lambda k, value: self.workplace.submit(self.turn(k, value)))
        row.editor.refused.connect(lambda text: self.workplace.message.emit(text, True))
        row.editor.pick_asked.connect(self.workplace.pick_asked)
        column.addWidget(row)
        self.rows[key] = row
        self.decorate(row)

    def turn(self, key: str, value: Any) -> Edit:
        """The edit that turns a dial of these."""
        return turn_edit(self.workplace, key, value)

    def focus_first(self) -> None:
        """Put the keyboard on the first dial."""
        for row in self.rows.values():
            row.editor.setFocus()
            return
        self.setFocus()
