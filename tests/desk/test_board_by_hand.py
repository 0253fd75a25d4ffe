"""The board by hand: moved, sized, called off, its menus, and what is dragged over it."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QMouseEvent
from PySide6.QtWidgets import QApplication

from conftest import Hands, answer_texts, ask_for_menu, choose, wheel

KEYS = Qt.Key


def press_and_move(hands: Hands, button: Qt.MouseButton, start: QPoint, steps: list[QPoint]) -> None:
    """Press a button on the board and move through some places, without letting go."""
    viewport = hands.window.board.viewport()
    hands.bot.mousePress(viewport, button, pos=start)
    for place in steps:
        moved = QMouseEvent(
            QEvent.Type.MouseMove, QPointF(place), QPointF(viewport.mapToGlobal(place)),
            Qt.MouseButton.NoButton, button, Qt.KeyboardModifier.NoModifier,
        )  # fmt: skip
        QApplication.sendEvent(viewport, moved)


def test_the_board_is_moved_zoomed_and_its_gestures_called_off(hands: Hands) -> None:
    board, w = hands.window.board, hands.workplace
    disc = hands.hang("disc", QPoint(200, 160))
    viewport, empty = board.viewport(), QPoint(40, 420)

    def seen() -> QPointF:
        return QPointF(board.mapFromScene(board.board.cards[disc].pos()))

    for button in (Qt.MouseButton.MiddleButton, Qt.MouseButton.LeftButton):
        before, document = seen(), w.document
        if button == Qt.MouseButton.LeftButton:
            board.setFocus()
            hands.bot.keyPress(board, KEYS.Key_Space)
        press_and_move(hands, button, empty, [empty + QPoint(30, -12), empty + QPoint(60, -24)])
        hands.bot.mouseRelease(viewport, button, pos=empty + QPoint(60, -24))
        assert (seen() - before).toPoint() == QPoint(60, -24) and w.document is document
    hands.bot.keyRelease(board, KEYS.Key_Space)
    wheel(viewport, empty, -4)
    assert board.transform().m11() < 1
    # A rectangle that is called off leaves what was selected; so does a card that was dragged.
    hands.press("fit_all")
    w.select({disc})
    corner = board.mapFromScene(board.board.content_box().topLeft()) - QPoint(12, 12)
    hands.bot.mousePress(viewport, Qt.MouseButton.LeftButton, pos=corner)
    hands.bot.mouseMove(viewport, corner + QPoint(5, 5))
    assert not w.selection
    hands.bot.keyClick(board, KEYS.Key_Escape)
    assert w.selection == {disc}
    hands.bot.mouseRelease(viewport, Qt.MouseButton.LeftButton, pos=corner)


def test_bays_and_notes_are_sized_by_their_corner_or_not(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    board, w = hands.window.board, hands.workplace
    disc = hands.hang("disc", QPoint(220, 160))
    w.select({disc})
    answer_texts(monkeypatch, "Shore", "Reeds", "", "Write here", "Look here", "")
    hands.press("frame_in_bay")
    (bay,) = w.graph.bays.values()
    assert bay.title == "Shore"
    corner = board.mapFromScene(QPointF(bay.x + bay.width - 4, bay.y + bay.height - 4))
    hands.drag(corner, corner + QPoint(50, 40))
    wider = w.graph.bays[bay.id]
    scale = board.transform().m11()
    assert abs(wider.width - bay.width - 46 / scale) < 3 and abs(wider.height - bay.height - 36 / scale) < 3
    assert wider.x == bay.x and w.graph.nodes[disc] == w.session.recorded.graph.nodes[disc]
    corner = board.mapFromScene(QPointF(wider.x + wider.width - 4, wider.y + wider.height - 4))
    press_and_move(hands, Qt.MouseButton.LeftButton, corner, [corner + QPoint(30, 30)])
    assert w.graph.bays[bay.id].width > wider.width
    hands.bot.keyClick(board, KEYS.Key_Escape)
    assert w.graph.bays[bay.id] == wider == w.session.recorded.graph.bays[bay.id]
    hands.bot.mouseRelease(board.viewport(), Qt.MouseButton.LeftButton, pos=corner)
    # Never smaller than can be taken hold of again.
    press_and_move(hands, Qt.MouseButton.LeftButton, corner, [corner - QPoint(2000, 2000)])
    hands.bot.mouseRelease(board.viewport(), Qt.MouseButton.LeftButton, pos=corner - QPoint(2000, 2000))
    assert w.graph.bays[bay.id].width >= 80 and w.graph.bays[bay.id].height >= 40
    hands.press("undo")
    # A double click renames; an answer that was called off changes nothing.
    title = board.mapFromScene(QPointF(wider.x + 12, wider.y + 10))
    for _ in range(2):
        hands.bot.mouseDClick(board.viewport(), Qt.MouseButton.LeftButton, pos=title)
        assert w.graph.bays[bay.id].title == "Reeds"
    w.select(())
    hands.press("add_note")
    (note,) = w.graph.notes.values()
    assert note.text == "Write here" and w.selection == {note.id}
    hands.press("rename")
    assert w.graph.notes[note.id].text == "Look here"
    hands.press("rename")
    assert w.graph.notes[note.id].text == "Look here"


def test_double_clicks_and_the_menu_of_a_thread(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    window, w, board = hands.window, hands.workplace, hands.window.board
    disc, blur = hands.hang("disc", QPoint(120, 60)), hands.hang("blur", QPoint(120, 300))
    if not w.graph.threads:
        hands.drag(hands.port_at(disc, "shape", True), hands.port_at(blur, "map", False))
    (thread,) = w.graph.threads
    start, end = (
        board.board.port_place(e, out) for e, out in ((thread.source, True), (thread.target, False))
    )
    middle = board.mapFromScene((start + end) / 2)
    offered = choose(monkeypatch, "Untie")
    ask_for_menu(board.viewport(), middle)
    assert not w.graph.threads and list(offered[0]) == ["Untie"]
    hands.press("undo")
    assert w.graph.threads
    # A double click looks at a card, goes into a motif, and offers kinds where nothing is.
    on_card = board.mapFromScene(board.board.cards[blur].pos() + QPointF(50, 50))
    hands.bot.mouseDClick(board.viewport(), Qt.MouseButton.LeftButton, pos=on_card)
    hands.wait_until_done()
    assert w.pins["A"] is not None and w.pins["A"].node == blur
    w.select({disc})
    answer_texts(monkeypatch, "Spot")
    hands.press("pack_motif")
    use = w.selected_node
    assert use is not None
    on_use = board.mapFromScene(board.board.cards[use].pos() + QPointF(50, 50))
    hands.bot.mouseDClick(board.viewport(), Qt.MouseButton.LeftButton, pos=on_use)
    assert w.session.motif
    hands.press("go_out")
    hands.bot.mouseDClick(board.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(6, 6))
    assert window.finder.isVisible()
    window.finder.hide()


def test_only_weaves_are_taken_when_files_are_dragged_over_the_board(hands: Hands, tmp_path: Path) -> None:
    board = hands.window.board
    for name, taken in (("stone.reed", True), ("stone.png", False)):
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(tmp_path / name))])
        where = QPoint(90, 90)
        kind = (Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
        event = QDragEnterEvent(where, *kind)
        event.ignore()
        board.dragEnterEvent(event)
        assert event.isAccepted() is taken
        drop = QDropEvent(QPointF(where), *kind)
        drop.ignore()
        board.dropEvent(drop)  # the file is not there, which is said and changes nothing
        assert drop.isAccepted() is taken and not hands.workplace.graph.nodes
    assert "stone.reed" in hands.window.status.message.text()


def test_commands_without_what_they_need_say_what_to_do(hands: Hands) -> None:
    w, told = hands.workplace, hands.window.status.message
    document = w.document
    for command, words in (
        ("frame_in_bay", "Select the cards"),
        ("swap_inputs", "Select one node with two inputs"),
        ("keep_colourway", "no dials yet"),
        ("try_out", "map rail first"),
        ("pull_motif", "Select the card of a motif"),
    ):
        told.setText("")
        hands.press(command)
        assert words in told.text(), command
    QApplication.clipboard().setText("Fog over the lake")
    hands.press("paste")
    assert "no piece of a weave" in told.text()
    for command in (
        "take_out",
        "untie_selected",
        "mute",
        "delete",
        "copy",
        "rename",
        "go_out",
        "fit_selection",
    ):
        hands.press(command)  # nothing is selected, so nothing happens
    assert w.document is document
    w.select({hands.hang("solid"), hands.hang("solid")})  # which takes nothing in
    hands.press("tie_selected")
    assert "no free input that fits" in told.text() and not w.graph.threads


def test_a_thread_let_go_on_empty_ground_ends_in_the_kind_that_is_typed(hands: Hands) -> None:
    window, w = hands.window, hands.workplace
    noise = hands.hang("gradient noise", QPoint(120, 60))
    w.select(())
    window.board.fit_all()
    for port, is_output, typed, made in (
        ("noise", True, "blur", "blur"),
        ("place", False, "bend", "bend_place"),
    ):
        before = set(w.graph.nodes)
        hands.drag(hands.port_at(noise, port, is_output), QPoint(30, 420))
        hands.bot.keyClicks(window.finder.line, typed)
        hands.bot.keyClick(window.finder.line, KEYS.Key_Return)
        (new,) = set(w.graph.nodes) - before
        assert w.graph.nodes[new].kind == made and w.selection == {new}
        ends = (noise, new) if is_output else (new, noise)
        assert any((t.source.node, t.target.node) == ends for t in w.graph.threads)
        hands.press("undo")
        assert set(w.graph.nodes) == before  # hung and tied in one step
    # Called off, the thread is forgotten: what is hung next is not tied to it.
    hands.drag(hands.port_at(noise, "noise", True), QPoint(30, 420))
    hands.bot.keyClick(window.finder.line, KEYS.Key_Escape)
    w.select(())
    blur = hands.hang("blur")
    assert not w.graph.incoming(blur)


def test_a_card_is_peeked_at_while_ctrl_is_held(hands: Hands) -> None:
    """The views show it, the wheel goes through its results, and what pins hold comes back."""
    window, w = hands.window, hands.workplace
    disc, cells = hands.hang("disc", QPoint(60, 60)), hands.hang("cells", QPoint(260, 60))
    w.select({disc})
    hands.press("pin_a")
    hands.wait_until_done()
    pinned, zoom = dict(w.pins), window.board.transform().m11()
    card = window.board.board.cards[cells]
    middle = window.board.mapFromScene(card.pos() + card.body().center())

    def turn() -> str:
        wheel(window.board.viewport(), middle, -1, Qt.KeyboardModifier.ControlModifier)
        hands.wait_until_done()
        return window.flat.title.text()

    outputs = [port.label.lower() for port in w.kinds.of(card.node).outputs]
    seen = [turn() for _ in range(len(outputs) + 1)]
    assert all(
        title.startswith("Peek: ") and label in title for title, label in zip(seen, outputs, strict=False)
    )
    assert seen[-1] == seen[0] and window.board.transform().m11() == zoom
    hands.bot.keyRelease(window.board, Qt.Key.Key_Control)
    hands.wait_until_done()
    assert w.pins == pinned and window.flat.title.text().startswith("Pin A: Disc")
    # What is pinned meanwhile stays, the keyboard elsewhere ends it too, and what is taken away is gone.
    turn()
    hands.press("pin_b")
    assert w.pins["A"] == pinned["A"] and w.pins["B"] is not None
    turn()
    hands.press("focus_settings")
    assert "Peek" not in w.pins and w.pins["B"] is not None
    turn()
    w.select({disc, cells})
    hands.press("delete")
    hands.wait_until_done()
    hands.bot.keyRelease(window.board, Qt.Key.Key_Control)
    assert w.pins == {"A": None, "B": None}


def test_selected_cards_are_hung_in_a_row_and_in_a_column(hands: Hands) -> None:
    w = hands.workplace
    nodes = [hands.hang("disc", QPoint(60 + 40 * n, 60 + 90 * n)) for n in range(3)]
    w.select({nodes[0]})
    hands.press("align_row")
    assert w.session.undo_label != "Hang in a row"
    for command, fixed in (("align_row", "y"), ("align_column", "x")):
        w.select(nodes)
        hands.press(command)
        assert len({getattr(w.graph.nodes[n], fixed) for n in nodes}) == 1
    hands.press("undo")
    assert len({w.graph.nodes[n].y for n in nodes}) == 1 < len({w.graph.nodes[n].x for n in nodes})
