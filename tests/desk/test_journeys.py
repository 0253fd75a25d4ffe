"""Whole journeys through the real window."""

from __future__ import annotations

import random
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog

import reedloom as rl
from conftest import Hands, answer_with
from reedloom.data import shipped_weave
from reedloom.desk.sheets.deliver_dialog import DeliverDialog
from reedloom.picture_files import read_map
from reedloom.weave.document import Bay, End
from reedloom.weave.edits import Connect, PutItem
from reedloom.weave.fileformat import decode_document
from weaving import KINDS


def test_from_an_empty_weave_by_typing_to_a_delivered_set(hands: Hands, tmp_path: Path) -> None:
    window = hands.window
    cells = hands.hang("cellular")
    soft = hands.hang("blur")
    relief = hands.hang("normal")
    document = hands.workplace.document
    assert str(document.graph.incoming(soft)["map"]) == f"{cells}.nearest"
    assert str(document.graph.incoming(relief)["height"]) == f"{soft}.map"
    assert hands.workplace.pins["A"] == End(node=relief, port="normal")
    hands.workplace.select({cells})
    hands.set_number("cells", "2*5")
    hands.set_number("seed", "4")
    hands.workplace.select({soft})
    hands.set_number("radius", "1/50")
    assert KINDS.value(hands.workplace.graph.nodes[soft], "radius") == pytest.approx(0.02)
    hands.drag(hands.port_at(soft, "map", True), hands.slot("height"))
    hands.drag(hands.port_at(relief, "normal", True), hands.slot("normal"))
    assert {c: e.node for c, e in hands.workplace.graph.ends.items()} == {
        "height": soft,
        "normal": relief,
    }
    hands.press("show_material")
    hands.wait_until_done()
    assert window.flat.canvas.first is not None and "512" in window.flat.title.text()

    dialog = DeliverDialog(hands.workplace, tmp_path / "maps", window)
    dialog.size_choice.setCurrentIndex(dialog.size_choice.findData(256))
    assert "untitled_normal.png" in dialog.example.text()
    dialog.go.click()
    hands.bot.waitUntil(lambda: dialog.stop is None, timeout=60_000)
    assert "Delivered 2 files" in dialog.state.text()
    weave = rl.Weave(hands.workplace.document)
    for channel, wanted in rl.evaluate_maps(weave, 256).items():
        got = read_map(tmp_path / "maps" / f"untitled_{channel}.png")
        assert np.abs(got - np.clip(wanted, 0, 1)).max() < 1e-5
    dialog._replan()
    assert "will be replaced" in dialog.warning.text() and dialog.go.text() == "Replace and deliver"
    dialog.reject()

    monkey_path = tmp_path / "first-weave.reed"
    assert window.documents._write(monkey_path)
    assert rl.open_weave(monkey_path).document == hands.workplace.document
    assert hands.workplace.document.name == "First weave" and window.windowTitle() == "First weave"


def test_the_demo_follows_the_crack_width(hands: Hands) -> None:
    window = hands.window
    window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    hands.wait_until_done()
    assert not hands.workplace.failures and len(hands.workplace.graph.nodes) >= 20
    board, graph = window.board.board, hands.workplace.graph
    assert list(board.cards) == list(graph.nodes) and list(board.notes) == list(graph.notes)
    first = board.notes[next(iter(graph.notes))].sceneBoundingRect()
    assert window.board.mapToScene(window.board.viewport().rect()).boundingRect().contains(first)
    nodes = hands.workplace.graph.nodes.values()
    crack = next(n.id for n in nodes if n.name == "Crack width")
    hands.workplace.select({crack})
    before = window.flat.canvas.first
    window.panels.show_panel("dials")
    slider = window.dials.rows["crack_width"].editor.slider  # type: ignore[attr-defined]
    start = QPoint(slider.width() // 5, 10)
    hands.bot.mousePress(slider, Qt.MouseButton.LeftButton, pos=start)
    for step in (4, 10, 18):
        hands.bot.mouseMove(slider, start + QPoint(step, 0))
        hands.bot.wait(20)
    hands.bot.mouseRelease(slider, Qt.MouseButton.LeftButton, pos=start + QPoint(18, 0))
    hands.wait_until_done()
    assert window.flat.canvas.first is not None and before is not None
    assert window.flat.canvas.first.image != before.image
    values = hands.workplace.flat.values(crack)
    assert values is not None and values["from_low"] > 0.03
    assert hands.workplace.session.undo_label == "Turn crack width"
    hands.press("undo")
    hands.wait_until_done()
    assert window.flat.canvas.first.image == before.image
    assert hands.workplace.session.is_saved


def test_threads_are_pulled_untied_moved_and_offered(hands: Hands) -> None:
    window, w = hands.window, hands.workplace
    noise = hands.hang("gradient noise", QPoint(60, 40))
    w.select(())
    blur = hands.hang("blur", QPoint(60, 240))
    w.select(())
    tone = hands.hang("levels", QPoint(320, 240))
    w.select(())
    window.board.fit_all()
    hands.drag(hands.port_at(noise, "noise", True), hands.port_at(blur, "map", False))
    assert w.graph.incoming(blur)["map"].node == noise
    hands.drag(hands.port_at(blur, "map", False), hands.port_at(tone, "map", False))
    assert not w.graph.incoming(blur) and w.graph.incoming(tone)["map"].node == noise
    hands.drag(hands.port_at(tone, "map", True), hands.port_at(noise, "place", False))
    assert "circle" in window.status.message.text() and not w.graph.incoming(noise)
    hands.drag(hands.port_at(tone, "map", False), QPoint(10, 400))
    assert not w.graph.threads
    hands.drag(hands.port_at(noise, "place", False), QPoint(10, 300))
    assert window.finder.isVisible()
    offered = [
        window.finder.rows.item(i).data(Qt.ItemDataRole.UserRole).id
        for i in range(window.finder.rows.count())
    ]
    assert "bend_place" in offered and "blur" not in offered
    hands.bot.keyClick(window.finder.line, Qt.Key.Key_Escape)
    # A card let go on a thread is tied in; pulled with Alt it is taken out again.
    hands.drag(hands.port_at(noise, "noise", True), hands.port_at(tone, "map", False))
    board = window.board
    strand = next(iter(board.board.strands.values()))
    middle = board.mapFromScene(strand.course.middle())
    card = board.board.cards[blur]
    grip = board.mapFromScene(card.pos() + card.body().center())
    hands.drag(grip, middle)
    assert w.graph.incoming(blur)["map"].node == noise and w.graph.incoming(tone)["map"].node == blur
    grip = board.mapFromScene(board.board.cards[blur].pos() + card.body().center())
    hands.drag(grip, grip + QPoint(150, 60), Qt.KeyboardModifier.AltModifier)
    assert w.graph.incoming(tone)["map"].node == noise and not w.graph.incoming(blur)


def test_copies_muting_swapping_bays_and_notes(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    window, w = hands.window, hands.workplace
    first = hands.hang("disc")
    w.select(())
    second = hands.hang("number")
    w.select({first, second})
    mix = hands.hang("blend")
    assert set(w.graph.incoming(mix)) == {"below", "above"}
    hands.press("swap_inputs")
    swapped = w.graph.incoming(mix)
    hands.press("select_all")
    hands.press("copy")
    assert len(decode_document(QGuiApplication.clipboard().text().encode()).graph.nodes) == 3
    hands.press("paste")
    assert len(w.graph.nodes) == 6 and len(w.graph.threads) == 4
    w.select({mix})
    hands.press("duplicate_tied")
    copy = w.selected_node
    assert copy is not None and w.graph.incoming(copy) == swapped
    hands.press("mute")
    assert w.graph.nodes[copy].muted and "1 muted" in window.status.counts.text()
    monkeypatch.setattr(
        "reedloom.desk.board.board_commands.QInputDialog.getText", lambda *a, **k: ("Lid", True)
    )
    hands.press("frame_in_bay")
    (bay,) = w.graph.bays.values()
    assert bay.title == "Lid"
    before = w.graph.nodes[copy]
    w.select({bay.id})
    start = window.board.mapFromScene(bay.x + 60, bay.y + 3)
    hands.drag(start, start + QPoint(50, 70))
    after = w.graph.nodes[copy]
    assert (after.x, after.y) != (before.x, before.y)
    assert after.x - before.x == pytest.approx(w.graph.bays[bay.id].x - bay.x)
    w.submit(PutItem(Bay(id=bay.id, title="Rim")))
    hands.press("arrange")
    places = [(n.x, n.y) for n in w.graph.nodes.values()]
    assert len(set(places)) == len(places)
    hands.press("delete")
    hands.press("select_all")
    hands.press("delete")
    assert not w.graph.nodes and not w.graph.bays


def test_everything_a_journey_did_can_be_undone(hands: Hands) -> None:
    w, chance = hands.workplace, random.Random(3)
    start = w.document
    for text in ("cellular", "levels", "blur", "gradient map", "blend"):
        hands.hang(text)
        for name, editor in hands.window.settings.editors.items():
            if editor.parameter.is_number and chance.random() < 0.5:
                low, high = editor.parameter.useful
                hands.set_number(name, f"{round(low + (high - low) / 2)}")
        hands.press(chance.choice(["duplicate", "mute", "take_out", "untie_selected", "arrange"]))
    end, steps = w.document, 0
    while w.session.undo_label is not None:
        hands.press("undo")
        steps += 1
    assert w.document == start and steps > 12
    while w.session.redo_label is not None:
        hands.press("redo")
    assert w.document == end
    hands.wait_until_done()


def test_a_broken_file_is_explained_and_changes_nothing(
    hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    hands.hang("disc")
    before = hands.workplace.document
    said = answer_with(monkeypatch, "OK")
    broken = tmp_path / "broken.reed"
    broken.write_bytes(shipped_weave("lakebed-clay").read_bytes()[:5000])
    assert not hands.window.documents.open_now(broken)
    assert len(said) == 1 and "not whole JSON: line" in said[0]
    assert hands.workplace.document is before
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "no" / "x.reed"), ""))
    hands.press("save")
    assert "Cannot save" in said[1] and not hands.workplace.session.is_saved


def test_the_flat_view_says_what_it_shows(hands: Hands) -> None:
    window, w, flat = hands.window, hands.workplace, hands.window.flat
    cells = hands.hang("cellular")
    w.select({cells})
    hands.bot.keyClick(window, Qt.Key.Key_1)
    hands.bot.keyClick(window, Qt.Key.Key_1)
    hands.bot.keyClick(window, Qt.Key.Key_2)
    hands.wait_until_done()
    assert w.pins["A"] is not None and w.pins["A"].port != w.pins["B"].port  # type: ignore[union-attr]
    assert "Pin A: Cellular noise" in flat.title.text() and "B: Cellular noise" in flat.title.text()
    canvas = flat.canvas
    assert canvas.first is not None and canvas.second is not None
    hands.bot.mouseMove(canvas, QPoint(canvas.width() // 2 + 30, canvas.height() // 2))
    assert "A " in flat.value.text() and "u 0." in flat.value.text()
    flat.compare.setCurrentIndex(1)
    flat.refresh()
    assert "Difference" in flat.title.text() and canvas.second is None
    for index in range(flat.look.count()):
        flat.look.setCurrentIndex(index)
        flat.refresh()
        assert not canvas.grab().isNull()
    hands.press("next_repeat")
    hands.window.actions_["toggle_seam"].toggle()
    flat.buttons["histogram"].toggle()
    assert canvas.repeat == 2 and canvas.seam and canvas.histogram and not canvas.grab().isNull()
    w.select({cells})
    hands.press("delete")
    assert w.pins == {"A": None, "B": None}


def test_large_views_are_painted_off_the_windows_thread(hands: Hands) -> None:
    node = hands.hang("gradient noise")
    hands.window.size_choice.setCurrentIndex(2)
    hands.window.size_choice.activated.emit(2)
    canvas = hands.window.flat.canvas
    hands.bot.waitUntil(
        lambda: canvas.first is not None and canvas.first.image.width() == 1024, timeout=30_000
    )
    hands.workplace.select({node})
    before = canvas.first
    for seed in range(1, 6):
        hands.set_number("seed", str(seed))
    hands.wait_until_done()
    wanted = rl.evaluate(rl.Weave(hands.workplace.document), node, 1024)
    hands.bot.waitUntil(
        lambda: canvas.first is not before and canvas.first.image.width() == 1024, timeout=30_000
    )
    hands.bot.wait(300)
    assert canvas.first is not None
    shown = canvas.first.image.pixelColor(500, 300).red() / 255
    assert shown == pytest.approx(float(np.clip(wanted[300, 500], 0, 1)), abs=0.01)


def test_editors_of_every_type_change_and_reset(hands: Hands) -> None:
    window, w = hands.window, hands.workplace
    node = hands.hang("gradient map")
    gradient = window.settings.editors["gradient"].gradient  # type: ignore[attr-defined]
    gradient.setFocus()
    hands.bot.keyClick(gradient, Qt.Key.Key_Insert)
    hands.bot.keyClick(gradient, Qt.Key.Key_Right)
    assert len(KINDS.value(w.graph.nodes[node], "gradient")) == 4
    hands.bot.keyClick(gradient, Qt.Key.Key_Delete)
    window.settings.resets["gradient"].click()
    assert "gradient" not in w.graph.nodes[node].parameters
    curve_node = hands.hang("curve")
    curve = window.settings.editors["curve"].curve  # type: ignore[attr-defined]
    hands.bot.mousePress(curve, Qt.MouseButton.LeftButton, pos=QPoint(curve.width() // 2, 30))
    hands.bot.mouseMove(curve, QPoint(curve.width() // 2, 50))
    hands.bot.mouseRelease(curve, Qt.MouseButton.LeftButton, pos=QPoint(curve.width() // 2, 50))
    assert len(KINDS.value(w.graph.nodes[curve_node], "curve")) == 3
    hands.bot.keyClick(curve, Qt.Key.Key_Return)
    assert KINDS.value(w.graph.nodes[curve_node], "curve")[1][2] == 1.0
    noise = hands.hang("gradient noise")
    field = window.settings.editors["cells"].field  # type: ignore[attr-defined]
    hands.set_number("cells", "99999")
    assert field.property("wrong") == "true" and "from 1 to 4096" in window.status.message.text()
    hands.set_number("cells", "7*9")
    assert KINDS.value(w.graph.nodes[noise], "cells") == 63 and not field.property("wrong")
    hands.bot.keyClick(field, Qt.Key.Key_Up)
    assert KINDS.value(w.graph.nodes[noise], "cells") == 64
    hands.set_number("gain", "__import__('os')")
    assert "is not a number. At character 1" in window.status.message.text()


def test_a_surface_of_materials_goes_to_the_rail_and_its_rig_to_another_weave(hands: Hands) -> None:
    """Clean metal, and rust where it is hollow: mixed, tied by one drop, copied, and pasted elsewhere."""
    w = hands.workplace
    places = iter(QPoint(120 + 150 * (i % 4), 60 + 160 * (i // 4)) for i in range(12))
    names = ("gradient noise", "solid", "material", "material", "mix materials")
    noise, rust, clean, dirty, mix = (hands.hang(name, next(places)) for name in names)
    for source, target in (
        (f"{noise}.noise", f"{clean}.height"), (f"{rust}.colour", f"{dirty}.base_colour"),
        (f"{clean}.material", f"{mix}.below"), (f"{dirty}.material", f"{mix}.above"),
        (f"{noise}.noise", f"{mix}.mask"),
    ):  # fmt: skip
        ends = [End(node=n, port=p) for n, p in (source.split("."), target.split("."))]
        assert w.submit(Connect(*ends)) or ends[1].port in w.graph.incoming(ends[1].node)
    hands.press("fit_all")
    hands.drag(hands.port_at(mix, "material", True), hands.slot("roughness"))
    assert set(w.graph.ends) == {"base_colour", "height"}  # what the materials have
    hands.wait_until_done()
    assert not w.failures
    w.pin("A", End(node=mix, port="material"))
    hands.wait_until_done()
    assert set(w.view_materials[End(node=mix, port="material")]) == {"base_colour", "height"}
    assert w.view_arrays[End(node=mix, port="material")].shape[2] == 3
    hands.press("select_all")
    hands.window.board.setFocus()
    hands.press("copy")
    count, threads = len(w.graph.nodes), len(w.graph.threads)
    w.session.mark_saved()
    hands.press("new_weave")
    assert not w.graph.nodes
    hands.press("paste")
    assert (len(w.graph.nodes), len(w.graph.threads)) == (count, threads)
    hands.wait_until_done()
    assert not w.failures


def test_stones_are_laid_varied_thinned_and_stamped_by_hand(hands: Hands) -> None:
    """Points, what varies them and the stamp tie themselves as they are hung; a drawing is pulled in."""
    w, window = hands.workplace, hands.window
    points = hands.hang("scatter points", QPoint(420, 60))
    varied = hands.hang("vary points", QPoint(420, 220))
    stones = hands.hang("stamp", QPoint(420, 400))
    assert str(w.graph.incoming(varied)["points"]) == f"{points}.points"
    assert str(w.graph.incoming(stones)["points"]) == f"{varied}.points"
    hands.wait_until_done()
    assert "Drawing" in w.failures[stones]

    w.select(())
    stone = hands.hang("petal", QPoint(120, 220))
    hands.drag(hands.port_at(stone, "profile", True), hands.port_at(stones, "drawing", False))
    hands.wait_until_done()
    assert str(w.graph.incoming(stones)["drawing"]) == f"{stone}.profile" and not w.failures
    w.select({stones})
    hands.press("pin_a")
    hands.wait_until_done()
    whole = window.flat.canvas.first
    assert whole is not None and "Stamp" in window.flat.title.text()

    board = window.board
    into = End(node=stones, port="points")
    strand = next(s for thread, s in board.board.strands.items() if thread.target == into)
    w.select(())
    kept = hands.hang("keep points", QPoint(120, 500))
    card = board.board.cards[kept]
    hands.drag(
        board.mapFromScene(card.pos() + card.body().center()), board.mapFromScene(strand.course.middle())
    )
    assert str(w.graph.incoming(kept)["points"]) == f"{varied}.points"
    assert str(w.graph.incoming(stones)["points"]) == f"{kept}.points"
    w.select({kept})
    hands.set_number("share", "1/3")
    hands.wait_until_done()
    assert not w.failures
    weave = rl.Weave(w.document)
    few = rl.evaluate(weave, f"{kept}.points", size=64)
    many = rl.evaluate(weave, f"{varied}.points", size=64)
    assert 0 < len(few) < len(many) and set(few["id"]) < set(many["id"])
    stay = many[np.isin(many["id"], few["id"])]
    assert np.array_equal(stay["turn"], few["turn"]) and np.array_equal(stay["u"], few["u"])

    while w.session.undo_label:
        hands.press("undo")
    assert not w.graph.nodes and not w.graph.threads
