"""Sliders, curves, the canvas, the board's keys and the file flows, one gesture at a time."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QFileDialog, QMenu, QTextBrowser

import reedloom as rl
from conftest import Hands, answer_with, wheel
from reedloom.desk.frame.commands import COMMANDS
from reedloom.desk.frame.keys_dialog import KeysDialog
from reedloom.desk.sheets.deliver_dialog import DeliverDialog
from reedloom.weave.document import End
from reedloom.weave.edits import Connect, Disconnect
from weaving import KINDS


def test_a_slider_drags_nudges_and_goes_finely(hands: Hands) -> None:
    w = hands.workplace
    node = hands.hang("levels")
    slider = hands.window.settings.editors["gamma"].slider  # type: ignore[attr-defined]
    middle = QPoint(slider.width() // 2, 10)
    hands.bot.mousePress(slider, Qt.MouseButton.LeftButton, pos=middle)
    coarse = KINDS.value(w.graph.nodes[node], "gamma")
    assert not w.session.recorded.graph.nodes[node].parameters  # a drag is shown, not recorded
    hands.bot.mouseRelease(slider, Qt.MouseButton.LeftButton, pos=middle)
    assert KINDS.value(w.session.recorded.graph.nodes[node], "gamma") == coarse == pytest.approx(2.6, abs=0.1)
    shift = Qt.KeyboardModifier.ShiftModifier
    hands.bot.mousePress(slider, Qt.MouseButton.LeftButton, shift, middle)
    hands.bot.mouseRelease(slider, Qt.MouseButton.LeftButton, shift, middle)
    assert KINDS.value(w.graph.nodes[node], "gamma") == coarse  # held fine, it does not jump to the pointer
    hands.bot.keyClick(slider, Qt.Key.Key_Right)
    assert KINDS.value(w.graph.nodes[node], "gamma") == pytest.approx(coarse + 0.048)
    hands.bot.keyClick(slider, Qt.Key.Key_Down, shift)
    assert KINDS.value(w.graph.nodes[node], "gamma") == pytest.approx(coarse - 0.432)
    hands.set_number("gamma", "50")
    assert slider.value == 50 and not slider.grab().isNull()


def test_histogram_marks_set_the_levels(hands: Hands) -> None:
    hands.hang("gradient noise")
    node = hands.hang("levels")
    hands.wait_until_done()
    strip = hands.window.settings.strip
    assert strip is not None and strip.tones is not None and set(strip.marks) == {"from_low", "from_high"}
    place = QPoint(round(strip.width() * 0.3), 20)
    hands.bot.mousePress(strip, Qt.MouseButton.LeftButton, pos=place)
    hands.bot.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=place)
    assert KINDS.value(hands.workplace.graph.nodes[node], "from_low") == pytest.approx(0.29, abs=0.02)
    assert hands.workplace.session.undo_label == "Set from low"


def test_curve_knots_by_keyboard_alone(hands: Hands) -> None:
    node = hands.hang("curve")
    curve = hands.window.settings.editors["curve"].curve  # type: ignore[attr-defined]
    curve.setFocus()
    for key in (Qt.Key.Key_Insert, Qt.Key.Key_Up, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_PageUp):
        hands.bot.keyClick(curve, key)
    knots = KINDS.value(hands.workplace.graph.nodes[node], "curve")
    assert knots[1] == pytest.approx((0.51, 0.51, 1.0)) and curve.chosen == 2
    hands.bot.keyClick(curve, Qt.Key.Key_PageDown)
    hands.bot.keyClick(curve, Qt.Key.Key_Delete)
    assert len(KINDS.value(hands.workplace.graph.nodes[node], "curve")) == 2
    hands.bot.keyClick(curve, Qt.Key.Key_Delete)
    assert len(KINDS.value(hands.workplace.graph.nodes[node], "curve")) == 2  # two are the least


def test_the_canvas_zooms_pans_and_reads_places(hands: Hands) -> None:
    hands.hang("linear gradient")
    hands.wait_until_done()
    canvas = hands.window.flat.canvas
    middle = QPoint(canvas.width() // 2, canvas.height() // 2)
    assert canvas.place_at(QPointF(middle)) == pytest.approx((0.5, 0.5), abs=0.01)
    before = canvas.place_at(QPointF(middle + QPoint(40, 20)))
    wheel(canvas, middle + QPoint(40, 20), 3)
    assert canvas.place_at(QPointF(middle + QPoint(40, 20))) == pytest.approx(before, abs=1e-6)
    zoom = canvas.zoom
    hands.bot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=middle)
    hands.bot.mouseMove(canvas, middle + QPoint(30, 0))
    hands.bot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=middle + QPoint(30, 0))
    moved = canvas.place_at(QPointF(middle))
    assert moved is not None and moved[0] < 0.5 and canvas.zoom == zoom
    hands.window.flat.buttons["actual"].click()
    assert canvas.zoom == 512 / canvas.devicePixelRatioF()
    hands.bot.keyClicks(canvas, "+")
    assert canvas.zoom == pytest.approx(640 / canvas.devicePixelRatioF())
    hands.window.flat.buttons["fit"].click()
    assert canvas.place_at(QPointF(1, 1)) is None
    hands.bot.mouseMove(canvas, middle)
    assert "u 0.5" in hands.window.flat.value.text()


def test_board_zoom_walk_and_band(hands: Hands) -> None:
    board, w = hands.window.board, hands.workplace
    first = hands.hang("disc", QPoint(100, 60))
    second = hands.hang("blur")
    w.select({second})
    hands.bot.keyClick(board, Qt.Key.Key_Up)
    assert w.selected_node == first
    hands.bot.keyClick(board, Qt.Key.Key_Down)
    assert w.selected_node == second
    hands.bot.keyClick(board, Qt.Key.Key_Escape)
    assert not w.selection
    place = QPoint(300, 300)
    before = board.mapToScene(place)
    wheel(board.viewport(), place, 2)
    after = board.mapToScene(place)
    assert (after - before).manhattanLength() < 3 and board.transform().m11() > 1
    hands.press("fit_all")
    corner = board.mapFromScene(board.board.content_box().topLeft()) - QPoint(12, 12)
    far = board.mapFromScene(board.board.content_box().bottomRight()) + QPoint(12, 12)
    hands.drag(corner, far)
    assert set(w.selected_nodes) == {first, second}
    hands.bot.mouseClick(board.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    assert not w.selection
    grip = board.mapFromScene(board.board.cards[first].pos() + QPointF(60, 60))
    hands.bot.mousePress(board.viewport(), Qt.MouseButton.LeftButton, pos=grip)
    hands.bot.mouseMove(board.viewport(), grip + QPoint(40, 0))
    hands.bot.keyClick(board, Qt.Key.Key_Escape)
    hands.bot.mouseRelease(board.viewport(), Qt.MouseButton.LeftButton, pos=grip)
    assert w.document == w.session.recorded and w.session.undo_label == "Add Blur"


def test_menus_offer_what_fits_the_place(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    board, offered = hands.window.board, []

    class SeenMenu(QMenu):
        def exec(self, *_: object) -> None:  # type: ignore[override]
            offered.append([a.text() for a in self.actions() if a.text()])

    monkeypatch.setattr("reedloom.desk.frame.window.QMenu", SeenMenu)
    node = hands.hang("disc", QPoint(100, 60))
    on_card = board.mapFromScene(board.board.cards[node].pos() + QPointF(50, 50))
    for place in (on_card, QPoint(4, 4)):
        if place != on_card:
            hands.workplace.select(())
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, board.mapToGlobal(place))
        board.contextMenuEvent(event)
    assert "Put on pin A" in offered[0] and "Hang a node…" in offered[1]


def test_every_command_is_in_a_menu_and_on_the_page_of_keys(hands: Hands) -> None:
    dialog = KeysDialog(hands.window)
    page = dialog.findChild(QTextBrowser).toPlainText()  # type: ignore[union-attr]
    for command in COMMANDS:
        assert hands.window.actions_[command.method].associatedObjects(), command.method
        assert not command.keys or (command.label in page and command.keys in page)
    assert "Shift-drag" in page


def test_nothing_is_left_without_asking(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    node = hands.hang("disc")
    asked = answer_with(monkeypatch, "Stay")
    hands.press("new_weave")
    assert len(asked) == 1 and node in hands.workplace.graph.nodes
    hands.window.close()
    assert hands.window.isVisible() and len(asked) == 2
    answer_with(monkeypatch, "Save")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "net-cord"), ""))
    hands.press("new_weave")
    assert not hands.workplace.graph.nodes
    kept = rl.open_weave(tmp_path / "net-cord.reed").document
    assert [n.kind for n in kept.graph.nodes.values()] == ["disc"]
    assert hands.window.documents.recent() == [tmp_path / "net-cord.reed"]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(tmp_path / "net-cord.reed"), ""))
    hands.press("open_weave")
    assert node in hands.workplace.graph.nodes and hands.workplace.path == tmp_path / "net-cord.reed"
    hands.workplace.select({node})
    hands.set_number("radius", "0.2")
    assert hands.window.windowTitle() == "Net cord •"
    hands.press("save")
    assert hands.window.windowTitle() == "Net cord"
    answer_with(monkeypatch, "Leave without saving")
    hands.set_number("radius", "0.1")
    hands.press("open_demo")
    assert hands.workplace.document.name == "Lakebed clay" and hands.workplace.path is None
    kept = rl.open_weave(tmp_path / "net-cord.reed").document
    assert KINDS.value(kept.graph.nodes[node], "radius") == 0.2


def test_the_deliver_dialog_refuses_what_cannot_be_and_stops(hands: Hands, tmp_path: Path) -> None:
    dialog = DeliverDialog(hands.workplace, tmp_path, hands.window)
    assert "Nothing is tied" in dialog.warning.text() and not dialog.go.isEnabled()
    dialog.reject()
    hands.press("open_demo")
    dialog = DeliverDialog(hands.workplace, tmp_path, hands.window)
    dialog.name.setText("{mapp}")
    assert "unknown token" in dialog.warning.text() and not dialog.go.isEnabled()
    dialog.name.setText("{map}")
    for box in dialog.maps.values():
        box.setChecked(False)
    assert "at least one map" in dialog.warning.text()
    dialog.maps["height"].setChecked(True)
    assert "height.png" in dialog.example.text()
    dialog.go.click()
    assert dialog.leave.text() == "Cancel"
    dialog.leave.click()
    hands.bot.waitUntil(lambda: dialog.stop is None, timeout=30_000)
    assert "Stopped" in dialog.state.text() or "Delivered" in dialog.state.text()
    dialog.folder.setText("/proc/nowhere")
    dialog.go.click()
    hands.bot.waitUntil(lambda: dialog.stop is None, timeout=30_000)
    assert "Cannot deliver to" in dialog.warning.text()
    dialog.reject()


@pytest.mark.parametrize("kind_id", ["stamp", "material", "layers"])
def test_notches_of_crowded_cards_are_hit_near_and_far(hands: Hands, kind_id: str) -> None:
    label = next(k.label for k in rl.kinds() if k.id == kind_id)
    node = hands.hang(label.lower())
    declared = KINDS.of(hands.workplace.graph.nodes[node])
    assert declared.id == kind_id
    board = hands.window.board
    card = board.board.cards[node]
    for zoom in (2.0, 1.0, 0.6):
        board.resetTransform()
        board.scale(zoom, zoom)
        for is_output in (False, True):
            for port in card.ports(is_output):
                found = board.port_under(hands.port_at(node, port.name, is_output))
                assert found is not None and (found[0].node, found[0].port, found[1]) == (
                    node,
                    port.name,
                    is_output,
                )


def test_a_list_has_notches_for_the_rows_in_use_and_one_more(hands: Hands) -> None:
    w = hands.workplace
    noises = [hands.hang("gradient noise") for _ in range(2)]
    w.select(())
    node = hands.hang("layers")
    card = hands.window.board.board.cards[node]

    def rows() -> set[int]:
        return {port.series for port in card.ports(False)}

    def strands_meet_their_notches() -> None:
        board = hands.window.board.board
        for thread, strand in board.strands.items():
            at = board.port_place(thread.target, False)
            assert (strand.path.pointAtPercent(1) - at).manhattanLength() < 1

    assert rows() == {1}
    for number, noise in enumerate(noises, start=1):
        w.submit(Connect(End(node=noise, port="noise"), End(node=node, port=f"layer_{number}")))
        assert rows() == set(range(1, number + 2))
        strands_meet_their_notches()
    settings = hands.window.settings
    w.select({node})
    assert settings.series is not None and list(settings.series.rows) == [1, 2]
    w.submit(Disconnect(End(node=node, port="layer_2")))
    assert rows() == {1, 2}
    strands_meet_their_notches()


def test_rows_of_a_list_without_a_switch_have_their_numbers(hands: Hands) -> None:
    w = hands.workplace
    node = hands.hang("stamp")
    w.select(())
    form = hands.hang("petal")
    w.submit(Connect(End(node=form, port="profile"), End(node=node, port="drawing_2")))
    w.select({node})
    series = hands.window.settings.series
    assert series is not None and list(series.rows) == [2] and list(series.rows[2].editors) == ["weight_2"]
    assert series.rows[2].switch is None and not series.rows[2].sum.isVisibleTo(series)
