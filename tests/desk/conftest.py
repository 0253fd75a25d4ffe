"""A real window, off screen, and the words to drive it."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QContextMenuEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QInputDialog, QMenu, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from reedloom.delivery import thumbnails
from reedloom.desk.frame.app import make_application
from reedloom.desk.frame.window import Window
from reedloom.desk.screen import kept_pictures
from reedloom.weave.document import End


class Hands:
    """A user at the window: types, clicks, drags, waits."""

    def __init__(self, window: Window, qtbot: QtBot) -> None:
        self.window, self.bot = window, qtbot
        self.workplace = window.workplace

    def wait_until_done(self) -> None:
        """Until nothing is computed any more and the window has shown it."""
        self.bot.waitUntil(lambda: not self.workplace.busy, timeout=60_000)
        QApplication.processEvents()
        QApplication.processEvents()

    def hang(self, text: str, at: QPoint | None = None) -> str:
        """Type on the board, press Enter, and return the new node's id."""
        before = set(self.workplace.graph.nodes)
        board = self.window.board
        board.setFocus()
        self.bot.keyClicks(board, text[0])
        finder = self.window.finder
        assert finder.isVisible()
        if at is not None:
            self.window._hang_at = board.mapToScene(at)
        self.bot.keyClicks(finder.line, text[1:])
        self.bot.keyClick(finder.line, Qt.Key.Key_Return)
        (new,) = set(self.workplace.graph.nodes) - before
        return new

    def port_at(self, node: str, port: str, is_output: bool) -> QPoint:
        """Where a port is on the board's viewport."""
        board = self.window.board
        return board.mapFromScene(board.board.port_place(End(node=node, port=port), is_output))

    def drag(
        self, start: QPoint, end: QPoint, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
    ) -> None:
        """Press, move in steps, let go, on the board."""
        viewport = self.window.board.viewport()
        self.bot.mousePress(viewport, Qt.MouseButton.LeftButton, modifier, start)
        for step in (0.3, 0.7, 1.0):
            place = start + (end - start) * step
            self.bot.mouseMove(viewport, place)
        self.bot.mouseRelease(viewport, Qt.MouseButton.LeftButton, modifier, end)

    def slot(self, channel: str) -> QPoint:
        """The middle of a rail slot, on the board's viewport."""
        place = self.window.rail.place_of(channel)
        assert place is not None
        return self.window.board.viewport().mapFromGlobal(place + QPoint(0, 20))

    def set_number(self, name: str, text: str) -> None:
        """Type a value into the settings."""
        field = self.window.settings.editors[name].field  # type: ignore[attr-defined]
        field.setFocus()
        field.selectAll()
        self.bot.keyClicks(field, text)
        self.bot.keyClick(field, Qt.Key.Key_Return)

    def press(self, command: str) -> None:
        """Carry out a command by its name."""
        self.window.actions_[command].trigger()


def answer_with(monkeypatch: pytest.MonkeyPatch, label: str) -> list[str]:
    """Answer every question with the button of that label; returns what was asked."""
    asked: list[str] = []
    chosen: list[object] = []

    def answer(box: QMessageBox) -> int:
        asked.append(box.text())
        chosen[:] = [next(b for b in box.buttons() if b.text() == label)]
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    monkeypatch.setattr(QMessageBox, "clickedButton", lambda _box: chosen[0])
    return asked


def answer_texts(monkeypatch: pytest.MonkeyPatch, *texts: str) -> None:
    """Answer the questions for a text that follow, one after the other; an empty answer calls off."""
    waiting = list(texts)

    def answer(*_: object, **__: object) -> tuple[str, bool]:
        text = waiting.pop(0)
        return text, bool(text)

    for name in ("getText", "getMultiLineText"):
        monkeypatch.setattr(QInputDialog, name, answer)


MENUS = "board.rail", "board.view", "sheets.colourways_panel"
"""Which parts of the desk have the menus that are chosen from here."""


def choose(monkeypatch: pytest.MonkeyPatch, wanted: str) -> list[dict[str, bool]]:
    """Choose an entry of every menu that opens; returns what each offered, and whether it could be chosen."""
    offered: list[dict[str, bool]] = []

    class QuickMenu(QMenu):
        def exec(self, *_: object) -> None:  # type: ignore[override]
            actions = {action.text(): action for action in self.actions() if action.text()}
            offered.append({text: action.isEnabled() for text, action in actions.items()})
            actions[wanted].trigger()  # which does nothing where it cannot be chosen

        popup = exec

    for module in MENUS:
        monkeypatch.setattr(f"reedloom.desk.{module}.QMenu", QuickMenu)
    return offered


def ask_for_menu(part: QWidget, at: QPoint | None = None) -> None:
    """Ask for the menu of a part of the window with the mouse."""
    at = part.rect().center() if at is None else at
    QApplication.sendEvent(part, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, part.mapToGlobal(at)))


def wheel(
    widget: QWidget, at: QPoint, steps: int, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier
) -> None:
    """Turn the mouse wheel over a widget."""
    place = QPointF(at)
    event = QWheelEvent(
        place, widget.mapToGlobal(place), QPoint(), QPoint(0, 120 * steps), Qt.MouseButton.NoButton,
        held, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def with_keyboard() -> QWidget | None:
    """What has the keyboard."""
    QApplication.processEvents()
    return QApplication.focusWidget()


@pytest.fixture
def hands(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Hands:
    """A fresh window with an empty weave, and its own folder for recovery."""
    monkeypatch.setenv("REEDLOOM_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("REEDLOOM_BOOK", str(tmp_path / "book"))
    monkeypatch.setattr(kept_pictures, "folder", lambda: tmp_path / "pictures")
    monkeypatch.setattr(thumbnails, "_root", lambda: tmp_path / "thumbnails")
    # What earlier tests left would be styled again.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    make_application()
    QSettings().clear()
    monkeypatch.setattr(QMessageBox, "exec", lambda self: pytest.fail(f"unexpected question: {self.text()}"))
    window = Window()
    window.resize(1280, 800)
    qtbot.addWidget(window, before_close_func=lambda w: w.workplace.session.mark_saved())
    window.show()
    window.activateWindow()
    qtbot.waitExposed(window)
    return Hands(window, qtbot)
