"""The dials of the weave, or of the motif one is in: turned, named, ordered, and what each drives."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QToolButton,
    QVBoxLayout,
)

from reedloom.desk.look.buttons import tool_button
from reedloom.desk.look.keys import move_by_keys, part_with_keyboard
from reedloom.desk.look.theme import restyle
from reedloom.desk.look.words import Words, action_text, set_tip
from reedloom.desk.screen.scopes import present_owner
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.series import Grip
from reedloom.desk.sheets.dial_rows import DialList, DialRow
from reedloom.errors import ReedError
from reedloom.kit.parameters import Number
from reedloom.weave.arithmetic import calculate
from reedloom.weave.dials import driven_by, free_dial_id
from reedloom.weave.document import Dial
from reedloom.weave.edits import OrderParts, PutDial, RemoveDial, TakeAsDefaults

NO_DIALS = (
    "No dials yet. A dial offers a value to whoever uses this weave: at the end of a row of the settings, "
    "choose “Make a dial”."
)
NEW_DIAL = "New dial"


class DialForm(QFrame):
    """What a dial is called, how far it goes, and what it drives."""

    edited = Signal(object, str)
    """The changed dial, and what the change is called."""

    def __init__(self, row: DialRow, refused: Callable[[str], None]) -> None:
        super().__init__()
        self.row, self._refused = row, refused
        self.fields: dict[str, QLineEdit] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(20, 2, 4, 8)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        dial = row.dial
        texts = [("label", "Name"), ("group", "Group"), ("help", "Help"), ("unit", "Unit")]
        if not isinstance(row.parameter, Number):
            texts.remove(("unit", "Unit"))
        for number, (field, title) in enumerate(texts):
            self.fields[field] = self._line(getattr(dial, field), title)
            self.fields[field].editingFinished.connect(lambda f=field: self._take_text(f))
            grid.addWidget(Words(title), number, 0)
            grid.addWidget(self.fields[field], number, 1)
        if isinstance(row.parameter, Number):
            self._add_range(grid, "useful", "Slider")
            self._add_range(grid, "hard", "Typed")
        known = Words(f"Formulas read it as {row.key}")
        known.setProperty("role", "dim")
        known.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        grid.addWidget(known, grid.rowCount(), 0, 1, 2)
        self.drives = QVBoxLayout()
        self.drives.setSpacing(2)
        grid.addLayout(self.drives, grid.rowCount(), 0, 1, 2)
        self.remove = QPushButton("Remove this dial")
        set_tip(self.remove, "What it drives keeps its present value")
        foot = QHBoxLayout()
        foot.addWidget(self.remove)
        foot.addStretch()
        grid.addLayout(foot, grid.rowCount(), 0, 1, 2)

    def _line(self, text: str, title: str) -> QLineEdit:
        line = QLineEdit(text)
        line.setAccessibleName(f"{title} of the dial {self.row.parameter.title}")
        return line

    def _add_range(self, grid: QGridLayout, field: str, title: str) -> None:
        row = QHBoxLayout()
        row.setSpacing(6)
        for number, value in enumerate(getattr(self.row.dial, field)):
            line = self._line(f"{value:g}", f"{title} {'to' if number else 'from'}")
            line.editingFinished.connect(lambda f=field: self._take_range(f))
            self.fields[f"{field} {number}"] = line
            row.addWidget(line)
            if not number:
                row.addWidget(Words("to"))
        at = grid.rowCount()
        grid.addWidget(Words(title), at, 0)
        grid.addLayout(row, at, 1)

    def _take_text(self, field: str) -> None:
        text = self.fields[field].text().strip()
        if text != getattr(self.row.dial, field):
            self.edited.emit(replace(self.row.dial, **{field: text}), f"Change the dial's {field}")

    def _take_range(self, field: str) -> None:
        try:
            low, high = (calculate(self.fields[f"{field} {n}"].text()) for n in (0, 1))
        except ReedError as error:
            self._refused(str(error))
            return
        if (low, high) == tuple(getattr(self.row.dial, field)):
            return
        changed = replace(self.row.dial, **{field: (low, high)})
        if field == "useful":  # what the slider spans can be typed too
            hard = (min(low, changed.hard[0]), max(high, changed.hard[1]))
            changed = replace(changed, hard=hard)
        self.edited.emit(changed, "Change the dial's range")

    def show_driven(self, driven: list[tuple[str, Callable[[], None]]]) -> None:
        """List what the dial drives; a click goes there."""
        while (item := self.drives.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        if not driven:
            nothing = Words("It drives nothing yet.")
            nothing.setProperty("role", "warning")
            self.drives.addWidget(nothing)
        for text, go in driven:
            button = QToolButton()
            button.setText(action_text(text))
            button.setProperty("quiet", "true")
            set_tip(button, "Go there")
            button.clicked.connect(go)
            self.drives.addWidget(button)


class DialsPanel(DialList):
    """All dials of the graph on the board, in groups; dragged by their grips into another order."""

    went = Signal()
    """The maker went to a node that a dial drives."""

    def __init__(self, workplace: Workplace) -> None:
        self.forms: dict[str, DialForm] = {}
        self._open: set[str] = set()
        self._looked_at: object = None
        self._marked: tuple[str, ...] = ()
        super().__init__(workplace)
        move_by_keys(self, self._move_held)
        self.refresh()

    def refresh(self) -> None:
        """Show the newest state."""
        super().refresh()
        self._refresh_driven()

    def _rebuild(self, dials: dict[str, Dial]) -> None:
        self.forms, self._looked_at = {}, None
        super()._rebuild(dials)

    def when_empty(self) -> str:
        return NO_DIALS

    def decorate(self, row: DialRow) -> None:
        """A grip to drag it by, and a button that unfolds what it is called and drives."""
        key = row.key
        grip = Grip(len(self.rows))
        grip.dropped.connect(lambda at: self._drop(key, at))
        unfold = tool_button("down", f"Name, range and more of the dial {row.dial.label}", 14)
        unfold.setCheckable(True)
        unfold.setChecked(key in self._open)
        unfold.toggled.connect(lambda out: self._unfold(key, out))
        row.grid.addWidget(grip, 0, 0)
        row.grid.addWidget(unfold, 0, 4)
        if key in self._open:
            self._unfold(key, True)

    def foot(self) -> QHBoxLayout:
        """Buttons for a new dial, and for new defaults."""
        foot = QHBoxLayout()
        new = QPushButton("New dial")
        set_tip(new, "A number that nothing follows yet; formulas can read it")
        new.clicked.connect(self._new)
        foot.addWidget(new)
        if not self.workplace.session.motif:
            take = QPushButton("Take present values as defaults")
            set_tip(take, "The dials as they are turned become their defaults; colourways stay as they look")
            take.clicked.connect(lambda: self.workplace.submit(TakeAsDefaults()))
            foot.addWidget(take)
        foot.addStretch()
        return foot

    # -- what a dial is -------------------------------------------------------------------------------

    def _unfold(self, key: str, out: bool) -> None:
        row = self.rows[key]
        if not out:
            self._open.discard(key)
            if key in self.forms:
                self.forms.pop(key).deleteLater()
            return
        self._open.add(key)
        form = DialForm(row, lambda text: self.workplace.message.emit(text, True))
        form.edited.connect(lambda dial, label, k=key: self._put(k, dial, label))
        form.remove.clicked.connect(lambda: self._remove(key))
        row.grid.addWidget(form, 2, 0, 1, 5)
        self.forms[key] = form
        self._refresh_driven()

    def _refresh_driven(self) -> None:
        w = self.workplace
        for key, form in self.forms.items():
            found: list[tuple[str, Callable[[], None]]] = []
            for node_id, name in driven_by(w.graph.nodes, key):
                node = w.graph.nodes[node_id]
                titles = [p.title for p in w.kinds.of(node).parameters if p.name == name]
                text = f"{w.kinds.title(node)} · {(titles or [name])[0]}"
                found.append((text, partial(self._go, node_id)))
            form.show_driven(found)
        nodes = w.graph.nodes
        if nodes is self._looked_at and self._marked == tuple(self.rows):
            return
        self._looked_at, self._marked = nodes, tuple(self.rows)
        for key, row in self.rows.items():
            idle = not driven_by(nodes, key)
            restyle(row.name, "role", "warning" if idle else "")
            set_tip(row.name, "It drives nothing yet." if idle else row.parameter.help)

    def _go(self, node_id: str) -> None:
        self.workplace.select({node_id})
        self.went.emit()

    def _put(self, key: str, dial: Dial, label: str) -> None:
        self.workplace.submit(PutDial(self.workplace.session.motif, key, dial, label=label))

    def _remove(self, key: str) -> None:
        self._open.discard(key)
        self.workplace.submit(RemoveDial(self.workplace.session.motif, key))

    def _new(self) -> None:
        owner = present_owner(self.workplace)
        key = free_dial_id(NEW_DIAL, owner.dials)
        self._open.add(key)
        label = NEW_DIAL if key == "new_dial" else key.replace("_", " ").capitalize()
        edit = PutDial(self.workplace.session.motif, key, Dial(label=label, default=0.5, hard=(0.0, 1.0)))
        if self.workplace.submit(edit):
            field = self.forms[key].fields["label"]
            field.setFocus()
            field.selectAll()

    # -- order ----------------------------------------------------------------------------------------

    def _drop(self, key: str, at: QPoint) -> None:
        """Put a dial where its grip was let go."""
        body = self.widget()
        assert body is not None
        y = body.mapFromGlobal(at).y()
        others = [k for k in self.rows if k != key]
        place = sum(self.rows[k].geometry().center().y() < y for k in others)
        self._order(key, others, place)

    def _order(self, key: str, others: list[str], place: int) -> None:
        order = (*others[:place], key, *others[place:])
        if order == tuple(self.rows):
            return
        motif = self.workplace.session.motif
        dial, beside = self.rows[key].dial, others[min(place, len(others) - 1)]
        if dial.group != self.rows[beside].dial.group and place:
            beside = others[place - 1]
        self.workplace.submit(OrderParts("dials", order, motif, "Reorder dials"))
        group = self.rows[beside].dial.group
        if group != dial.group:  # let go among those of another group, it belongs to them
            self._put(key, replace(dial, group=group), "Change the dial's group")

    def _move_held(self, by: int) -> None:
        """Move the dial that has the keyboard up or down among the others."""
        keys, held = list(self.rows), part_with_keyboard(self.rows, self.focusWidget())
        if held is None:
            return
        place = min(max(keys.index(held) + by, 0), len(keys) - 1)
        self._order(held, [k for k in keys if k != held], place)
        self.rows[held].editor.setFocus()
