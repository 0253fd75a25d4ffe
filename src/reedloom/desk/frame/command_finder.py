"""The command finder: every command by name, carried out with Enter, given other keys with F2."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, QSize, Qt
from PySide6.QtGui import QAction, QFontMetrics, QKeyEvent, QKeySequence, QPainter
from PySide6.QtWidgets import QApplication, QStyledItemDelegate, QStyleOptionViewItem, QWidget
from shiboken6 import isValid

from reedloom.desk.frame.commands import COMMANDS, Command
from reedloom.desk.frame.own_keys import NOT_FREE, OwnKeys, is_whole, may_be_keys
from reedloom.desk.look import shortcuts
from reedloom.desk.look.floating_search import THING_ROLE, FloatingSearch
from reedloom.desk.look.lists import is_chosen, paint_chosen
from reedloom.desk.look.theme import small_font, theme
from reedloom.kinds.search import best_first, how_well

ROW = 32
PLACE = QPoint(64, 48)
"""On the board beside the creel, so that the views stay in sight."""
WAITING = "Backspace: as it came · Delete: none · Esc: leaves it"
Key = Qt.Key


def find_commands(text: str) -> list[Command]:
    """The commands that fit a text, best first; all of them, as in the menus, for an empty text."""
    words = text.lower().split()

    def points(command: Command) -> int:
        return how_well(words, (command.name.lower(),), command.also.split(), command.menu.lower())

    return best_first(COMMANDS, points) if words else list(COMMANDS)


class CommandFinder(FloatingSearch):
    """A floating search over commands."""

    def __init__(self, window: QWidget, actions: Mapping[str, QAction], keys: OwnKeys) -> None:
        super().__init__(
            window,
            find=find_commands,
            take=lambda command: actions[command.method].trigger(),
            asks="Which command?",
            hint="Enter does it · F2 gives it other keys · Esc closes",
            nothing="No command of that name; try what it should do, such as “export”.",
        )
        self._window, self._keys = window, keys
        self._drawn = CommandRow(self.rows, actions)
        self._before: QWidget | None = None
        """What had the keyboard: commands are for that."""
        self.line.setAccessibleName("Find a command")
        self.rows.setItemDelegate(self._drawn)
        self.resize(470, 426)
        self.closed.connect(self._give_keyboard_back)

    def find_command(self) -> None:
        """Open the finder over the window."""
        if not self.isVisible():
            self._before = QApplication.focusWidget()
        self.open_at("", self._window.rect().topLeft() + PLACE)

    def choose(self) -> None:
        """Carry the chosen command out, if that can be done now."""
        command = self.chosen_thing
        if command is not None and not self._drawn.can(command):
            self.hint.setText(f"{command.name}: there is nothing it could be done to now.")
            return
        super().choose()

    def search(self, text: str) -> None:
        """Show what fits; a search ends waiting for keys."""
        self._wait_for(None, "")
        super().search(text)

    def key(self, event: QKeyEvent) -> bool:
        """Act on a key: one that is waited for, F2, or one that every search has."""
        if self._drawn.waiting is not None:
            self._take_keys(self._drawn.waiting, event)
            return True
        if event.key() == Key.Key_F2 and self.chosen_thing is not None:
            self._wait_for(self.chosen_thing, WAITING)
            return True
        return super().key(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # Keys that are waited for are not carried out as shortcuts, and F2 is no shortcut here.
        if event.type() == QEvent.Type.ShortcutOverride:
            assert isinstance(event, QKeyEvent)
            if self._drawn.waiting is not None or event.key() == Key.Key_F2:
                event.accept()
                return True
        return super().eventFilter(watched, event)

    def _wait_for(self, command: Command | None, told: str) -> None:
        """Give the next keys to a command, or to none."""
        self._drawn.waiting = command
        self.hint.setText(told)
        self.rows.viewport().update()

    def _take_keys(self, command: Command, event: QKeyEvent) -> None:
        pressed = event.keyCombination()
        if not is_whole(pressed):
            return
        bare = not event.modifiers()
        if bare and event.key() == Key.Key_Escape:
            told = "Left as it was."
        elif bare and event.key() == Key.Key_Backspace:
            told = self._keys.give(command, command.keys)
        elif bare and event.key() == Key.Key_Delete:
            told = self._keys.give(command, "")
        elif may_be_keys(pressed):
            told = self._keys.give(command, QKeySequence(pressed).toString())
        else:
            self.hint.setText(NOT_FREE)
            return
        self._wait_for(None, told)

    def _give_keyboard_back(self) -> None:
        if self._before is not None and isValid(self._before):
            self._before.setFocus()


class CommandRow(QStyledItemDelegate):
    """Draws a command in a list: its name, its menu and its keys."""

    def __init__(self, parent: QObject, actions: Mapping[str, QAction]) -> None:
        super().__init__(parent)
        self._actions = actions
        self.waiting: Command | None = None
        """The one whose keys are to be pressed."""

    def can(self, command: Command) -> bool:
        """Whether a command can be carried out now."""
        return self._actions[command.method].isEnabled()

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        return QSize(200, ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        t, command = theme(), index.data(THING_ROLE)
        chosen = is_chosen(option)
        box: QRect = option.rect.adjusted(3, 1, -3, -1)
        if chosen:
            paint_chosen(painter, box)
        text = box.adjusted(10, 0, -10, 0)
        middle = Qt.AlignmentFlag.AlignVCenter
        bold, plain = small_font(bold=True, pixels=13), small_font(pixels=12)
        write = partial(painter.drawText, text)
        painter.setFont(bold)
        painter.setPen(t.colour("text" if self.can(command) else "dim"))
        write(int(middle), command.label)
        painter.setFont(plain)
        painter.setPen(t.colour("text" if chosen else "dim"))
        keys = "press its keys…" if command == self.waiting else shortcuts.PRESENT[command.method]
        write(int(middle | Qt.AlignmentFlag.AlignRight), keys)
        beside = text.adjusted(QFontMetrics(bold).horizontalAdvance(command.label) + 10, 0, 0, 0)
        painter.drawText(beside, int(middle), command.menu)
