"""The rows of a list, such as layers: each with its picture, its values and the running result."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QInputDialog, QMenu, QToolButton, QVBoxLayout, QWidget

from reedloom.desk.look.buttons import tool_button
from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.keys import move_by_keys, part_with_keyboard
from reedloom.desk.look.theme import theme
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.scopes import present_values
from reedloom.desk.screen.variants import Variants
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.editor import Editor
from reedloom.desk.settings.editors import make_editor
from reedloom.desk.settings.reuse_menu import ReuseMenu
from reedloom.kit.kind import Kind
from reedloom.kit.parameters import Parameter, Switch
from reedloom.weave.document import End
from reedloom.weave.edits import Batch, ReorderSeries, SetParameters, series_of

SIDE = 46
NAME_WIDTH = 56
SAMPLES = 96
SETTLE = 150
"""Milliseconds after a change before running results are made again."""


class Picture(QWidget):
    """A small square picture."""

    def __init__(self, tip: str) -> None:
        super().__init__()
        self.image: QImage | None = None
        self.setFixedSize(QSize(SIDE, SIDE))
        set_tip(self, tip)

    def show_image(self, image: QImage | None) -> None:
        """Show a picture, or none."""
        self.image = image
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme().colour("slot"))
        if self.image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            paint_fitting(painter, QRectF(self.rect()), self.image)


class Grip(Words):
    """What a row is dragged by."""

    dragged = Signal(QPoint)
    dropped = Signal(QPoint)

    def __init__(self, number: int) -> None:
        super().__init__(f"{number}\n⋮⋮")
        self.setProperty("role", "dim")
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setFixedWidth(18)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        set_tip(self, "Drag to another place in the order")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.dragged.emit(event.globalPosition().toPoint())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.dropped.emit(event.globalPosition().toPoint())


class SeriesRow(QFrame):
    """One row: its own picture, its values, and the result so far."""

    def __init__(self, number: int, parameters: list[Parameter]) -> None:
        super().__init__()
        self.number = number
        self.grip = Grip(number)
        self.own, self.sum = Picture("What is tied here, alone"), Picture("The result up to here")
        self.switch = next((p.name for p in parameters if isinstance(p, Switch)), None)
        self.sum.setVisible(self.switch is not None)
        several = sum(p.is_number for p in parameters) > 1
        self.lines: dict[str, QWidget] = {}
        self.editors: dict[str, Editor] = {}
        self.folded: list[Editor] = []
        self.reuse: dict[str, QToolButton] = {}
        middle = QVBoxLayout()
        middle.setSpacing(2)
        top = QHBoxLayout()
        top.setSpacing(4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 2, 0, 2)
        layout.setSpacing(2)
        line = QHBoxLayout()
        line.setSpacing(6)
        for part in (self.grip, self.own):
            line.addWidget(part)
        line.addLayout(middle, 1)
        line.addWidget(self.sum)
        layout.addLayout(line)
        middle.addLayout(top)
        for parameter in parameters:
            editor = make_editor(parameter)
            set_tip(editor, parameter.help)
            self.editors[parameter.name] = editor
            if editor.tall:
                editor.hide()
                self._reuse_button(parameter).hide()
                self.folded.append(editor)
                layout.addWidget(editor)
            elif parameter.is_number:
                middle.addWidget(self._number_line(parameter, editor, several))
            else:
                top.addWidget(editor, 0 if isinstance(parameter, Switch) else 1)
                top.addWidget(self._reuse_button(parameter))
        if self.folded:
            self.unfold = tool_button("curve", "Its tone curve")
            self.unfold.setCheckable(True)
            self.unfold.setAccessibleName("Show the tone curve")
            self.unfold.toggled.connect(self._fold)
            top.addWidget(self.unfold)

    def _number_line(self, parameter: Parameter, editor: Editor, named: bool) -> QWidget:
        """A number's slider and what offers dials for it; with its name, where a row has several numbers."""
        line = self.lines[parameter.name] = QWidget()
        wide = QHBoxLayout(line)
        wide.setContentsMargins(0, 0, 0, 0)
        wide.setSpacing(2)
        if named:
            name = Words(parameter.title)
            name.setProperty("role", "dim")
            name.setFixedWidth(NAME_WIDTH)
            wide.addWidget(name)
        wide.addWidget(editor, 1)
        wide.addWidget(self._reuse_button(parameter))
        return line

    def _reuse_button(self, parameter: Parameter) -> QToolButton:
        """The button that offers dials for a value of the row."""
        button = tool_button("dial", f"Copy, dials and formulas for {parameter.title.lower()}", 12)
        button.setCheckable(True)
        self.reuse[parameter.name] = button
        return button

    def _fold(self, out: bool) -> None:
        for editor in self.folded:
            editor.setVisible(out)


class SeriesList(QWidget):
    """All rows that have something tied, in order; a row is moved by its grip, or with Alt and arrows."""

    changing = Signal(str, object)
    changed = Signal(str, object)

    def __init__(self, workplace: Workplace, node: str) -> None:
        super().__init__()
        self.workplace, self.node = workplace, node
        self.reuse = ReuseMenu(workplace, self._write_formula)
        self.rows: dict[int, SeriesRow] = {}
        self.mark: int | None = None
        move_by_keys(self, self._move_held)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(4)
        self.empty = Words("What you tie to the notches of the card becomes rows here.")
        self.empty.setProperty("role", "dim")
        self.empty.setWordWrap(True)
        self.column.addWidget(self.empty)
        self.variants = Variants(workplace, SAMPLES, self)
        self.variants.made.connect(self._take_sum)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self._ask_sums)

    @property
    def declared(self) -> Kind:
        """The node's kind."""
        return self.workplace.kinds.of(self.workplace.graph.nodes[self.node])

    def refresh(self) -> None:
        """Show the newest rows, values and pictures."""
        graph = self.workplace.graph
        ports, values = series_of(self.declared)
        tied = graph.incoming(self.node)
        present = [number for number in ports if any(port in tied for port in ports[number])]
        if list(self.rows) != present:
            self._rebuild(present, values)
        node = graph.nodes[self.node]
        shown = present_values(self.workplace, self.node)
        for number, row in self.rows.items():
            for name, editor in row.editors.items():
                editor.show_value(shown[name])
                if name in row.lines:
                    row.lines[name].setVisible(editor.parameter.matters(shown))
                formula, help_ = node.formulas.get(name), editor.parameter.help
                editor.setEnabled(formula is None)
                row.reuse[name].setChecked(formula is not None)
                set_tip(editor, help_ if formula is None else f"{help_}\nIt is {formula}")
            end = tied.get(ports[number][0])
            look = self.workplace.looks.get(self.workplace.at(end)) if end is not None else None
            row.own.show_image(look.image if look else None)
        self.empty.setVisible(not present)
        self._settle.start(SETTLE)

    def _rebuild(self, present: list[int], values: dict[int, tuple[str, ...]]) -> None:
        for row in self.rows.values():
            row.deleteLater()
        self.rows = {}
        for number in present:
            row = SeriesRow(number, [self.declared.parameter(name) for name in values.get(number, ())])
            for name, editor in row.editors.items():
                editor.changing.connect(lambda value, n=name: self.changing.emit(n, value))
                editor.changed.connect(lambda value, n=name: self.changed.emit(n, value))
                editor.refused.connect(lambda text: self.workplace.message.emit(text, True))
                row.reuse[name].clicked.connect(lambda _=False, r=row, n=name: self._open_reuse(r, n))
            row.grip.dragged.connect(self._show_mark)
            row.grip.dropped.connect(lambda at, n=number: self._drop(n, at))
            self.column.addWidget(row)
            self.rows[number] = row

    # -- dials ----------------------------------------------------------------------------------------

    def _open_reuse(self, row: SeriesRow, name: str) -> None:
        """Offer dials and formulas for a value of a row."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.reuse.fill(menu, self.node, row.editors[name].parameter, self)
        button = row.reuse[name]
        button.setChecked(name in self.workplace.graph.nodes[self.node].formulas)
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def _write_formula(self, name: str) -> None:
        node = self.workplace.graph.nodes[self.node]
        old = node.formulas.get(name, str(self.workplace.kinds.value(node, name)))
        text, done = QInputDialog.getText(self, "Formula", "Arithmetic with dials:", text=old)
        if done:
            self.reuse.follow(self.node, name, text)

    # -- the order ------------------------------------------------------------------------------------

    def _gap_at(self, at: QPoint) -> int:
        """Before which row a place on the screen lies."""
        y = self.mapFromGlobal(at).y()
        return sum(y > row.geometry().center().y() for row in self.rows.values())

    def _show_mark(self, at: QPoint) -> None:
        self.mark = self._gap_at(at)
        self.update()

    def _drop(self, number: int, at: QPoint) -> None:
        gap, self.mark = self._gap_at(at), None
        self.update()
        before = list(self.rows)
        order = [n for n in before if n != number]
        order.insert(gap - (before.index(number) < gap), number)
        if order != before:
            self.move_to(tuple(order))

    def move_to(self, order: tuple[int, ...]) -> None:
        """Put the rows into another order, as one step."""
        slots = sorted(order)
        wanted = dict(zip(slots, order, strict=True))
        ports, _ = series_of(self.declared)
        self.workplace.submit(ReorderSeries(self.node, tuple(wanted.get(n, n) for n in ports)))

    def _move_held(self, by: int) -> None:
        """Move the row that has the keyboard up or down; the keyboard goes with it."""
        focused, numbers = self.focusWidget(), list(self.rows)
        held = part_with_keyboard(self.rows, focused)
        here = numbers.index(held) if held is not None else -1
        place = here + by
        if held is None or not 0 <= place < len(numbers):
            return
        editors = dict(enumerate(self.rows[held].editors.values()))
        which, beside = part_with_keyboard(editors, focused) or 0, numbers[place]
        numbers[here], numbers[place] = beside, held
        self.move_to(tuple(numbers))
        moved = list(self.rows[beside].editors.values()) if beside in self.rows else []
        if moved:
            moved[min(which, len(moved) - 1)].setFocus()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.mark is None or not self.rows:
            return
        rows = list(self.rows.values())
        y = rows[self.mark].y() - 2 if self.mark < len(rows) else rows[-1].geometry().bottom() + 2
        painter = QPainter(self)
        painter.setPen(QPen(theme().colour("accent"), 2))
        painter.drawLine(0, y, self.width(), y)

    # -- running results ------------------------------------------------------------------------------

    def _ask_sums(self) -> None:
        """What the node gives with the rows after each one switched off."""
        graph = self.workplace.graph
        if self.node not in graph.nodes:
            return
        switches = {number: row.switch for number, row in self.rows.items() if row.switch is not None}
        edits = []
        for number in self.rows:
            off: dict[str, Any] = {name: False for later, name in switches.items() if later > number}
            edits.append(Batch("Look", (SetParameters(self.node, off),) if off else ()))
        if not switches:
            return
        port = self.declared.outputs[0].name
        self.variants.ask(End(node=self.node, port=port), edits)

    def _take_sum(self, number: int, image: QImage) -> None:
        rows = list(self.rows.values())
        if number < len(rows):
            rows[number].sum.show_image(image)
