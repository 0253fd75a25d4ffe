"""Dials, colourways, the rail, the book, the creel and motifs by keys, menus and grips alone."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton, QWidget

import reedloom as rl
from conftest import Hands, answer_texts, ask_for_menu, choose, with_keyboard
from reedloom.desk.settings.series import Grip
from reedloom.desk.sheets import book_model
from reedloom.errors import Cancelled
from reedloom.weave.document import Dial, End
from reedloom.weave.edits import PutColourway, PutDial, TurnDials

ALT = Qt.KeyboardModifier.AltModifier
CTRL = Qt.KeyboardModifier.ControlModifier
KEYS = Qt.Key


def drag_grip(hands: Hands, grip: QWidget, to: QPoint) -> None:
    """Drag a grip or a tile to a place on the screen."""
    hands.bot.mousePress(grip, Qt.MouseButton.LeftButton)
    start = grip.mapToGlobal(grip.rect().center())
    for place in ((start + to) / 2, to):
        hands.bot.mouseMove(grip, grip.mapFromGlobal(place))
    hands.bot.mouseRelease(grip, Qt.MouseButton.LeftButton, pos=grip.mapFromGlobal(to))


def two_groups(hands: Hands) -> None:
    """Three dials in two groups."""
    for key, group in (("grain", "Ground"), ("wet", "Ground"), ("lichen", "Growth")):
        dial = Dial(label=key.capitalize(), default=0.5, hard=(0.0, 1.0), useful=(0.0, 1.0), group=group)
        hands.workplace.submit(PutDial("", key, dial))
    hands.press("focus_dials")
    QApplication.processEvents()


def test_dials_are_made_named_and_taken_away_where_they_are_listed(hands: Hands) -> None:
    window, w = hands.window, hands.workplace
    hands.press("focus_dials")
    dials = window.dials
    assert dials.hasFocus() or dials.isAncestorOf(with_keyboard())
    for number in (1, 2):
        next(b for b in dials.findChildren(QPushButton) if b.text() == "New dial").click()
        assert len(w.document.dials) == number
    # The name of a new dial waits to be typed over, and the warning says that nothing follows it.
    line = dials.forms["new_dial_2"].fields["label"]
    assert with_keyboard() is line and line.selectedText() == line.text()
    hands.bot.keyClicks(line, "Moss")
    hands.bot.keyClick(line, KEYS.Key_Return)
    assert w.document.dials["new_dial_2"].label == "Moss"
    assert dials.rows["new_dial_2"].name.property("role") == "warning"
    # What cannot be is said in a sentence, and the dial stays.
    before = w.document
    low = dials.forms["new_dial_2"].fields["hard 0"]
    low.setText("a third")
    low.editingFinished.emit()
    assert "a third" in window.status.message.text() and w.document is before
    low.setText("9")
    low.editingFinished.emit()
    assert w.document.dials["new_dial_2"].hard == (0.0, 1.0) and window.status.message.text()
    # A slider's range past the typed one takes that along.
    high = dials.forms["new_dial_2"].fields["useful 1"]
    high.setText("2 * 3")
    high.editingFinished.emit()
    assert w.document.dials["new_dial_2"].useful[1] == 6 and w.document.dials["new_dial_2"].hard[1] == 6
    dials.forms["new_dial_2"].remove.click()
    assert set(w.document.dials) == {"new_dial"} and set(dials.rows) == {"new_dial"}
    hands.press("undo")
    assert w.document.dials["new_dial_2"].label == "Moss"


def test_dials_change_places_by_keys_and_by_their_grips(hands: Hands) -> None:
    w, dials = hands.workplace, hands.window.dials
    two_groups(hands)
    dials.rows["grain"].editor.setFocus()
    hands.bot.keyClick(with_keyboard(), KEYS.Key_Down, ALT)
    assert list(w.document.dials) == ["wet", "grain", "lichen"]
    assert dials.rows["grain"].isAncestorOf(with_keyboard())  # it can be moved on at once
    assert w.document.dials["grain"].group == "Ground"
    hands.bot.keyClick(with_keyboard(), KEYS.Key_Down, ALT)
    assert list(w.document.dials) == ["wet", "lichen", "grain"]
    assert w.document.dials["grain"].group == "Growth"  # among those of another group it belongs to them
    recorded = w.document
    hands.bot.keyClick(with_keyboard(), KEYS.Key_Down, ALT)
    assert w.document is recorded  # it is the last
    grip = dials.rows["grain"].findChild(Grip)
    first = dials.rows["wet"]
    drag_grip(hands, grip, first.mapToGlobal(QPoint(5, 0)))
    assert list(w.document.dials) == ["grain", "wet", "lichen"]
    assert w.document.dials["grain"].group == "Ground"
    grip = dials.rows["grain"].findChild(Grip)
    drag_grip(hands, grip, grip.mapToGlobal(grip.rect().center()))
    assert list(w.document.dials) == ["grain", "wet", "lichen"]


def three_ways(hands: Hands) -> None:
    """Three dials and three colourways, seen in their panel."""
    two_groups(hands)
    for number, key in enumerate(("dry", "damp", "flooded")):
        hands.workplace.submit(PutColourway(key, key.capitalize(), {"wet": 0.4 * number}))
    hands.press("focus_colourways")
    QApplication.processEvents()


def test_colourways_are_gone_through_renamed_ordered_and_left_out_by_keys(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    w, strip = hands.workplace, hands.window.colourways
    three_ways(hands)
    strip.tiles["dry"].setFocus()
    hands.bot.keyClick(strip.tiles["dry"], KEYS.Key_Right)
    assert with_keyboard() is strip.tiles["damp"]
    hands.bot.keyClick(strip.tiles["damp"], KEYS.Key_Space)
    assert w.document.colourway == "damp" and w.document.settings["wet"] == 0.4
    hands.bot.keyClick(strip.tiles["damp"], KEYS.Key_Right, ALT)
    assert list(w.document.colourways) == ["dry", "flooded", "damp"]
    assert with_keyboard() is strip.tiles["damp"]
    hands.bot.keyClick(strip.tiles["damp"], KEYS.Key_Right)
    assert with_keyboard() is strip.tiles[""]  # around, to the defaults
    hands.bot.keyClick(strip.tiles[""], KEYS.Key_Return)
    assert not w.document.colourway and not w.document.settings
    for key in (KEYS.Key_Delete, KEYS.Key_F2):
        hands.bot.keyClick(strip.tiles[""], key)  # the defaults are neither left out nor renamed
    hands.bot.keyClick(strip.tiles[""], KEYS.Key_Left)
    answer_texts(monkeypatch, "", "Soaked")
    hands.bot.keyClick(strip.tiles["damp"], KEYS.Key_F2)
    assert w.document.colourways["damp"].label == "Damp"
    hands.bot.keyClick(strip.tiles["damp"], KEYS.Key_F2)
    assert w.document.colourways["damp"].label == "Soaked" == strip.tiles["damp"].name
    # Leaving one out puts the keyboard on its neighbour.
    strip.tiles["flooded"].setFocus()
    hands.bot.keyClick(strip.tiles["flooded"], KEYS.Key_Delete)
    assert list(w.document.colourways) == ["dry", "damp"] and with_keyboard() is strip.tiles["damp"]
    hands.bot.keyClick(strip.tiles["damp"], KEYS.Key_Delete)
    assert with_keyboard() is strip.tiles["dry"]
    hands.bot.keyClick(strip.tiles["dry"], KEYS.Key_Delete)
    assert not w.document.colourways and with_keyboard() is strip.tiles[""]


def test_colourways_have_a_menu_and_are_dragged(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    w, strip = hands.workplace, hands.window.colourways
    three_ways(hands)
    offered = choose(monkeypatch, "Put on")
    ask_for_menu(strip.tiles["flooded"])
    assert w.document.colourway == "flooded" and "Leave out" in offered[0]
    hands.bot.keyClick(strip.tiles[""], KEYS.Key_Menu)
    assert not w.document.colourway and list(offered[1]) == [
        "Put on"
    ]  # the defaults can be no more than that
    for wanted, order in (("Move left", "damp dry flooded"), ("Move right", "dry damp flooded")):
        choose(monkeypatch, wanted)
        ask_for_menu(strip.tiles["damp"])
        assert list(w.document.colourways) == order.split()
    choose(monkeypatch, "Leave out")
    ask_for_menu(strip.tiles["damp"])
    assert list(w.document.colourways) == ["dry", "flooded"]
    QApplication.processEvents()
    flooded = strip.tiles["flooded"]
    drag_grip(hands, strip.tiles["dry"], flooded.mapToGlobal(flooded.rect().center()))
    assert list(w.document.colourways) == ["flooded", "dry"]
    # A change since is shown on the tile, and kept or not.
    strip.put_on("dry")
    w.submit(TurnDials({"wet": 0.25}))
    assert strip.tiles["dry"].below == "changed since" and strip.update_.isVisible()
    strip.update_.click()
    assert w.document.colourways["dry"].values["wet"] == 0.25 and not strip.update_.isVisible()


def test_the_rail_is_tied_untied_and_looked_at_by_keys_and_its_menu(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, w = hands.window, hands.workplace
    slot = window.rail.slots["height"]
    slot.setFocus()
    hands.bot.keyClick(slot, KEYS.Key_Return)
    assert "Select one node" in window.status.message.text() and not w.graph.ends
    disc = hands.hang("disc")
    slot.setFocus()
    hands.bot.keyClick(slot, KEYS.Key_Return)
    assert w.graph.ends["height"] == End(node=disc, port=w.kinds.of(w.graph.nodes[disc]).outputs[0].name)
    hands.bot.keyClick(slot, KEYS.Key_F2)  # a map of the material has its name
    hands.bot.keyClick(slot, KEYS.Key_Delete)
    assert not w.graph.ends
    offered = choose(monkeypatch, "Untie")
    ask_for_menu(slot)
    assert not offered[0]["Untie"] and offered[0]["Tie the selected node here"]
    choose(monkeypatch, "Tie the selected node here")
    ask_for_menu(window.rail.slots["roughness"])
    assert set(w.graph.ends) == {"roughness"}
    choose(monkeypatch, "Look at this map")
    ask_for_menu(window.rail.slots["roughness"])
    hands.wait_until_done()
    assert "Roughness" in window.flat.title.text()
    choose(monkeypatch, "Untie")
    ask_for_menu(window.rail.slots["roughness"])
    assert not w.graph.ends
    w.select(())
    offered = choose(monkeypatch, "Tie the selected node here")
    ask_for_menu(slot)
    assert not offered[0]["Tie the selected node here"] and not w.graph.ends


def test_outlets_of_a_motif_are_made_renamed_and_taken_away_on_the_rail(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, w = hands.window, hands.workplace
    noise = hands.hang("gradient noise")
    w.select({noise})
    answer_texts(monkeypatch, "Fog")
    hands.press("pack_motif")
    hands.press("go_in")
    rail = window.rail
    inner = next(iter(w.graph.nodes))
    w.select({inner})
    free = rail.slots[""]
    free.setFocus()
    hands.bot.keyClick(free, KEYS.Key_F2)  # what is not there yet has no name
    hands.bot.keyClick(free, KEYS.Key_Return)
    outlets = [key for key in rail.slots if key]
    assert len(outlets) == 2
    new = rail.slots[outlets[-1]]
    answer_texts(monkeypatch, "Haze")
    new.setFocus()
    hands.bot.keyClick(new, KEYS.Key_F2)
    assert rail.slots[outlets[-1]].label == "Haze"
    choose(monkeypatch, "Take this outlet away")
    ask_for_menu(rail.slots[outlets[-1]])
    assert [key for key in rail.slots if key] == outlets[:1]
    hands.press("undo")
    assert rail.slots[outlets[-1]].label == "Haze"


def test_the_book_is_kept_in_folders_and_gone_through_by_keys(
    hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, w = hands.window, hands.workplace
    folder = tmp_path / "quay"
    folder.mkdir()
    for name, kind in (("Quay wall", "cracks"), ("Quay moss", "gradient_noise")):
        weave = rl.Weave()
        weave.tie(weave.add(kind), "height")
        weave.rename(name)
        rl.save_weave(weave, folder / f"{name.lower().replace(' ', '-')}.reed")
    (folder / "torn.reed").write_bytes(b"{")
    hands.press("swatch_book")
    book = window.reuse.book
    assert book is not None
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: "")
    book.add_folder()
    before = book.folder.count()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder))
    for _ in range(2):  # a folder that is there is not there twice
        book.add_folder()
    assert book.folder.count() == before + 1 and QSettings().value("book/folders") in (
        [str(folder)],
        str(folder),
    )
    hands.bot.keyClick(book.folder, KEYS.Key_End)
    assert book.folder.currentData() == str(folder)
    hands.bot.waitUntil(lambda: len(book.model.shown) == 3, timeout=20_000)
    assert book.leave.isVisible()
    # What cannot be used says why, and can be neither opened nor hung.
    book.list.setCurrentIndex(book.model.index([bool(e.trouble) for e in book.model.shown].index(True)))
    assert "not whole JSON" in book.told.text() and not book.opener.isEnabled()
    document = w.document
    hands.bot.keyClick(book, KEYS.Key_Return)
    hands.bot.keyClick(book, KEYS.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert w.document is document and book.isVisible()
    # Typed, gone down to, and hung.
    book.line.setFocus()
    hands.bot.keyClicks(book.line, "moss qu")
    assert [e.name for e in book.model.shown] == ["Quay moss"]
    hands.bot.keyClick(book.line, KEYS.Key_Down)
    assert with_keyboard() is book.list and book.entry is not None and book.entry.title == "Quay moss"
    hands.bot.keyClick(book.list, KEYS.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert [m.title for m in w.document.motifs.values()] == ["Quay moss"]
    hands.press("swatch_book")
    book.line.clear()
    hands.bot.keyClicks(book.line, "nothing of the kind")
    assert not book.model.shown and book.entry is None and "nothing" in book.told.text().lower()
    book.line.clear()
    book.leave_folder()
    assert book.folder.count() == before and not book.leave.isVisible()
    assert (folder / "quay-wall.reed").exists()
    book.hide()


def test_the_creel_is_gone_through_by_keys(hands: Hands) -> None:
    window, w = hands.window, hands.workplace
    creel, rows = window.creel, window.creel.flyout.rows
    hands.press("focus_creel")
    first, second = list(creel.buttons.values())[:2]
    first.setFocus()
    hands.bot.keyClick(first, KEYS.Key_Up)
    assert with_keyboard() is list(creel.buttons.values())[-1]
    hands.bot.keyClick(with_keyboard(), KEYS.Key_Down)
    assert with_keyboard() is first
    hands.bot.keyClick(first, KEYS.Key_Right)
    assert creel.flyout.isVisible() and with_keyboard() is rows
    hands.bot.keyClick(rows, KEYS.Key_Left)
    assert not creel.flyout.isVisible() and with_keyboard() is first
    hands.bot.keyClick(first, KEYS.Key_Return)
    hands.bot.keyClick(rows, KEYS.Key_Down)
    chosen = rows.currentRow()
    for _ in range(40):  # past the last picture there is no other
        hands.bot.keyClick(rows, KEYS.Key_Right)
    assert chosen > 0 and rows.currentRow() == chosen and creel.flyout.painter.marked >= -1
    hands.bot.keyClick(rows, KEYS.Key_Return)
    assert len(w.graph.nodes) == 1
    hands.bot.mouseClick(second, Qt.MouseButton.LeftButton)
    assert creel.flyout.isVisible() and second.isChecked()
    hands.bot.mouseClick(second, Qt.MouseButton.LeftButton)
    assert not creel.flyout.isVisible()


def test_what_has_the_keyboard_comes_before_the_windows_shortcuts(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Ctrl with an arrow goes out of a motif, unless it has another use where the keyboard is."""
    window, w = hands.window, hands.workplace
    disc = hands.hang("disc")
    w.select({disc})
    answer_texts(monkeypatch, "Spot")
    hands.press("pack_motif")
    hands.press("go_in")
    motif = w.session.motif
    assert motif
    cloth = hands.hang("woven cloth")
    w.select({cloth})
    numbers = [
        e for e in window.settings.editors.values() if hasattr(e, "slider") and not e.parameter.is_whole
    ]
    editor = numbers[0]
    name, parameter = editor.parameter.name, editor.parameter
    span = parameter.useful[1] - parameter.useful[0]
    for part, step in ((editor.slider, 1e-3), (editor.field, 1e-3), (editor.slider, -1e-3)):
        before = w.kinds.value(w.graph.nodes[cloth], name)
        part.setFocus()
        hands.bot.keyClick(part, KEYS.Key_Up if step > 0 else KEYS.Key_Down, CTRL)
        after = w.kinds.value(w.graph.nodes[cloth], name)
        assert after - before == pytest.approx(step * span, rel=1e-3) and w.session.motif == motif
    board = window.board
    board.setFocus()
    hands.bot.keyClick(board, KEYS.Key_Up, CTRL)
    assert not w.session.motif


def test_a_motif_is_described_and_its_inlets_are_named_in_the_settings(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, w = hands.window, hands.workplace
    told = window.status.message
    for command in ("pack_motif", "describe_motif"):
        hands.press(command)
        assert "Select" in told.text()
        told.setText("")
    noise, blur = hands.hang("gradient noise"), hands.hang("blur")
    w.select({blur})
    answer_texts(monkeypatch, "", "Mist", "", "Sea mist", "", "Haar", "Rolls in from the lake.")
    hands.press("pack_motif")
    assert not w.document.motifs  # called off
    w.select({blur})
    hands.press("pack_motif")
    (key,) = w.document.motifs
    assert w.document.motifs[key].title == "Mist"
    for _ in range(3):  # called off at the name, at the purpose, and at neither
        hands.press("describe_motif")
    motif = w.document.motifs[key]
    assert (motif.title, motif.purpose) == ("Haar", "Rolls in from the lake.")
    (use,) = w.selected_nodes
    hands.press("go_in")
    (inlet,) = w.document.motifs[key].inlets
    w.select({inlet})
    hands.press("rename")
    title = window.settings._title
    assert with_keyboard() is title
    title.setText("What drifts")
    title.editingFinished.emit()
    assert w.document.motifs[key].inlets[inlet].label == "What drifts"
    hands.press("go_out")
    (port,) = (p for p in w.kinds.of(w.graph.nodes[use]).inputs if p.name == inlet)
    assert port.label == "What drifts" and w.graph.incoming(use)[inlet].node == noise


def test_pictures_of_the_book_wait_while_it_is_scrolled(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    now = [100.0]
    slept: list[float] = []

    def pass_time(seconds: float) -> None:
        slept.append(seconds)
        now[0] += seconds

    hands.press("swatch_book")
    book = hands.window.reuse.book
    assert book is not None
    hands.bot.waitUntil(lambda: len(book.model.images) > 2, timeout=60_000)
    sides = {max(image.width(), image.height()) for image in book.model.images.values()}
    assert sides == {round(book_model.PICTURE * book.devicePixelRatio())}
    monkeypatch.setattr(book_model, "monotonic", lambda: now[0])
    monkeypatch.setattr(book_model, "sleep", pass_time)
    stop = book.model.thumbnails.stop
    stop.check()
    assert not slept
    book.resize(420, 380)
    QApplication.processEvents()
    bar = book.list.verticalScrollBar()
    hands.bot.waitUntil(lambda: bar.maximum() > 0)
    hands.bot.keyClick(book.line, KEYS.Key_Down)
    hands.bot.keyClick(book.list, KEYS.Key_End)
    hands.bot.waitUntil(lambda: bar.value() > 0)
    stop.check()
    assert slept and sum(slept) > 0.99 * book_model.MOMENT
    stop.give_way()
    stop.set()  # nothing waits for a moment that is of no use any more
    before = len(slept)
    with pytest.raises(Cancelled):
        stop.check()
    assert len(slept) == before
    book.hide()
