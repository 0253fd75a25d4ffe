"""The settings of the selected node; of the weave itself when no node is selected."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.look.buttons import tool_button
from reedloom.desk.look.swatch import swatch_pixmap
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.scopes import dial_labels, present_scope, present_values, value_edit
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.driven import FormulaLine
from reedloom.desk.settings.editor import Editor
from reedloom.desk.settings.editors import make_editor
from reedloom.desk.settings.editors.numbers import NumberEditor
from reedloom.desk.settings.reuse_menu import ReuseMenu
from reedloom.desk.settings.series import SeriesList
from reedloom.desk.settings.several import SeveralRows
from reedloom.desk.settings.tone_marks import ToneStrip
from reedloom.desk.settings.try_strip import TryStrip
from reedloom.errors import ReedError
from reedloom.kit.parameters import Float, Parameter
from reedloom.kit.stops import Stop, stop_at
from reedloom.preview.encodings import Tones
from reedloom.weave.edits import Edit, RenameNotch, SetDocument, SetFormula, SetNode
from reedloom.weave.motifs import is_inlet, used_motif, uses_of

SURFACE = (
    Float(
        "width", 1.0, (0.1, 4.0), (1e-6, 1e6), unit="m", help="How wide the tile is in the world, in metres."
    ),
    Float(
        "height", 1.0, (0.1, 4.0), (1e-6, 1e6), unit="m", help="How high the tile is in the world, in metres."
    ),
    Float("depth", 0.05, (0.0, 0.5), (0.0, 1e6), unit="m", help="From height 0 to height 1, in metres."),
)


ABOUT = {
    "general": ("In general", "What it is in general, such as Stone; it stands before the name"),
    "purpose": ("Purpose", "One sentence about what it is, for whoever looks for a surface"),
    "tags": ("Tags", "Further words under which it is found, with commas between them"),
}


class SettingsPanel(QScrollArea):
    """Shows what can be set; every change goes to the session as an edit."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.editors: dict[str, Editor] = {}
        self.resets: dict[str, QToolButton] = {}
        self.strip: ToneStrip | None = None
        self.series: SeriesList | None = None
        self.tries = TryStrip(workplace, self)
        self.tries.taken.connect(self._submit)
        self.reuse = ReuseMenu(workplace, self.write_formula)
        self.driven: dict[str, FormulaLine] = {}
        self.more: dict[str, QToolButton] = {}
        self._cells: dict[str, tuple[QGridLayout, int]] = {}
        self._writing = ""
        self.about: dict[str, QLineEdit] = {}
        self._rows: dict[QObject, Parameter] = {}
        self._parts: dict[str, tuple[QWidget, ...]] = {}
        self.notes: Words | None = None
        self._shown: str | None = "\0"
        self._group: tuple[str, ...] = ()
        self.several: SeveralRows | None = None
        self._defaults: dict[str, Any] = {}
        self._helps: dict[str, str] = {}
        workplace.selection_changed.connect(self._rebuild_if_other)
        workplace.document_replaced.connect(self.rebuild)
        workplace.place_changed.connect(self.rebuild)
        workplace.document_changed.connect(lambda _: self._refresh_all())
        workplace.looks_changed.connect(lambda _: self._refresh_tones())
        self.rebuild()

    def _selected_together(self) -> tuple[str, ...]:
        nodes = tuple(self.workplace.selected_nodes)
        return nodes if len(nodes) > 1 else ()

    def _rebuild_if_other(self) -> None:
        if self.workplace.selected_node != self._shown or self._selected_together() != self._group:
            self.rebuild()

    def rebuild(self) -> None:
        """Make the editors for what is selected now."""
        focused = self.focusWidget()
        if focused is not None:
            focused.clearFocus()  # what is typed half-way is taken while its editor still stands
        node_id = self.workplace.selected_node
        self._shown, self._group, self.several = node_id, self._selected_together(), None
        self.editors, self.resets, self.strip, self.notes, self.series = {}, {}, None, None, None
        self._rows, self._parts = {}, {}
        self.driven, self.more, self._cells, self._writing = {}, {}, {}, ""
        self.tries.close_up()
        body = QWidget()
        self._layout = QVBoxLayout(body)
        self._layout.setContentsMargins(14, 10, 12, 14)
        self._layout.setSpacing(6)
        if self._group:
            self._build_several()
        if node_id is None:
            self._build_weave()
        else:
            self._build_node(node_id)
        self._layout.addStretch()
        self.setWidget(body)
        self._refresh_all()

    # -- the weave ------------------------------------------------------------------------------------

    def _build_several(self) -> None:
        self._layout.addWidget(self._heading(f"{len(self._group)} cards together"))
        self.several = SeveralRows(self.workplace, self._group)
        self._layout.addWidget(self.several)
        self._layout.addSpacing(8)

    def _build_weave(self) -> None:
        title = QLineEdit(self.workplace.document.name)
        title.setProperty("role", "title")
        title.setAccessibleName("Name of the weave")
        title.editingFinished.connect(lambda: self._rename_weave(title.text()))
        self._title = title
        self._layout.addWidget(title)
        if not self._group:
            self._layout.addWidget(self._quiet("Select a card to set its values."))
        self._layout.addSpacing(4)
        self._layout.addWidget(self._heading("The tile in the world"))
        self._add_rows(SURFACE)
        self._layout.addSpacing(4)
        self._layout.addWidget(self._heading("In the swatch book"))
        self._add_about()

    def _add_about(self) -> None:
        """Lines for what is said of the weave where others look for one."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(5)
        grid.setColumnMinimumWidth(0, 92)
        self.about = {}
        for row, (field, (label, tip)) in enumerate(ABOUT.items()):
            line = QLineEdit()
            line.setAccessibleName(label)
            set_tip(line, tip)
            line.editingFinished.connect(lambda f=field: self._describe(f))
            grid.addWidget(Words(label), row, 0)
            grid.addWidget(line, row, 1)
            self.about[field] = line
        self._layout.addLayout(grid)

    def _about(self, field: str) -> str:
        held = getattr(self.workplace.document, field)
        return held if isinstance(held, str) else ", ".join(held)

    def _describe(self, field: str) -> None:
        text = self.about[field].text().strip()
        if text == self._about(field):
            return
        words = tuple(word.strip() for word in text.split(",") if word.strip())
        value: Any = words if field == "tags" else text
        self.workplace.submit(SetDocument(**{field: value}, label="Describe the weave"))

    def _rename_weave(self, name: str) -> None:
        if name.strip():
            self.workplace.submit(SetDocument(name=name.strip(), label="Rename weave"))

    # -- a node ---------------------------------------------------------------------------------------

    def _build_node(self, node_id: str) -> None:
        node = self.workplace.graph.nodes[node_id]
        declared = self.workplace.kinds.of(node)
        head = QHBoxLayout()
        head.setSpacing(8)
        swatch = Words()
        swatch.setPixmap(swatch_pixmap(declared.family, 22))
        title = QLineEdit(node.name or declared.label)
        title.setProperty("role", "title")
        title.setAccessibleName("Name of the node")
        set_tip(title, "Type to give the node a name of its own")
        title.editingFinished.connect(lambda: self._rename_node(node_id, title.text()))
        self._title = title
        head.addWidget(swatch)
        head.addWidget(title, 1)
        self._layout.addLayout(head)
        kind = f"{declared.label}. " if node.name else ""
        key = used_motif(node.kind)
        if key:
            count = len(list(uses_of(self.workplace.document, key)))
            kind = f"A motif used {count} times. " if count > 1 else "A motif. "
        self._layout.addWidget(self._quiet(kind + declared.purpose))
        self.notes = self._quiet("")
        self.notes.setProperty("role", "warning")
        self._layout.addWidget(self.notes)
        if any(p.mark for p in declared.parameters):
            self.strip = ToneStrip()
            self.strip.changing.connect(self._preview)
            self.strip.changed.connect(self._submit)
            self._layout.addWidget(self.strip)
        single = [p for p in declared.parameters if not p.series]
        has_list = len(single) < len(declared.parameters)
        self._add_rows(tuple(p for p in single if not (has_list and p.group)))
        if has_list:
            self.series = SeriesList(self.workplace, node_id)
            self.series.changing.connect(self._preview)
            self.series.changed.connect(self._submit)
            self._layout.addWidget(self.series)
            self._add_rows(tuple(p for p in single if p.group))
        if not declared.parameters:
            self._layout.addWidget(self._quiet("There is nothing to set here."))

    def _rename_node(self, node_id: str, name: str) -> None:
        node = self.workplace.graph.nodes.get(node_id)
        if node is not None:
            plain = "" if name.strip() == self.workplace.kinds.of(node).label else name.strip()
            if plain == node.name:
                return
            if is_inlet(node.kind):
                motif = self.workplace.session.motif
                self.workplace.submit(RenameNotch(motif, "inlets", node_id, plain or "Inlet"))
            else:
                self.workplace.submit(SetNode(node_id, name=plain))

    # -- rows -----------------------------------------------------------------------------------------

    def _add_rows(self, parameters: tuple[Parameter, ...]) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, 92)
        for parameter in parameters:
            editor = make_editor(parameter)
            editor.changing.connect(lambda value, n=parameter.name: self._preview(n, value))
            editor.changed.connect(lambda value, n=parameter.name: self._submit(n, value))
            editor.refused.connect(lambda text: self.workplace.message.emit(text, True))
            label = Words(parameter.title)
            reset = tool_button("reset", "Back to the default", 14)
            reset.setAccessibleName(f"Reset {parameter.title}")
            reset.clicked.connect(lambda _=False, p=parameter: self._submit(p.name, p.default))
            text = f"{parameter.help}{parameter.measure}"
            editor.setAccessibleDescription(text)
            if self._shown is not None:
                editor.attach(self.workplace)
            editor.pick_asked.connect(self.workplace.pick_asked)
            for part in (label, editor):
                if self._shown is None:
                    set_tip(part, text)
                else:
                    part.installEventFilter(self)
                    self._rows[part] = parameter
            self._helps[parameter.name] = text
            row = grid.rowCount()
            grid.addWidget(label, row, 0)
            grid.addWidget(reset, row, 2)
            if editor.tall:
                grid.addWidget(editor, row + 1, 0, 1, 4)
            else:
                grid.addWidget(editor, row, 1)
            if self._shown is not None:
                self._add_reuse(grid, row, parameter)
            self.editors[parameter.name], self.resets[parameter.name] = editor, reset
            parts = (label, editor, reset, self.more.get(parameter.name))
            self._parts[parameter.name] = tuple(part for part in parts if part is not None)
            self._defaults[parameter.name] = parameter.default
        self._layout.addLayout(grid)

    def _add_reuse(self, grid: QGridLayout, row: int, parameter: Parameter) -> None:
        """The button at a row's end that offers dials, and the line that shows a formula in its place."""
        more = tool_button("dial", f"Copy, dials and formulas for {parameter.title.lower()}", 14)
        more.clicked.connect(lambda: self._open_reuse(parameter))
        grid.addWidget(more, row, 3)
        self.more[parameter.name] = more
        self._cells[parameter.name] = (grid, row)

    def _line(self, name: str) -> FormulaLine:
        """The line for a parameter's formula, made when it is first wanted."""
        if name not in self.driven:
            line = FormulaLine(self.editors[name].parameter)
            line.tried.connect(lambda text: self._follow(name, text, self.workplace.preview))
            line.written.connect(lambda text: self._follow(name, text, self.workplace.submit))
            line.dropped.connect(lambda: self._drop_formula(name))
            grid, row = self._cells[name]
            grid.addWidget(line, row, 1, 1, 2)
            self.driven[name] = line
        return self.driven[name]

    def _open_reuse(self, parameter: Parameter) -> None:
        if self._shown is None:
            return
        menu = QMenu(self)
        self.reuse.fill(menu, self._shown, parameter, self)
        button = self.more[parameter.name]
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def write_formula(self, name: str) -> None:
        """Open the line for a parameter's formula, with its present value to begin with."""
        line = self._line(name)
        self._writing = name
        self._refresh_all()
        value = self._value(name)
        if not line.line.text():
            line.line.setText(f"{value:.6g}" if isinstance(value, float) else str(value))
        line.setFocus()
        line.line.selectAll()

    def _follow(self, name: str, formula: str, act: Callable[[Edit], bool]) -> None:
        if self._shown is not None:
            act(SetFormula(self.workplace.session.motif, self._shown, name, formula))
            if act == self.workplace.submit:
                self._writing = ""

    def _drop_formula(self, name: str) -> None:
        self._writing = ""
        self.workplace.session.drop_preview()
        self._refresh_all()
        self.editors[name].setFocus()

    def _focused_name(self) -> str:
        """The parameter whose row has the keyboard; empty if none."""
        focused = QApplication.focusWidget()
        if focused is None:
            return ""
        for name, editor in self.editors.items():
            line = self.driven.get(name)
            if editor.isAncestorOf(focused) or (line is not None and line.isAncestorOf(focused)):
                return name
        return ""

    def reuse_focused(self, how: str) -> None:
        """Copy or paste the value that has the keyboard, make a dial or a formula of it, or let it go."""
        name = self._focused_name()
        if not name or self._shown is None:
            self.workplace.message.emit("Put the keyboard on a value first.", True)
            return
        parameter = self.editors[name].parameter
        if how == "copy":
            self.reuse.copy(self._shown, parameter)
        elif how == "paste":
            self.reuse.paste(self._shown, parameter)
        elif not self.reuse.can_follow(parameter):
            self.workplace.message.emit(f"'{parameter.title}' can follow no dial.", True)
        elif how == "dial":
            self.reuse.make_dial(self._shown, parameter)
        elif how == "formula":
            self.write_formula(name)
        else:
            self.reuse.follow(self._shown, name, None)

    # -- trying ---------------------------------------------------------------------------------------

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        parameter = self._rows.get(watched)
        if parameter is not None and self._shown is not None:
            if event.type() == QEvent.Type.Enter:
                row = self.editors[parameter.name]
                self.tries.hover(parameter, self._shown, self._helps[parameter.name], row)
            elif event.type() == QEvent.Type.Leave:
                self.tries.leave()
        return super().eventFilter(watched, event)

    def try_focused(self) -> None:
        """Open the try strip for the value that has the keyboard; arrows choose, Enter takes."""
        name = self._focused_name()
        if not name or self._shown is None:
            self.workplace.message.emit("Put the keyboard on a value first.", True)
            return
        editor = self.editors[name]
        self.tries.open_for(editor.parameter, self._shown, self._helps[name], editor)
        self.tries.take_keys()

    def _heading(self, text: str) -> Words:
        label = Words(text)
        label.setProperty("role", "heading")
        return label

    def _quiet(self, text: str) -> Words:
        label = Words(text)
        label.setProperty("role", "dim")
        label.setWordWrap(True)
        return label

    # -- values ---------------------------------------------------------------------------------------

    def _edit(self, name: str, value: Any) -> Edit:
        if self._shown is not None:
            stop = stop_at(self._stops().get(name, ()), value)
            return value_edit(self.workplace, self._shown, {name: value, **(stop.also if stop else {})})
        surface = replace(self.workplace.session.recorded.surface, **{name: float(value)})
        return SetDocument(surface=surface, label="Set the tile's " + name)

    def _stops(self, values: Mapping[str, Any] | None = None) -> Mapping[str, tuple[Stop, ...]]:
        """Where sliders of the node stop, with its values, which may be given if they are known."""
        if self._shown is None:
            return {}
        find = self.workplace.kinds.of(self.workplace.graph.nodes[self._shown]).stops
        if find is None:
            return {}
        values = values or {name: self._value(name) for name in self.editors}
        return find(values, self.workplace.document.surface.aspect)

    def _show_stops(self, values: Mapping[str, Any]) -> None:
        stops = self._stops(values)
        for name, editor in self.editors.items():
            if isinstance(editor, NumberEditor):
                found = stops.get(name, ())
                editor.slider.stops = tuple(stop.value for stop in found)
                here = stop_at(found, editor.slider.value)
                set_tip(editor.slider, here.says if here else "")

    def _preview(self, name: str, value: Any) -> None:
        self._attempt(name, value, self.workplace.preview)

    def _submit(self, name: str, value: Any) -> None:
        self._attempt(name, value, self.workplace.submit)

    def _attempt(self, name: str, value: Any, act: Callable[[Edit], bool]) -> None:
        try:
            act(self._edit(name, value))
        except ReedError as error:  # it follows a formula
            self.workplace.message.emit(str(error), True)

    def _value(self, name: str) -> Any:
        if self._shown is None:
            return getattr(self.workplace.document.surface, name)
        return present_values(self.workplace, self._shown)[name]

    def _refresh_all(self) -> None:
        document = self.workplace.document
        if self.several is not None:
            self.several.refresh()
        if self._shown is not None and self._shown not in self.workplace.graph.nodes:
            return
        values = {name: self._value(name) for name in self.editors}
        for name, editor in self.editors.items():
            value = values[name]
            editor.show_value(value)
            editor.show_others(values)
            changed = value != self._defaults[name]
            self.resets[name].setEnabled(changed)
            matters = editor.parameter.matters(values)
            for part in self._parts[name]:
                part.setVisible(matters)
        self._show_stops(values)
        self._refresh_driven(values)
        if self.series is not None:
            self.series.refresh()
        title = (
            document.name
            if self._shown is None
            else self.workplace.kinds.title(self.workplace.graph.nodes[self._shown])
        )
        if not self._title.hasFocus():
            self._title.setText(title)
        if self._shown is None:
            for field, line in self.about.items():
                if not line.hasFocus():
                    line.setText(self._about(field))
        self._refresh_tones()

    def _refresh_driven(self, values: Mapping[str, Any]) -> None:
        """Show a formula in the place of the editor where a value follows one."""
        if self._shown is None:
            return
        formulas = self.workplace.graph.nodes[self._shown].formulas
        following = {name for name in (*formulas, self._writing) if name in self._cells}
        for name in following | self.driven.keys():
            line = self._line(name)
            follows = name in following and self.editors[name].parameter.matters(values)
            line.setVisible(follows)
            if follows:
                for part in self._parts[name][1:3]:
                    part.hide()
                scope, labels = present_scope(self.workplace), dial_labels(self.workplace)
                line.show_formula(formulas.get(name, ""), scope, labels)

    def _refresh_tones(self) -> None:
        node_id = self._shown
        if node_id is None or node_id not in self.workplace.graph.nodes:
            return
        if self.series is not None:
            self.series.refresh()
        node, kinds = self.workplace.graph.nodes[node_id], self.workplace.kinds
        tones = self._input_tones()
        if self.strip is not None:
            marks = {p.name: float(self._value(p.name)) for p in kinds.of(node).parameters if p.mark}
            self.strip.show_tones(tones, marks)
        if kinds.of(node).shows_histogram:
            for editor in self.editors.values():
                editor.show_tones(tones)
        if self.notes is not None:
            said = [
                self.workplace.failures.get(self.workplace.flat_id(node_id), ""),
                *self.workplace.said_of(node_id),
            ]
            text = " ".join(s for s in said if s)
            self.notes.setText(text)
            self.notes.setVisible(bool(text))

    def _input_tones(self) -> Tones | None:
        assert self._shown is not None
        graph = self.workplace.graph
        declared = self.workplace.kinds.of(graph.nodes[self._shown])
        if not declared.inputs:
            return None
        end = graph.incoming(self._shown).get(declared.inputs[0].name)
        look = self.workplace.looks.get(self.workplace.at(end)) if end else None
        return look.tones if look else None

    def focus_first(self) -> None:
        """Put the keyboard on the first value."""
        editors = self.editors if self.several is None else self.several.editors
        for editor in editors.values():
            editor.setFocus()
            if isinstance(editor, NumberEditor):
                editor.field.selectAll()
            return

    def focus_name(self) -> None:
        """Put the keyboard on the name."""
        self._title.setFocus()
        self._title.selectAll()
