"""The window: puts creel, board, rail, view and settings together and carries out its commands."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, QPointF, QSettings, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QMenuBar,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from reedloom.data import shipped_weave, shipped_weaves
from reedloom.desk.board.board_commands import BoardCommands
from reedloom.desk.board.hanging import hang_at_selection, hang_tied, kinds_offered, kinds_that_fit
from reedloom.desk.board.motif_commands import MotifCommands
from reedloom.desk.board.path_bar import PathBar
from reedloom.desk.board.rail import MapRail
from reedloom.desk.board.view import BoardView
from reedloom.desk.creel.creel import Creel
from reedloom.desk.creel.finder import Finder
from reedloom.desk.creel.offered import book_file
from reedloom.desk.frame.commands import fill_menus, make_actions
from reedloom.desk.frame.docking import COLUMN, SHARES, Places
from reedloom.desk.frame.documents import Documents
from reedloom.desk.frame.help_commands import HelpCommands
from reedloom.desk.frame.lower import Lower
from reedloom.desk.frame.own_keys import OwnKeys
from reedloom.desk.frame.reuse_commands import ReuseCommands
from reedloom.desk.frame.status import StatusLine
from reedloom.desk.frame.views import Views
from reedloom.desk.look.shortcuts import set_tip_with_keys
from reedloom.desk.look.theme import DARK, LINEN, apply_theme, icon, unstyled
from reedloom.desk.look.words import Words, action_text, set_tip
from reedloom.desk.screen.workplace import SIZES, Workplace
from reedloom.desk.settings.settings_panel import SettingsPanel
from reedloom.desk.sheets.colourways_panel import ColourwaysPanel
from reedloom.desk.sheets.dial_sheet import DialSheet
from reedloom.desk.sheets.dials_panel import DialsPanel
from reedloom.weave.document import End
from reedloom.weave.edits import Batch, EachOf, Edit, GraphEdit, NameInlet, SetParameters
from reedloom.weave.motifs import is_inlet, used_motif

DEMO = "lakebed-clay"
KINDS_AFTER = 150
"""Milliseconds after which the kinds' modules are read, if nothing has needed them: before the first key,
and after the window is painted."""
SELECTION_MENU = (
    "pin_a", "pin_b", "", "duplicate", "mute", "rename", "take_out", "swap_inputs", "",
    "frame_in_bay", "pack_motif", "delete",
)  # fmt: skip
MOTIF_MENU = (
    "go_in", "pin_a", "pin_b", "", "duplicate", "mute", "rename", "describe_motif", "", "unpack_motif",
    "fork_motif", "pull_motif", "keep_in_book", "pack_motif", "delete",
)  # fmt: skip
GROUND_MENU = ("find_kind", "paste", "add_note", "", "arrange", "fit_all")


class Window(QMainWindow):
    """The one window of the workbench."""

    def __init__(self) -> None:
        super().__init__()
        with unstyled():
            self._build()
        self._connect()
        self._pending_end: tuple[End, bool] | None = None
        self._hang_at = QPointF()
        self._refresh_title()
        if theme_is_linen():
            self.actions_["use_linen"].setChecked(True)
        QTimer.singleShot(0, self.board.show_opened)
        QTimer.singleShot(KINDS_AFTER, lambda: len(self.workplace.kinds))
        QTimer.singleShot(1500, self.creel.shelf.look)
        self.board.setFocus()

    # -- building -------------------------------------------------------------------------------------

    def _build(self) -> None:
        """Make everything in the window."""
        self.workplace = Workplace()
        self.board = BoardView(self.workplace)
        self.rail = MapRail(self.workplace)
        self.views = Views(self.workplace)
        self.flat = self.views.flat
        self.settings = SettingsPanel(self.workplace)
        self.dials = DialsPanel(self.workplace)
        self.colourways = ColourwaysPanel(self.workplace)
        self.panels = Lower({"settings": self.settings, "dials": self.dials, "colourways": self.colourways})
        self.documents = Documents(self.workplace, self)
        self.board_commands = BoardCommands(self.workplace, self.board, self)
        self.reuse = ReuseCommands(self)
        self.motif_commands = MotifCommands(self.workplace, self.board, self)
        self.help = HelpCommands(self)
        self.status = StatusLine(self.workplace)
        self.resize(1280, 800)
        self._lay_out()
        self.finder = Finder(self.central)
        self.actions_ = make_actions(
            self,
            self.board,
            (
                self,
                self.reuse,
                self.board_commands,
                self.motif_commands,
                self.board,
                self.places,
                self.help,
                self.workplace.paths_in_hand,
            ),
        )
        self.own_keys = OwnKeys(self.actions_)
        self._build_top()

    def _lay_out(self) -> None:
        self.central = QWidget()
        self.creel = Creel(self.workplace, self.central)
        middle = QWidget()
        self.middle = box = QVBoxLayout(middle)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        self.path_bar = PathBar(self.workplace)
        box.addWidget(self.path_bar)
        box.addWidget(self.board, 1)
        box.addWidget(self.rail)
        self.column = QSplitter(Qt.Orientation.Vertical)
        self.column.setObjectName("column")
        self.column.addWidget(self.views)
        self.column.addWidget(self.panels)
        self.column.setSizes(list(SHARES))
        self.column.setCollapsible(0, False)
        across = QSplitter(Qt.Orientation.Horizontal)
        across.addWidget(middle)
        across.addWidget(self.column)
        across.setStretchFactor(0, 1)
        across.setCollapsible(0, False)
        across.setSizes([1280 - 52 - COLUMN, COLUMN])
        for splitter in (self.column, across):
            splitter.setHandleWidth(5)
        across.splitterMoved.connect(lambda *_: self.board.viewport().update())
        row = QHBoxLayout(self.central)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.creel)
        row.addWidget(across, 1)
        self.places = Places(self.column, self.views, self.panels, [middle, self.creel])
        self._sheet: DialSheet | None = None
        self.pages = QStackedWidget()
        self.pages.addWidget(self.central)
        self.setCentralWidget(self.pages)
        self.setStatusBar(self.status)

    @property
    def sheet(self) -> DialSheet:
        """The dial sheet, made when it is first wanted."""
        if self._sheet is None:
            self._sheet = DialSheet(self.workplace)
            self._sheet.try_out_asked.connect(self.reuse.try_out)
            self._sheet.left.connect(lambda: self.actions_["dial_sheet"].setChecked(False))
            self.pages.addWidget(self._sheet)
        return self._sheet

    @property
    def on_sheet(self) -> bool:
        """Whether the dial sheet is shown instead of the board."""
        return self._sheet is not None and self.pages.currentWidget() is self._sheet

    def _build_top(self) -> None:
        bar = QMenuBar()
        menus = fill_menus(bar, self.actions_)
        self.recent_menu = menus["File"].addMenu("Recent")
        menus["File"].insertMenu(self.actions_["save"], self.recent_menu)
        self.demo_menu = QMenu("Demo weaves", self)
        for name in shipped_weaves():
            action = self.demo_menu.addAction(name.replace("-", " ").capitalize())
            action.triggered.connect(partial(self.open_shipped, name))
        menus["File"].insertMenu(self.actions_["save"], self.demo_menu)
        self.name = Words()
        self.name.setProperty("role", "title")
        self.size_choice = QComboBox()
        for size in SIZES:
            self.size_choice.addItem(str(size), size)
        self.size_choice.setCurrentIndex(SIZES.index(self.workplace.view_size))
        set_tip(self.size_choice, "Samples across the tile in the view; as many down as keep them square")
        self.size_choice.setAccessibleName("Size of the view's maps")
        self.deliver_button = QPushButton("Deliver…")
        self.deliver_button.setProperty("main", "true")
        self.deliver_button.setIcon(icon("deliver", colour="on_accent"))
        set_tip_with_keys(self.deliver_button, "Write the map set as files", "deliver")
        self.deliver_button.clicked.connect(self.deliver)
        top = QWidget()
        top.setObjectName("topbar")
        row = QHBoxLayout(top)
        row.setContentsMargins(4, 4, 10, 4)
        row.setSpacing(6)
        row.addWidget(bar)
        divider = QFrame()
        divider.setFrameShape(QFrame.Shape.VLine)
        divider.setFixedHeight(20)
        row.addWidget(divider)
        row.addSpacing(6)
        row.addWidget(self.name)
        row.addStretch()
        self.step_buttons = {name: self._step_button(self.actions_[name], name) for name in ("undo", "redo")}
        for button in self.step_buttons.values():
            row.addWidget(button)
        row.addSpacing(8)
        row.addWidget(Words("View size"))
        row.addWidget(self.size_choice)
        row.addSpacing(8)
        row.addWidget(self.deliver_button)
        self.setMenuWidget(top)

    def _step_button(self, action: QAction, name: str) -> QToolButton:
        button = QToolButton()
        button.setProperty("quiet", "true")
        button.setIcon(icon(name))
        button.setIconSize(QSize(20, 20))
        button.setAccessibleName(action.text())
        set_tip_with_keys(button, action.text, name)
        button.clicked.connect(action.trigger)
        return button

    def _connect(self) -> None:
        w = self.workplace
        w.document_changed.connect(lambda _: self._refresh_title())
        w.document_replaced.connect(self._refresh_title)
        self.documents.saved.connect(self._refresh_title)
        self.size_choice.activated.connect(lambda i: w.set_view_size(self.size_choice.itemData(i)))
        self.board.channel_under = self.rail.channel_at
        self.board.slot_place = self.rail.place_of
        self.board.rail_hovered.connect(lambda at: self.rail.mark_wanted(self.rail.channel_at(at)))
        self.board.typed.connect(self._open_finder)
        self.board.offer_fitting.connect(self._offer_fitting)
        self.board.edit_text.connect(self.board_commands.edit_text)
        self.board.pin_asked.connect(self._pin_selected)
        self.board.menu_asked.connect(self._open_board_menu)
        self.board_commands.renamed.connect(self._focus_name)
        self.board.swatch_dropped.connect(self.reuse.hang_from_book)
        self.rail.shown.connect(self.flat.show_map)
        self.places.on_back = lambda name: self.actions_[name].setChecked(False)
        for name, button in self.views.place_buttons.items():
            button.clicked.connect(self.actions_[name].toggle)
        w.pick_asked.connect(self._pick_colours)
        w.paths_in_hand.show_asked.connect(self._show_paths)
        self.finder.chosen.connect(self._hang)
        self.finder.closed.connect(self._after_finder)
        self.creel.chosen.connect(self._hang_from_creel)
        self.documents.recent_changed.connect(self._fill_recent)
        self._fill_recent()

    # -- what the window says -------------------------------------------------------------------------

    def _refresh_title(self) -> None:
        session = self.workplace.session
        name = self.workplace.document.name
        star = "" if session.is_saved else " •"
        self.setWindowTitle(f"{name}{star}")
        self.name.setText(name + star)
        set_tip(
            self.name,
            str(self.workplace.path or "Not saved to a file yet") + (" (unsaved changes)" if star else ""),
        )
        for method, label, word in (
            ("undo", session.undo_label, "Undo"),
            ("redo", session.redo_label, "Redo"),
        ):
            action = self.actions_[method]
            action.setEnabled(label is not None)
            action.setText(action_text(f"{word} {label.lower()}" if label else word))
            button = self.step_buttons[method]
            button.setEnabled(label is not None)

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        for path in self.documents.recent():
            action = self.recent_menu.addAction(action_text(path.name))
            set_tip(action, str(path))
            action.triggered.connect(partial(self.documents.open, path))
        self.recent_menu.setEnabled(not self.recent_menu.isEmpty())

    # -- files ----------------------------------------------------------------------------------------

    def new_weave(self) -> None:
        """Begin an empty weave."""
        self.documents.new()

    def open_weave(self) -> None:
        """Open a weave from a file."""
        self.documents.open()

    def open_demo(self) -> None:
        """Open a copy of the demo weave."""
        self.open_shipped(DEMO)

    def open_shipped(self, name: str, checked: bool = False) -> None:
        """Open a copy of a shipped weave."""
        if self.documents.may_leave():
            self.documents.open_now(shipped_weave(name), as_copy=True)

    def save(self) -> None:
        """Save the weave."""
        self.documents.save()

    def save_as(self) -> None:
        """Save the weave to another file."""
        self.documents.save_as()

    def deliver(self) -> None:
        """Open the deliver dialog."""
        from reedloom.desk.sheets.deliver_dialog import DeliverDialog

        stored = QSettings().value("deliver/folder", "")
        folder = Path(str(stored)) if stored else (self.workplace.path or Path.home() / "x").parent / "maps"
        DeliverDialog(self.workplace, folder, self).exec()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.documents.may_leave():
            self.documents.close_down()
            self.places.close_all()
            self.views.lit.close_down()
            self.flat.close_down()
            self.colourways.close_down()
            if self._sheet is not None:
                self._sheet.close_down()
            self.reuse.close_down()
            self.creel.shelf.close()
            self.workplace.close()
            event.accept()
        else:
            event.ignore()

    def undo(self) -> None:
        """Take the last step back."""
        label = self.workplace.session.undo()
        self.workplace.message.emit(f"Undid: {label}" if label else "There is nothing to undo.", False)

    def redo(self) -> None:
        """Bring the undone step back."""
        label = self.workplace.session.redo()
        self.workplace.message.emit(f"Redid: {label}" if label else "There is nothing to redo.", False)

    # -- hanging nodes --------------------------------------------------------------------------------

    def find_kind(self) -> None:
        """Open the finder."""
        self._open_finder("")

    def _open_finder(self, text: str) -> None:
        self._pending_end = None
        selected = self.workplace.selected_nodes
        inside = (
            self.board.viewport()
            .rect()
            .contains(self.board.viewport().mapFromGlobal(self.board.cursor().pos()))
        )
        if selected and not inside:
            self._hang_at = self.board_commands.place_below(selected)
        else:
            self._hang_at = self.board.pointer_place()
        at = self.board.viewport().mapToGlobal(self.board.mapFromScene(self._hang_at))
        offered = (*kinds_offered(self.workplace), *self.creel.shelf.kinds)
        self.creel.shelf.look()
        self.finder.open_with(text, offered, self.central.mapFromGlobal(at))

    def _offer_fitting(self, end: End, is_output: bool, at: QPoint) -> None:
        self._pending_end = (end, is_output)
        self._hang_at = self.board.mapToScene(self.board.viewport().mapFromGlobal(at))
        w = self.workplace
        offered = {kind.id for kind in kinds_offered(w)}
        fitting = [k for k in kinds_that_fit(w.graph, w.kinds, end, is_output) if k.id in offered]
        self.finder.open_with("", fitting, self.central.mapFromGlobal(at))

    def _hang(self, kind_id: str, values: Mapping[str, Any] | None = None) -> None:
        path = book_file(kind_id)
        if path is not None:
            self.reuse.hang_from_book(path, self._hang_at)
            return
        graph, kinds = self.workplace.graph, self.workplace.kinds
        place = self.board.free_place(self._hang_at)
        where = (round(place.x()), round(place.y()))
        if self._pending_end is not None:
            edit, node_id = hang_tied(graph, kinds, kind_id, where, *self._pending_end)
        else:
            edit, node_id = hang_at_selection(graph, kinds, kind_id, where, self.workplace.selected_nodes)
        self._pending_end = None
        if values:
            edit = Batch(edit.label, (edit, SetParameters(node_id, values)))
        if self.workplace.submit(self._with_notch(kind_id, node_id, edit)):
            self.workplace.select({node_id})
            self.board.ensure_seen(node_id)
            self._show_if_nothing_is(node_id)
        self.board.setFocus()

    def _with_notch(self, kind_id: str, node_id: str, edit: GraphEdit) -> Edit:
        """The edit that hangs a node; for an inlet, with the notch of the motif that it stands for."""
        w = self.workplace
        if not is_inlet(kind_id):
            return edit
        label = node_id.replace("_", " ").capitalize()
        return EachOf("Add inlet", (NameInlet(w.session.motif, node_id, label), w.session.lift(edit)))

    def _hang_from_creel(self, kind_id: str, values: Mapping[str, Any]) -> None:
        selected = self.workplace.selected_nodes
        middle = self.board.mapToScene(self.board.viewport().rect().center())
        self._hang_at = self.board_commands.place_below(selected) if selected else middle - QPointF(60, 60)
        self._pending_end = None
        self._hang(kind_id, values)

    def _show_if_nothing_is(self, node_id: str) -> None:
        """While nothing is tied to the rail, the newest node is what the maker wants to see."""
        w = self.workplace
        if not w.document.graph.ends and w.pins["B"] is None:
            w.pin("A", End(node=node_id, port=w.kinds.of(w.graph.nodes[node_id]).outputs[0].name))

    def _after_finder(self) -> None:
        self.board.setFocus()

    def _open_board_menu(self, at: QPoint) -> None:
        menu = QMenu(self)
        node = self.workplace.selected_node
        names: tuple[str, ...] = SELECTION_MENU if self.workplace.selection else GROUND_MENU
        if node is not None and used_motif(self.workplace.graph.nodes[node].kind):
            names = MOTIF_MENU
        for name in names:
            if name:
                menu.addAction(self.actions_[name])
            else:
                menu.addSeparator()
        menu.exec(at)

    # -- views ----------------------------------------------------------------------------------------

    def pin_a(self) -> None:
        """Put the selected node's result on pin A."""
        self._pin_selected("A")

    def pin_b(self) -> None:
        """Put the selected node's result on pin B."""
        self._pin_selected("B")

    def _pin_selected(self, name: str) -> None:
        """Pin the selected node; asked again, its next output."""
        node_id = self.workplace.selected_node
        if node_id is None:
            self.workplace.message.emit("Select one node to look at.", True)
            return
        outputs = [p.name for p in self.workplace.kinds.of(self.workplace.graph.nodes[node_id]).outputs]
        pinned = self.workplace.pins[name]
        port = outputs[0]
        if pinned is not None and pinned.node == self.workplace.flat_id(node_id):
            port = outputs[(outputs.index(pinned.port) + 1) % len(outputs)]
        self.workplace.pin(name, End(node=node_id, port=port))

    def show_material(self) -> None:
        """Take the pins off, so that the view shows the material."""
        self.workplace.unpin()

    def show_lit(self) -> None:
        """Show the material on an object in light."""
        self.views.show_view("lit")

    def _show_paths(self) -> None:
        """Show the flat view with the selected node's drawn paths over it."""
        if not self.flat.isVisible():
            self.views.show_view("flat")
        node = self.workplace.selected_node
        if node is not None and not self.flat.shows_paths():
            self._pin_selected("A")
        self.flat.canvas.setFocus()

    def show_flat(self) -> None:
        """Show maps as pictures."""
        self.views.show_view("flat")

    def show_both(self) -> None:
        """Show the lit and the flat view together."""
        self.views.show_view("both")

    def keep_viewpoint(self) -> None:
        """Keep where the lit view looks from, with the weave."""
        self.views.lit.keep_viewpoint()

    def _pick_colours(self, along_line: bool, take: Callable[[list[tuple[float, ...]]], None]) -> None:
        if not self.flat.isVisible():
            self.views.show_view("flat")
            self.flat.refresh()
        self.flat.start_picking(along_line, take)

    def try_values(self) -> None:
        """Show five results for the value that has the keyboard."""
        self.settings.try_focused()

    def toggle_seam(self, on: bool) -> None:
        """Mark where tiles meet."""
        self.flat.buttons["seam"].setChecked(on)

    def next_repeat(self) -> None:
        """Repeat the tile once more, up to 3×3."""
        index = (self.flat.repeat.currentIndex() + 1) % self.flat.repeat.count()
        self.flat.repeat.setCurrentIndex(index)
        self.flat.repeat.activated.emit(index)

    def show_cost(self, on: bool) -> None:
        """Show the time each node took."""
        self.board.board.set_show_cost(on)

    def use_linen(self, on: bool) -> None:
        """Change between the dark and the linen theme."""
        chosen = LINEN if on else DARK
        QSettings().setValue("theme", chosen.name)
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        apply_theme(application, chosen)
        self.creel.refresh_icons()
        self.views.refresh_icons()
        for name, button in self.step_buttons.items():
            button.setIcon(icon(name))
        self.deliver_button.setIcon(icon("deliver", colour="on_accent"))
        self.settings.rebuild()
        self.board.board.rebuild()
        self.board.viewport().update()

    # -- going to places ------------------------------------------------------------------------------

    def focus_board(self) -> None:
        """Give the keyboard to the board."""
        self.board.setFocus()

    def focus_settings(self) -> None:
        """Give the keyboard to the first value in the settings."""
        self.panels.show_panel("settings")
        self.settings.focus_first()

    def _focus_name(self) -> None:
        self.panels.show_panel("settings")
        self.settings.focus_name()

    def focus_rail(self) -> None:
        """Give the keyboard to the map rail."""
        next(iter(self.rail.slots.values())).setFocus()

    def focus_creel(self) -> None:
        """Give the keyboard to the creel."""
        next(iter(self.creel.buttons.values())).setFocus()


def theme_is_linen() -> bool:
    """Whether the maker chose the light theme."""
    return str(QSettings().value("theme", "dark")) == LINEN.name
