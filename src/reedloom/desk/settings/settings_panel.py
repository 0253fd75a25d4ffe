"""The settings of the selected node; of the weave itself when no node is selected."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.look.swatch import swatch_pixmap
from reedloom.desk.look.theme import icon
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.editor import Editor
from reedloom.desk.settings.editors import make_editor
from reedloom.desk.settings.editors.numbers import NumberEditor
from reedloom.desk.settings.series import SeriesList
from reedloom.desk.settings.tone_marks import ToneStrip
from reedloom.desk.settings.try_strip import TryStrip
from reedloom.kit.parameters import Float, Parameter
from reedloom.preview.encodings import Tones
from reedloom.weave.edits import SetDocument, SetNode, SetParameters

SURFACE = (
    Float(
        "width", 1.0, (0.1, 4.0), (1e-6, 1e6), unit="m", help="How wide the tile is in the world, in metres."
    ),
    Float(
        "height", 1.0, (0.1, 4.0), (1e-6, 1e6), unit="m", help="How high the tile is in the world, in metres."
    ),
    Float("depth", 0.05, (0.0, 0.5), (0.0, 1e6), unit="m", help="From height 0 to height 1, in metres."),
)


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
        self._rows: dict[QObject, Parameter] = {}
        self._parts: dict[str, tuple[QWidget, ...]] = {}
        self.notes: Words | None = None
        self._shown: str | None = "\0"
        self._defaults: dict[str, Any] = {}
        self._helps: dict[str, str] = {}
        workplace.selection_changed.connect(self._rebuild_if_other)
        workplace.document_replaced.connect(self.rebuild)
        workplace.document_changed.connect(lambda _: self._refresh_all())
        workplace.looks_changed.connect(lambda _: self._refresh_tones())
        self.rebuild()

    def _rebuild_if_other(self) -> None:
        if self.workplace.selected_node != self._shown:
            self.rebuild()

    def rebuild(self) -> None:
        """Make the editors for what is selected now."""
        focused = self.focusWidget()
        if focused is not None:
            focused.clearFocus()  # what is typed half-way is taken while its editor still stands
        node_id = self.workplace.selected_node
        self._shown = node_id
        self.editors, self.resets, self.strip, self.notes, self.series = {}, {}, None, None, None
        self._rows, self._parts = {}, {}
        self.tries.close_up()
        body = QWidget()
        self._layout = QVBoxLayout(body)
        self._layout.setContentsMargins(14, 10, 12, 14)
        self._layout.setSpacing(6)
        if node_id is None:
            self._build_weave()
        else:
            self._build_node(node_id)
        self._layout.addStretch()
        self.setWidget(body)
        self._refresh_all()

    # -- the weave ------------------------------------------------------------------------------------

    def _build_weave(self) -> None:
        count = len(self.workplace.selected_nodes)
        title = QLineEdit(self.workplace.document.name)
        title.setProperty("role", "title")
        title.setAccessibleName("Name of the weave")
        title.editingFinished.connect(lambda: self._rename_weave(title.text()))
        self._title = title
        self._layout.addWidget(title)
        text = f"{count} nodes are selected." if count else "Select a card to set its values."
        self._layout.addWidget(self._quiet(text))
        self._layout.addSpacing(4)
        self._layout.addWidget(self._heading("The tile in the world"))
        self._add_rows(SURFACE)

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
        self._layout.addWidget(self._quiet(kind + declared.purpose))
        self.notes = self._quiet("")
        self.notes.setProperty("role", "warning")
        self._layout.addWidget(self.notes)
        if any(p.mark for p in declared.parameters):
            self.strip = ToneStrip()
            self.strip.changing.connect(self._preview)
            self.strip.changed.connect(self._submit)
            self._layout.addWidget(self.strip)
        self._add_rows(tuple(p for p in declared.parameters if not p.series))
        if any(p.series for p in declared.parameters):
            self.series = SeriesList(self.workplace, node_id)
            self.series.changing.connect(self._preview)
            self.series.changed.connect(self._submit)
            self._layout.addWidget(self.series)
        if not declared.parameters:
            self._layout.addWidget(self._quiet("There is nothing to set here."))

    def _rename_node(self, node_id: str, name: str) -> None:
        node = self.workplace.graph.nodes.get(node_id)
        if node is not None:
            plain = "" if name.strip() == self.workplace.kinds.of(node).label else name.strip()
            if plain != node.name:
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
            reset = QToolButton()
            reset.setIcon(icon("reset", 14))
            reset.setProperty("quiet", "true")
            set_tip(reset, "Back to the default")
            reset.setAccessibleName(f"Reset {parameter.title}")
            reset.clicked.connect(lambda _=False, p=parameter: self._submit(p.name, p.default))
            text = f"{parameter.help}{parameter.measure}"
            editor.setAccessibleDescription(text)
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
            if editor.tall:
                grid.addWidget(reset, row, 2)
                grid.addWidget(editor, row + 1, 0, 1, 3)
            else:
                grid.addWidget(editor, row, 1)
                grid.addWidget(reset, row, 2)
            self.editors[parameter.name], self.resets[parameter.name] = editor, reset
            self._parts[parameter.name] = (label, editor, reset)
            self._defaults[parameter.name] = parameter.default
        self._layout.addLayout(grid)

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
        focused = QApplication.focusWidget()
        for name, editor in self.editors.items():
            if self._shown is not None and focused is not None and editor.isAncestorOf(focused):
                self.tries.open_for(editor.parameter, self._shown, self._helps[name], editor)
                self.tries.take_keys()
                return
        self.workplace.message.emit("Put the keyboard on a value first.", True)

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

    def _edit(self, name: str, value: Any) -> SetParameters | SetDocument:
        if self._shown is not None:
            return SetParameters(self._shown, {name: value})
        surface = replace(self.workplace.session.recorded.surface, **{name: float(value)})
        return SetDocument(surface=surface, label="Set the tile's " + name)

    def _preview(self, name: str, value: Any) -> None:
        self.workplace.preview(self._edit(name, value))

    def _submit(self, name: str, value: Any) -> None:
        self.workplace.submit(self._edit(name, value))

    def _value(self, name: str) -> Any:
        document = self.workplace.document
        if self._shown is None:
            return getattr(document.surface, name)
        return self.workplace.kinds.value(self.workplace.graph.nodes[self._shown], name)

    def _refresh_all(self) -> None:
        document = self.workplace.document
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
        if self.series is not None:
            self.series.refresh()
        title = (
            document.name
            if self._shown is None
            else self.workplace.kinds.title(self.workplace.graph.nodes[self._shown])
        )
        if not self._title.hasFocus():
            self._title.setText(title)
        self._refresh_tones()

    def _refresh_tones(self) -> None:
        node_id = self._shown
        if node_id is None or node_id not in self.workplace.graph.nodes:
            return
        if self.series is not None:
            self.series.refresh()
        node, kinds = self.workplace.graph.nodes[node_id], self.workplace.kinds
        tones = self._input_tones()
        if self.strip is not None:
            marks = {p.name: float(kinds.value(node, p.name)) for p in kinds.of(node).parameters if p.mark}
            self.strip.show_tones(tones, marks)
        if kinds.of(node).shows_histogram:
            for editor in self.editors.values():
                editor.show_tones(tones)
        if self.notes is not None:
            said = [self.workplace.failures.get(node_id, ""), *self.workplace.said_of(node_id)]
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
        look = self.workplace.looks.get(end) if end else None
        return look.tones if look else None

    def focus_first(self) -> None:
        """Put the keyboard on the first value."""
        for editor in self.editors.values():
            editor.setFocus()
            if isinstance(editor, NumberEditor):
                editor.field.selectAll()
            return

    def focus_name(self) -> None:
        """Put the keyboard on the name."""
        self._title.setFocus()
        self._title.selectAll()
