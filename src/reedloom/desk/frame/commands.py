"""Every command by name: its menu, its shortcut and what it calls. One table; nothing else lists them.

Letters stay free for the finder, so shortcuts use Ctrl, Alt, digits and function keys.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct
from PySide6.QtCore import Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget

MENUS = ("File", "Edit", "Board", "Paths", "View", "Help")


class Command(Struct, frozen=True):
    """One command.

    Attributes
    ----------
    method : str
        The method that carries it out.
    keys : str
        What it comes with; a maker may give it others.
    board : bool
        Whether its shortcut works only while the board has the keyboard.
    checkable : bool
        Whether it is switched on and off.
    also : str
        What else a maker may look for it by.
    """

    method: str
    label: str
    menu: str
    keys: str = ""
    board: bool = False
    checkable: bool = False
    divider: bool = False
    also: str = ""

    @property
    def name(self) -> str:
        """The label without what says that a question follows."""
        return self.label.rstrip("…")


COMMANDS = (
    Command("new_weave", "New weave", "File", "Ctrl+N", also="blank empty"),
    Command("open_weave", "Open…", "File", "Ctrl+O"),
    Command("open_demo", "Open the demo weave", "File"),
    Command("save", "Save", "File", "Ctrl+S", divider=True),
    Command("save_as", "Save as…", "File", "Ctrl+Shift+S"),
    Command("swatch_book", "Swatch book", "File", "Ctrl+Shift+O", divider=True, also="library browse"),
    Command("keep_in_book", "Keep in the swatch book…", "File", "Ctrl+Alt+S", also="library"),
    Command("deliver", "Deliver maps…", "File", "Ctrl+Return", divider=True, also="export write files"),
    Command("close", "Quit", "File", "Ctrl+Q", divider=True, also="exit"),
    Command("undo", "Undo", "Edit", "Ctrl+Z"),
    Command("redo", "Redo", "Edit", "Ctrl+Shift+Z"),
    Command("cut", "Cut", "Edit", "Ctrl+X", board=True, divider=True),
    Command("copy", "Copy", "Edit", "Ctrl+C", board=True),
    Command("paste", "Paste", "Edit", "Ctrl+V", board=True),
    Command("duplicate", "Duplicate", "Edit", "Ctrl+D", divider=True),
    Command("duplicate_tied", "Duplicate with incoming threads", "Edit", "Ctrl+Shift+D"),
    Command("delete", "Delete", "Edit", "Del", board=True, divider=True, also="remove"),
    Command("delete_closing", "Delete and close up threads", "Edit", "Ctrl+Del", board=True, also="remove"),
    Command("select_all", "Select all", "Edit", "Ctrl+A", board=True, divider=True),
    Command("find_kind", "Hang a node…", "Board", "Ctrl+Space", also="add insert new"),
    Command("tie_selected", "Tie selected nodes together", "Board", "Ctrl+T", divider=True, also="connect"),
    Command("untie_selected", "Untie selected nodes", "Board", "Ctrl+U", also="disconnect"),
    Command("take_out", "Take out of the thread", "Board", "Ctrl+K", also="disconnect unhook"),
    Command("swap_inputs", "Swap the first two inputs", "Board", "Ctrl+I"),
    Command("mute", "Mute or unmute", "Board", "Ctrl+M", divider=True, also="switch off bypass"),
    Command("rename", "Rename", "Board", "F2"),
    Command("pack_motif", "Pack into a motif…", "Board", "Ctrl+Shift+B", divider=True, also="group"),
    Command("go_in", "Go into the motif", "Board", "Ctrl+Down"),
    Command("go_out", "Go out of the motif", "Board", "Ctrl+Up"),
    Command("unpack_motif", "Unpack the motif", "Board", "Ctrl+Shift+U", also="ungroup"),
    Command("fork_motif", "Fork: a motif of its own", "Board", "Ctrl+Shift+K"),
    Command("pull_motif", "Look for a newer motif…", "Board"),
    Command("describe_motif", "Name and purpose of the motif…", "Board"),
    Command("frame_in_bay", "Frame in a bay", "Board", "Ctrl+B", divider=True, also="group box"),
    Command("add_note", "Write a note", "Board", "Ctrl+Shift+T", also="comment text"),
    Command("arrange", "Arrange", "Board", "Ctrl+L", divider=True, also="tidy layout"),
    Command("align_row", "Hang in a row", "Board", "Ctrl+Shift+L", also="align side"),
    Command("align_column", "Hang in a column", "Board", "Ctrl+Alt+L", also="align below"),
    Command("fit_all", "Show the whole board", "Board", "F6", divider=True, also="zoom overview"),
    Command("fit_selection", "Show the selection", "Board", "F7", also="zoom"),
    Command("draw_paths", "Draw by hand", "Paths", "Ctrl+Alt+D"),
    Command("sharpen_knots", "Sharp or smooth knots", "Paths", "Ctrl+Alt+H", divider=True),
    Command("join_ends", "Join ends, or close", "Paths", "Ctrl+Alt+N"),
    Command("cut_paths", "Cut after chosen knots", "Paths", "Ctrl+Alt+X"),
    Command("reverse_paths", "Reverse paths", "Paths", "Ctrl+Alt+R"),
    Command("double_paths", "Double paths", "Paths", "Ctrl+Alt+C"),
    Command("delete_knots", "Delete knots", "Paths", "Ctrl+Alt+Del"),
    Command("pin_a", "Put on pin A", "View", "1", also="inspect"),
    Command("pin_b", "Put on pin B", "View", "2", also="compare"),
    Command("show_material", "Show the material", "View", "0"),
    Command("show_lit", "Lit view", "View", "F5", divider=True),
    Command("show_flat", "Flat view", "View", "Shift+F5"),
    Command("show_both", "Lit and flat views", "View", "Ctrl+F5"),
    Command("try_values", "Try values", "Edit", "Ctrl+E", divider=True, also="compare samples"),
    Command("copy_value", "Copy the value", "Edit", "Ctrl+Alt+K"),
    Command("paste_value", "Paste the value", "Edit", "Ctrl+Alt+V"),
    Command("make_dial", "Make a dial of the value", "Edit", "Ctrl+J", also="expose"),
    Command("write_formula", "Write a formula for the value", "Edit", "Ctrl+Shift+J", also="expression"),
    Command("let_go", "Let the value go its own way", "Edit", "Ctrl+Alt+J", also="formula dial"),
    Command("keep_colourway", "Keep the dials as a colourway…", "Edit", "Ctrl+Shift+C", divider=True),
    Command("try_out", "Try out…", "View", "Ctrl+Shift+E", also="variants grid"),
    Command("next_colourway", "Put the next colourway on", "View", "F11"),
    Command("dial_sheet", "Dial sheet", "View", "F12", checkable=True, divider=True),
    Command("large_view", "Large view", "View", "F10", checkable=True, divider=True, also="full big"),
    Command("view_apart", "View in a window of its own", "View", "Ctrl+F10", checkable=True),
    Command("settings_apart", "Settings in a window of their own", "View", "Shift+F10", checkable=True),
    Command("keep_viewpoint", "Keep the lit view's view point…", "View", "Ctrl+F4", divider=True),
    Command("toggle_seam", "Mark the seam", "View", "F4", checkable=True, divider=True, also="border edge"),
    Command("next_repeat", "Repeat the tile", "View", "F3", also="tiling"),
    Command("show_cost", "Show cost", "View", "F8", checkable=True, divider=True, also="time slow"),
    Command("use_linen", "Linen theme", "View", "F9", checkable=True, also="light bright"),
    Command("focus_board", "Go to the board", "View", "Alt+1", divider=True),
    Command("focus_settings", "Go to the settings", "View", "Alt+2"),
    Command("focus_rail", "Go to the map rail", "View", "Alt+3"),
    Command("focus_creel", "Go to the creel", "View", "Alt+4"),
    Command("focus_dials", "Go to the dials", "View", "Alt+5"),
    Command("focus_colourways", "Go to the colourways", "View", "Alt+6"),
    Command("find_command", "Find a command…", "Help", "Ctrl+Shift+Space", also="shortcut keys"),
    Command("show_keys", "Keys and hands", "Help", "F1", also="shortcuts manual"),
    Command("copy_report", "Copy a report", "Help", also="bug problem"),
    Command("show_about", "About Reed Loom", "Help"),
)


def make_actions(window: QWidget, board: QWidget, handlers: Sequence[object]) -> dict[str, QAction]:
    """An action for each command, by its method's name; the first handler that has the method is called.

    They have no keys yet: see `OwnKeys`.
    """
    actions: dict[str, QAction] = {}
    for command in COMMANDS:
        action = QAction(command.label, window)
        action.setCheckable(command.checkable)
        owner = next(h for h in handlers if hasattr(h, command.method))
        call: Callable[..., None] = getattr(owner, command.method)
        if command.checkable:
            action.toggled.connect(call)
        else:
            action.triggered.connect(lambda _checked=False, c=call: c())
        if command.board:
            action.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            board.addAction(action)
        else:
            window.addAction(action)
        actions[command.method] = action
    return actions


def fill_menus(bar: QMenuBar, actions: dict[str, QAction]) -> dict[str, QMenu]:
    """The menus, by name."""
    menus = {name: bar.addMenu(name) for name in MENUS}
    for command in COMMANDS:
        if command.divider:
            menus[command.menu].addSeparator()
        menus[command.menu].addAction(actions[command.method])
    return menus
