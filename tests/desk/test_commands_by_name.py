"""Commands found by name, and given keys of a maker's own."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPoint, QSettings, Qt
from PySide6.QtGui import QHelpEvent, QKeySequence
from PySide6.QtWidgets import QApplication

from conftest import Hands, with_keyboard
from reedloom.desk.frame.command_finder import CommandFinder, find_commands
from reedloom.desk.frame.commands import COMMANDS
from reedloom.desk.frame.own_keys import BY_NAME, keys_by_command
from reedloom.desk.frame.window import Window

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
KEYS = Qt.Key


def look_for(hands: Hands, text: str) -> CommandFinder:
    """Open the command finder by its keys, and type."""
    hands.bot.keyClick(QApplication.focusWidget(), KEYS.Key_Space, CTRL | Qt.KeyboardModifier.ShiftModifier)
    finder = hands.window.help.finder
    assert finder.isVisible() and with_keyboard() is finder.line
    hands.bot.keyClicks(finder.line, text)
    return finder


def give(hands: Hands, text: str, key: Qt.Key, held: Qt.KeyboardModifier = CTRL) -> str:
    """Give the command found by a text other keys; returns what the finder says of it."""
    finder = look_for(hands, text)
    hands.bot.keyClick(finder.line, KEYS.Key_F2)
    hands.bot.keyClick(finder.line, key, held)
    told = finder.hint.text()
    for _ in range(2):  # the first leaves what is waited for, if anything still is
        hands.bot.keyClick(finder.line, KEYS.Key_Escape)
    assert not finder.isVisible()
    return told


def keys_of(hands: Hands, command: str) -> str:
    """The keys a command has in the window."""
    return hands.window.actions_[command].shortcut().toString()


def test_every_command_comes_first_by_its_own_name() -> None:
    assert find_commands("") == list(COMMANDS)
    for command in COMMANDS:
        assert find_commands(command.name)[0] == command
    assert find_commands("export")[0].method == "deliver"
    assert not find_commands("marzipan")


def test_a_command_found_by_name_is_done_to_what_had_the_keyboard(hands: Hands) -> None:
    node = hands.hang("gradient noise")
    hands.wait_until_done()
    hands.press("focus_settings")
    before = with_keyboard()
    finder = look_for(hands, "go to the b")
    hands.press("find_command")  # asked for again, it begins anew
    assert not finder.line.text()
    hands.bot.keyClick(finder.line, KEYS.Key_Escape)
    assert with_keyboard() is before
    finder = look_for(hands, "try val")
    hands.bot.keyClick(finder.line, KEYS.Key_Return)
    assert not finder.isVisible() and hands.window.settings.tries.isVisible()
    hands.bot.keyClick(with_keyboard(), KEYS.Key_Escape)
    finder = look_for(hands, "mute")
    hands.bot.keyClick(finder.line, KEYS.Key_Return)
    assert hands.workplace.graph.nodes[node].muted


def test_what_cannot_be_done_now_says_so_and_the_search_stays(hands: Hands) -> None:
    finder = look_for(hands, "redo")
    hands.bot.keyClick(finder.line, KEYS.Key_Return)
    assert finder.isVisible() and "nothing" in finder.hint.text()
    finder.line.setText("no such thing")
    hands.bot.keyClick(finder.line, KEYS.Key_Return)
    assert finder.isVisible() and finder.hint.text().startswith("No command of that name")


def test_keys_of_ones_own_work_are_shown_and_are_there_at_the_next_start(hands: Hands) -> None:
    window = hands.window
    told = give(hands, "deliver", KEYS.Key_D, CTRL | ALT)
    assert told == "Deliver maps: Ctrl+Alt+D. Draw by hand has none now."
    assert keys_of(hands, "deliver") == "Ctrl+Alt+D" and not keys_of(hands, "draw_paths")
    button = window.deliver_button
    QApplication.sendEvent(button, QHelpEvent(QEvent.Type.ToolTip, QPoint(), QPoint()))
    assert button.toolTip().endswith("(Ctrl+Alt+D)")
    give(hands, "mute", KEYS.Key_F8, Qt.KeyboardModifier.NoModifier)
    node = hands.hang("gradient noise")
    hands.bot.keyClick(window.board, KEYS.Key_F8)
    assert hands.workplace.graph.nodes[node].muted
    later = Window()
    hands.bot.addWidget(later)
    for name in ("deliver", "draw_paths", "mute", "show_cost"):
        assert later.actions_[name].shortcut() == window.actions_[name].shortcut()


def test_keys_come_back_as_they_were_and_can_be_none(hands: Hands) -> None:
    came = {command.method: keys_of(hands, command.method) for command in COMMANDS}
    assert came == {command.method: QKeySequence(command.keys).toString() for command in COMMANDS}
    none = Qt.KeyboardModifier.NoModifier
    give(hands, "arrange", KEYS.Key_E)
    assert not keys_of(hands, "try_values")
    give(hands, "mute", KEYS.Key_E)  # what had them by a maker's own wish has none now
    assert keys_of(hands, "mute") == "Ctrl+E" and not keys_of(hands, "arrange")
    assert give(hands, "mute", KEYS.Key_Delete, none) == "Mute or unmute: no keys."
    assert not keys_of(hands, "mute") and keys_of(hands, "try_values") == "Ctrl+E"
    for text in ("arrange", "mute"):
        give(hands, text, KEYS.Key_Backspace, none)
    assert {command.method: keys_of(hands, command.method) for command in COMMANDS} == came
    assert not QSettings().contains("keys/arrange")


@pytest.mark.parametrize(
    ("key", "held"),
    [
        (KEYS.Key_K, Qt.KeyboardModifier.NoModifier),
        (KEYS.Key_K, Qt.KeyboardModifier.ShiftModifier),
        (KEYS.Key_1, Qt.KeyboardModifier.ShiftModifier),
        (KEYS.Key_Return, Qt.KeyboardModifier.NoModifier),
    ],
)
def test_letters_stay_free(hands: Hands, key: Qt.Key, held: Qt.KeyboardModifier) -> None:
    assert give(hands, "arrange", key, held).startswith("Letters stay free")
    assert keys_of(hands, "arrange") == "Ctrl+L"


def test_keys_that_are_waited_for_do_nothing_else(hands: Hands) -> None:
    hands.hang("gradient noise")
    document = hands.workplace.document
    assert give(hands, "arrange", KEYS.Key_Z).startswith("Arrange: Ctrl+Z. Undo")
    assert hands.workplace.document == document
    finder = look_for(hands, "arrange")
    hands.bot.keyClick(finder.line, KEYS.Key_F2)
    hands.bot.keyClick(finder.line, KEYS.Key_Control)  # held on the way to others
    finder.line.setText("mute")  # another search ends the waiting
    hands.bot.keyClick(finder.line, KEYS.Key_Return)
    assert not finder.isVisible() and keys_of(hands, "mute") == "Ctrl+M"


def test_no_two_commands_have_the_same_keys_whatever_the_settings_hold() -> None:
    assert len({c.keys for c in COMMANDS if c.keys}) == sum(bool(c.keys) for c in COMMANDS)
    own = {"arrange": "Ctrl+S", "mute": "Ctrl+E", "undo": "", "save": "Ctrl+L"}
    laid = keys_by_command(own)
    assert laid.keys() == BY_NAME.keys() and {name: laid[name] for name in own} == own
    given = [keys for keys in laid.values() if keys]
    assert len(given) == len(set(given))
