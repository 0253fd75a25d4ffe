"""Gives commands their keys: those they came with, or those that a maker has given them."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QKeyCombination, QSettings, Qt
from PySide6.QtGui import QAction, QKeySequence

from reedloom.desk.frame.commands import COMMANDS, Command
from reedloom.desk.look import shortcuts

GROUP = "keys"
"""Where the program's settings keep a maker's own keys, by command."""
BY_NAME = {command.method: command for command in COMMANDS}
_HELD = (
    Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
)
_DIGITS = range(Qt.Key.Key_0, Qt.Key.Key_9 + 1)
_FUNCTION_KEYS = range(Qt.Key.Key_F1, Qt.Key.Key_F35 + 1)
_NOT_ALONE = frozenset(
    {Qt.Key.Key_Control, Qt.Key.Key_Shift, Qt.Key.Key_Alt, Qt.Key.Key_Meta, Qt.Key.Key_AltGr}
)
NOT_FREE = "Letters stay free for finding nodes: hold Ctrl or Alt, or take a function key or a digit."


def keys_by_command(own: Mapping[str, str]) -> dict[str, str]:
    """The keys of every command, no two alike; a maker's own go before those that commands came with."""
    taken = {keys for keys in own.values() if keys}
    return {
        command.method: own.get(command.method, "" if command.keys in taken else command.keys)
        for command in COMMANDS
    }


def is_whole(pressed: QKeyCombination) -> bool:
    """Whether more than Ctrl, Alt and the like is pressed."""
    return pressed.key() not in _NOT_ALONE


def may_be_keys(pressed: QKeyCombination) -> bool:
    """Whether a command may have these: no letters or digits that are typed into something."""
    held, key = pressed.keyboardModifiers(), pressed.key()
    return bool(held & _HELD) or key in _FUNCTION_KEYS or (key in _DIGITS and not held)


class OwnKeys:
    """The keys of a window's commands."""

    def __init__(self, actions: Mapping[str, QAction]) -> None:
        self._actions = actions
        self._lay()

    @property
    def own(self) -> dict[str, str]:
        """What a maker has given, by command; "" where it is to have none."""
        settings = QSettings()
        settings.beginGroup(GROUP)
        return {name: str(settings.value(name)) for name in settings.childKeys() if name in BY_NAME}

    def give(self, command: Command, keys: str) -> str:
        """Give a command keys such as "Ctrl+E", or "" for none; what had them has none then.

        Returns what happened, in words.
        """
        own = self.own
        before = keys_by_command(own)
        others = [other for other in COMMANDS if keys and before[other.method] == keys and other != command]
        for other in others:
            if other.method in own:
                QSettings().setValue(f"{GROUP}/{other.method}", "")
        if keys == command.keys:
            QSettings().remove(f"{GROUP}/{command.method}")
        else:
            QSettings().setValue(f"{GROUP}/{command.method}", keys)
        self._lay()
        told = f"{command.name}: {shortcuts.PRESENT[command.method] or 'no keys'}."
        return " ".join([told, *(f"{other.name} has none now." for other in others)])

    def _lay(self) -> None:
        """Give actions their keys, as settings have them."""
        for name, keys in keys_by_command(self.own).items():
            sequence = QKeySequence(keys)
            self._actions[name].setShortcut(sequence)
            shortcuts.PRESENT[name] = sequence.toString(QKeySequence.SequenceFormat.NativeText)
