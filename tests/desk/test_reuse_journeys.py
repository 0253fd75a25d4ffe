"""A maker exposes, packs, keeps variants and puts them in the book; a user takes them from there."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QWidget

import reedloom as rl
from conftest import Hands, answer_texts, answer_with
from reedloom.data import shipped_weave
from reedloom.desk.board.hanging import kinds_offered
from reedloom.desk.sheets.book_model import ENTRY_ROLE
from reedloom.desk.sheets.deliver_dialog import DeliverDialog
from reedloom.desk.sheets.try_sheet import ARRANGEMENTS, NONE, TrySheet
from reedloom.picture_files import read_map
from reedloom.weave.document import Colourway, Dial, End
from reedloom.weave.edits import PutColourway, PutDial, SetParameters
from reedloom.weave.motifs import used_motif


def small_weave(hands: Hands) -> tuple[str, str, str]:
    """A noise, softened, with its tones stretched, tied to the height."""
    noise, soft, tone = hands.hang("gradient noise"), hands.hang("blur"), hands.hang("levels")
    hands.drag(hands.port_at(tone, "map", True), hands.slot("height"))
    hands.press("show_material")
    hands.wait_until_done()
    return noise, soft, tone


def picture(hands: Hands) -> object:
    """What the flat view shows."""
    hands.wait_until_done()
    shown = hands.window.flat.canvas.first
    assert shown is not None
    return shown.image


def test_a_maker_exposes_packs_keeps_variants_and_puts_it_in_the_book(
    hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, w = hands.window, hands.workplace
    noise, soft, tone = small_weave(hands)
    before = picture(hands)
    # A value becomes a dial with one command, and nothing changes.
    w.select({soft})
    window.settings.editors["radius"].setFocus()
    hands.press("make_dial")
    assert w.document.dials["radius"].default == 0.01 and picture(hands) == before
    line = window.settings.driven["radius"]
    assert line.isVisible() and line.line.text() == "radius" and "0.01" in line.result.text()
    # It is named and given a range where the dials are; a click goes to what it drives.
    w.select(())
    hands.press("focus_dials")
    dials = window.dials
    dials._unfold("radius", True)
    form = dials.forms["radius"]
    form.fields["label"].setText("Softness")
    form.fields["label"].editingFinished.emit()
    form = dials.forms["radius"]
    form.fields["useful 1"].setText("1/20")
    form.fields["useful 1"].editingFinished.emit()
    assert w.document.dials["radius"].label == "Softness"
    assert w.document.dials["radius"].useful == (0.0, 0.05)
    dials.forms["radius"].drives.itemAt(0).widget().click()  # type: ignore[union-attr]
    assert w.selected_node == soft
    # A formula is typed; names are offered, what is wrong is said at once, and what it comes to.
    w.select({tone})
    window.settings.editors["gamma"].setFocus()
    hands.press("write_formula")
    line = window.settings.driven["gamma"]
    line.line.clear()
    hands.bot.keyClicks(line.line, "1 + soft")
    assert line.completer.completionCount() == 1 and "unknown" in line.trouble.text()
    line._complete(line.completer.currentCompletion())
    hands.bot.keyClicks(line.line, " * 20")
    assert line.line.text() == "1 + radius * 20" and "1.2" in line.result.text()
    line.offered.hide()
    hands.bot.keyClick(line.line, Qt.Key.Key_Return)
    assert w.graph.nodes[tone].formulas == {"gamma": "1 + radius * 20"}
    assert picture(hands) != before
    # Turning the dial turns both; one drag is one step.
    row = dials.rows["radius"]
    hands.press("focus_dials")
    row.editor.changing.emit(0.03)
    row.editor.changed.emit(0.04)
    values = w.flat.values(tone)
    assert values is not None and values["gamma"] == pytest.approx(1.8)
    assert w.session.undo_label == "Turn radius"
    # Two variants are kept and blended; the strip shows pictures of them.
    answer_texts(monkeypatch, "Soft", "Crisp")
    hands.press("keep_colourway")
    w.submit(SetParameters(noise, {"seed": 5}))
    dials.rows["radius"].editor.changed.emit(0.002)
    hands.press("focus_colourways")
    assert window.colourways.update_.isVisible() and window.colourways.tiles["soft"].below
    hands.press("keep_colourway")
    assert list(w.document.colourways) == ["soft", "crisp"]
    strip = window.colourways
    hands.bot.waitUntil(lambda: len(strip.images) == 3, timeout=20_000)
    blend = strip.blend
    assert blend is not None
    blend.first.setCurrentIndex(blend.first.findData("soft"))
    blend.second.setCurrentIndex(blend.second.findData("crisp"))
    blend._go(0.5, True)
    assert w.document.settings["radius"] == pytest.approx(0.021)
    # Both are compared on the pins.
    w.pin_colourway("A", "soft")
    w.pin_colourway("B", "crisp")
    hands.wait_until_done()
    assert "Soft" in window.flat.title.text() and window.flat.canvas.second is not None
    hands.press("show_material")
    strip.put_on("crisp")
    # All are delivered at once, with their names in the files.
    dialog = DeliverDialog(w, tmp_path / "maps", window)
    dialog.size_choice.setCurrentIndex(dialog.size_choice.findData(256))
    dialog.all_ways.click()
    assert "2 files" in dialog.example.text()
    dialog.go.click()
    hands.bot.waitUntil(lambda: dialog.stop is None, timeout=60_000)
    made = {p.name: read_map(p) for p in (tmp_path / "maps").iterdir()}
    assert set(made) == {"untitled_soft_height.png", "untitled_crisp_height.png"}
    weave = rl.Weave(w.document)
    for name, label in (("untitled_soft_height.png", "Soft"), ("untitled_crisp_height.png", "Crisp")):
        wanted = rl.evaluate_maps(weave, 256, colourway=label)["height"]
        assert np.abs(made[name] - np.clip(wanted, 0, 1)).max() < 1e-5
    dialog.reject()
    # Two cards are packed; one is gone into and out of with the keyboard.
    plain = picture(hands)
    w.select({soft, tone})
    answer_texts(monkeypatch, "Edge, worn soft")
    hands.press("pack_motif")
    use = w.selected_node
    assert use is not None and used_motif(w.graph.nodes[use].kind) == "edge_worn_soft"
    assert picture(hands) == plain
    window.activateWindow()
    hands.bot.waitUntil(window.isActiveWindow)
    window.board.setFocus()
    hands.bot.keyClick(window.board, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    assert w.session.path == (use,) and set(w.graph.nodes) == {soft, tone, "map"}
    assert set(window.rail.slots) == {"map", ""}
    hands.wait_until_done()
    assert w.looks[End(node=f"{use}.{soft}", port="map")].image is not None
    assert window.rail.slots["map"].look is not None
    # A second outlet, from a thread pulled to the rail; a value changed within changes the weave.
    window.board.fit_all()
    hands.drag(hands.port_at(soft, "map", True), hands.slot(""))
    assert list(w.document.motifs["edge_worn_soft"].outlets) == ["map", "map_2"]
    w.submit(SetParameters(tone, {"from_high": 0.6}))
    assert picture(hands) != plain
    hands.press("undo")
    assert picture(hands) == plain
    # Its own dials are there; the view goes on showing the weave.
    hands.press("focus_dials")
    assert list(window.dials.rows) == ["radius"] and window.dials.rows["radius"].isVisible()
    hands.press("go_out")
    assert w.session.path == () and w.selected_node == use
    assert [p.name for p in w.kinds.of(w.graph.nodes[use]).outputs] == ["map", "map_2"]
    # Copies are of the same motif, until one is forked.
    hands.press("duplicate")
    copy = w.selected_node
    assert copy is not None and copy != use and len(w.document.motifs) == 1
    hands.press("fork_motif")
    assert len(w.document.motifs) == 2
    hands.press("delete")
    # The motif goes into the book, under a general and a particular name.
    w.select({use})
    answer_texts(monkeypatch, "Edge, worn soft")
    hands.press("keep_in_book")
    kept = rl.open_weave(tmp_path / "book" / "worn-soft.reed").document
    assert kept.motifs["edge_worn_soft"].general == "Edge" and kept.graph.ends
    # Unpacked, all is as it was.
    hands.press("unpack_motif")
    assert picture(hands) == plain and not any(used_motif(n.kind) for n in w.graph.nodes.values())
    w.select(())
    hands.press("focus_settings")
    for field, text in (("purpose", "Mist over the lake."), ("tags", "fog, water")):
        window.settings.about[field].setText(text)
        window.settings.about[field].editingFinished.emit()
    answer_texts(monkeypatch, "Haze, lake mist")
    hands.press("keep_in_book")
    mist = rl.open_weave(tmp_path / "book" / "lake-mist.reed").document
    assert (mist.general, mist.name, mist.tags) == ("Haze", "lake mist", ("fog", "water"))


def test_a_user_opens_it_turns_dials_and_takes_five_colourways(
    hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, w = hands.window, hands.workplace
    hands.press("swatch_book")
    book = window.reuse.book
    assert book is not None
    hands.bot.waitUntil(lambda: len(book.model.shown) >= 8, timeout=20_000)
    hands.bot.keyClicks(book.line, "patina bowl")
    assert [entry.title for entry in book.model.shown] == ["Beaten bronze"]
    hands.bot.keyClick(book, Qt.Key.Key_Return)
    assert book.entry is not None and book.entry.name == "Metal, beaten bronze"
    hands.bot.keyClick(book, Qt.Key.Key_Return)
    # It opens on its dial sheet: no board, all dials in words, the board's commands at rest.
    sheet = window.sheet
    assert window.pages.currentWidget() is sheet and w.path is None
    assert window.views.isVisible() and window.rail.isVisible() and not window.board.isVisible()
    assert not window.actions_["delete"].isEnabled() and not window.actions_["mute"].isEnabled()
    assert all(row.dial.help and row.parameter.title for row in sheet.dials.rows.values())
    first = picture(hands)
    # Older and greener, by the keyboard alone.
    hands.press("focus_dials")
    age = sheet.dials.rows["age"].editor
    age.setFocus()
    field = age.field  # type: ignore[attr-defined]
    assert isinstance(field, QLineEdit)
    field.selectAll()
    hands.bot.keyClicks(field, "0.9")
    hands.bot.keyClick(field, Qt.Key.Key_Return)
    older = picture(hands)
    assert older != first and w.document.settings == {"age": 0.9}
    flat = w.flat.source(w.document.graph.ends["metallic"])
    assert flat is not None
    hands.press("next_colourway")
    assert w.document.colourway and picture(hands) != older
    # Keys that change boards do nothing here.
    nodes = w.document.graph
    slot = window.rail.slots["height"]
    slot.setFocus()
    for key in (Qt.Key.Key_Delete, Qt.Key.Key_Return):
        hands.bot.keyClick(slot, key)
    assert w.document.graph is nodes
    sheet.back.click()
    assert not w.document.settings and picture(hands) is not None
    dialog = DeliverDialog(w, tmp_path / "{colourway}", window)
    dialog.size_choice.setCurrentIndex(dialog.size_choice.findData(256))
    for box in dialog.ways.values():
        box.setChecked(True)
    dialog.go.click()
    hands.bot.waitUntil(lambda: dialog.stop is None, timeout=120_000)
    folders = {p.name for p in tmp_path.iterdir() if (p / "beaten_bronze_height.png").exists()}
    assert folders == {"as_it_is", "newly_beaten", "feast_bowl", "from_the_lakebed", "red_copper"}
    dialog.reject()
    # The board is one key away.
    hands.press("dial_sheet")
    assert window.board.isVisible() and window.rail.isVisible() and window.views.isVisible()
    w.session.mark_saved()


def test_what_is_in_the_book_is_used_in_another_weave_and_renewed(
    hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, w = hands.window, hands.workplace
    maker = rl.Weave()
    noise, soft = maker.add("gradient_noise"), maker.add("blur")
    maker.connect(noise, soft)
    maker.add_dial("softness", default=0.01, useful=(0, 0.1), hard=(0, 0.5))
    maker.follow(soft, "radius", "softness")
    maker.tie(soft, "height")
    maker.rename("Lake mist")
    (tmp_path / "book").mkdir()
    file = tmp_path / "book" / "lake-mist.reed"
    rl.save_weave(maker, file)
    # Dropped on the board, a weave is a motif whose outlets are its slots, and its material.
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    board = window.board
    at = QPointF(200, 150)
    board.dropEvent(
        QDropEvent(
            at, Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )
    use = w.selected_node
    assert use is not None
    kind = w.kinds.of(w.graph.nodes[use])
    assert [p.name for p in kind.outputs] == ["material", "height"] and [p.name for p in kind.parameters] == [
        "softness"
    ]
    hands.wait_until_done()
    assert not w.failures
    hands.set_number("softness", "0.05")
    assert w.graph.nodes[use].parameters == {"softness": 0.05}
    # The finder offers it too, and the creel.
    window.creel.shelf.look()
    hands.bot.waitUntil(lambda: len(window.creel.shelf.kinds) >= 9, timeout=20_000)
    w.select(())
    hands.hang("lake mist")
    assert len(w.document.motifs) == 1 and len(w.graph.nodes) == 2
    window.creel.open_family("motif")
    titles = [window.creel.flyout.rows.item(i).data(ENTRY_ROLE).label for i in range(3)]
    assert "Lake mist" in titles
    hands.bot.waitUntil(lambda: any(k.startswith("book:") for k, _ in window.creel.pictures), timeout=20_000)
    window.creel.flyout.close_up()
    # A newer version tells what would change before it is taken.
    w.select({use})
    hands.press("pull_motif")
    assert "no newer version" in window.status.message.text()
    maker.set(noise, cells=9)
    maker.add_dial("depth", default=0.5)
    rl.save_weave(maker, file)
    asked = answer_with(monkeypatch, "Take it")
    hands.press("pull_motif")
    assert "'Gradient noise': cells set otherwise." in asked[0] and "dial 'Depth' is new" in asked[0]
    inner = w.document.motifs[used_motif(w.graph.nodes[use].kind)]
    assert inner.graph.nodes[noise].parameters["cells"] == 9
    assert w.graph.nodes[use].parameters == {"softness": 0.05}
    # A broken file is there with its reason, and costs nothing else.
    (tmp_path / "book" / "torn.reed").write_bytes(file.read_bytes()[:400])
    hands.press("swatch_book")
    book = window.reuse.book
    assert book is not None
    hands.bot.waitUntil(lambda: any(e.trouble for e in book.model.entries), timeout=20_000)
    torn = next(e for e in book.model.entries if e.trouble)
    assert "not whole JSON" in book.model.trouble(torn)
    own = next(e for e in book.model.entries if e.path == file)
    book.model.picture(own)
    hands.bot.waitUntil(lambda: str(file) in book.model.images, timeout=20_000)
    assert list((tmp_path / "thumbnails" / "large").glob("*.png"))
    # A folder that changes is looked at again.
    (tmp_path / "book" / "torn.reed").unlink()
    hands.bot.waitUntil(lambda: not any(e.trouble for e in book.model.entries), timeout=20_000)
    book.hide()


def on_screen(part: QWidget) -> QImage:
    """What was painted of a part of a window, each piece when it changed."""
    QApplication.processEvents()
    box, screen = part.geometry(), QApplication.primaryScreen()
    return screen.grabWindow(part.window().winId(), *box.getRect()).toImage()


def test_a_grid_of_results_is_tried_and_one_is_kept(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    window, w = hands.window, hands.workplace
    noise, soft, _ = small_weave(hands)
    w.submit(PutDial("", "many", rl_dial("count", 4), (noise, "cells")))
    w.submit(PutDial("", "soft", rl_dial("length", 0.01), (soft, "radius")))
    sheet = TrySheet(w, window)
    sheet.show()
    sheet.size_choice.setCurrentIndex(0)
    sheet._ask_soon()
    hands.bot.waitUntil(lambda: sheet.state.text() == "9 results", timeout=30_000)
    assert len(sheet.cells) == 9 and len(sheet.grid.images) == 9
    assert sheet.cells[0].values == {"many": 1, "soft": 0.0} and sheet.grid.across[0] == "1"
    # A change ends what runs, and only the newest grid is shown.
    sheet.across.high.setText("3")
    sheet.across.high._take()
    assert not sheet.grid.images or sheet._settle.isActive()
    hands.bot.waitUntil(lambda: not sheet._settle.isActive() and len(sheet.grid.images) == 9, timeout=30_000)
    assert [cell.values["many"] for cell in sheet.cells[:3]] == [1, 2, 3]
    hands.bot.waitUntil(lambda: sheet.state.text() == "9 results", timeout=30_000)
    assert on_screen(sheet.grid) == sheet.grab(sheet.grid.geometry()).toImage()
    sheet.grid.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Down):
        hands.bot.keyClick(sheet.grid, key)
    assert sheet.grid.current == 4
    answer_texts(monkeypatch, "Two and soft")
    sheet.keep_it()
    assert w.document.colourways["two_and_soft"].values["many"] == 2
    assert w.document.settings == w.document.colourways["two_and_soft"].values
    # Other arrangements fill the grid by themselves, in light if there is any.
    sheet.across.dial.setCurrentIndex(sheet.across.dial.findData(ARRANGEMENTS))
    sheet.down.dial.setCurrentIndex(sheet.down.dial.findData(NONE))
    late = sheet._request
    for axis in (sheet.across, sheet.down):
        axis._on_dial()
    sheet._on_finished(late)  # what was on its way when the choice changed says nothing of the new grid
    assert sheet.state.text() == "Making the results…"
    hands.bot.waitUntil(
        lambda: sheet.state.text() == "9 results" and len(sheet.grid.images) == 9, timeout=30_000
    )
    assert [cell.seeds for cell in sheet.cells] == list(range(9))
    sheet.grid.choose(3)
    sheet.turn_so()
    seed = w.kinds.value(w.graph.nodes[noise], "seed")
    assert seed == 303
    sheet.close()


def rl_dial(kind: str, default: float) -> object:
    """A dial over what such a parameter usefully is."""
    useful = (1.0, 9.0) if kind == "count" else (0.0, 0.1)
    hard = (1.0, 64.0) if kind == "count" else (0.0, 0.5)
    return Dial(type=kind, default=default, useful=useful, hard=hard, label=kind.capitalize())


def test_rows_offer_dials_and_a_broken_formula_tells_why(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, w = hands.window, hands.workplace
    _, soft, tone = small_weave(hands)
    w.select({soft})
    chosen: list[str] = []

    def choose(menu: QMenu, *_: object) -> None:
        found = {a.text(): a for a in menu.actions()}
        chosen[:] = [text for text, action in found.items() if action.isEnabled()]
        found[wanted].trigger()

    monkeypatch.setattr(QMenu, "popup", choose)
    wanted = "Make a dial"
    window.settings.more["radius"].click()
    assert "Let go" not in chosen and w.graph.nodes[soft].formulas == {"radius": "radius"}
    w.submit(PutDial("", "tint", rl_colour()))
    w.select({tone})
    # A hand at what follows a dial turns that dial; of a formula it is told to let it go.
    w.submit(PutDial("", "low", rl_dial("float", 0.1), (tone, "from_low")))
    strip = window.settings.strip
    assert strip is not None and strip.marks["from_low"] == pytest.approx(0.1)
    strip.changed.emit("from_low", 0.2)
    assert w.document.settings == {"low": 0.2} and w.graph.nodes[tone].formulas == {"from_low": "low"}
    window.settings.reuse.follow(tone, "from_low", "low / 2")
    strip.changed.emit("from_low", 0.3)
    assert "let it go first" in window.status.message.text() and w.document.settings == {"low": 0.2}
    window.settings.reuse.follow(tone, "from_low", None)
    window.settings.reuse.follow(tone, "gamma", "radius")
    wanted = "Let go"
    window.settings.more["gamma"].click()
    assert not w.graph.nodes[tone].formulas and not window.settings.driven["gamma"].isVisible()
    assert not w.submit(PutColourway("bad", "Bad", {"radius": 7.0}))
    assert (
        "'Radius' cannot be 7" in window.status.message.text() or "cannot be" in window.status.message.text()
    )
    # A document whose formula refers to nothing opens, and says so where it is.
    w.select({soft})
    document = w.document
    node = document.graph.nodes[soft]
    nodes = document.graph.nodes | {soft: replace(node, formulas={"radius": "gone + 1"})}
    w.replace_document(replace(document, graph=replace(document.graph, nodes=nodes)), None)
    w.select({soft})
    hands.wait_until_done()
    line = window.settings.driven["radius"]
    assert "'gone' is unknown here" in line.trouble.text() and line.result.text() == "= ?"
    assert "'gone' is unknown" in w.failures[soft] and "waits" in w.failures[tone]
    line.line.setFocus()
    line.line.setText("radius")
    hands.bot.keyClick(line.line, Qt.Key.Key_Return)
    hands.wait_until_done()
    assert not w.failures
    QApplication.processEvents()


def rl_colour() -> object:
    """A dial that is a colour."""
    return Dial(type="colour", default=(0.1, 0.2, 0.3), label="Tint")


def test_the_shipped_weaves_show_their_dials_within_the_sheet(hands: Hands) -> None:
    window = hands.window
    for name in ("shoreline-pebbles", "slip-glazed-jar"):
        window.documents.open_now(shipped_weave(name), as_copy=True)
        window.actions_["dial_sheet"].setChecked(True)
        hands.wait_until_done()
        for row in window.sheet.dials.rows.values():
            assert row.width() <= window.sheet.dials.viewport().width()
            assert not row.visibleRegion().isEmpty() or row.y() > 300
        assert window.sheet.dials.horizontalScrollBar().maximum() == 0
        window.actions_["dial_sheet"].setChecked(False)
        window.workplace.session.mark_saved()


def test_motifs_are_gone_into_three_deep_and_out_again(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    window, w = hands.window, hands.workplace
    _, soft, tone = small_weave(hands)
    plain = picture(hands)
    uses: list[str] = []
    for title, chosen in (("Outer", {soft, tone}), ("Middle", {soft, tone}), ("Inner", {tone})):
        w.select(chosen)
        answer_texts(monkeypatch, title)
        hands.press("pack_motif")
        assert w.selected_node is not None
        uses.append(w.selected_node)
        window.motif_commands.go_into(uses[-1])
        assert w.session.path == tuple(uses) and picture(hands) == plain
    bar = window.path_bar
    assert [step.text().rstrip(" ›") for step in bar.steps] == ["Untitled", "Outer", "Middle", "Inner"]
    # What is set three deep is seen outside, is one step, and its failure is told at every card around it.
    w.submit(SetParameters(tone, {"from_high": 0.4}))
    assert picture(hands) != plain
    w.pin("A", End(node=tone, port="map"))
    hands.wait_until_done()
    assert "Levels" in window.flat.title.text()
    bar.steps[1].click()
    assert w.session.path == (uses[0],) and w.selected_node == uses[1]
    hands.press("show_material")
    # A motif cannot be hung within itself, wherever one stands.
    offered = {kind.id for kind in kinds_offered(w)}
    assert "motif.inner" in offered and not offered & {"motif.outer"}
    hands.press("go_out")
    hands.press("undo")
    assert picture(hands) == plain and w.session.path == ()
    # Undone far enough, what one is in is not there any more, and the board is the weave's own again.
    window.motif_commands.go_into(uses[0])
    for _ in range(3):
        hands.press("undo")
    assert w.session.path == () and set(w.graph.nodes) >= {soft, tone}


def test_a_colourway_that_cannot_be_says_so_on_its_tile(hands: Hands) -> None:
    window, w = hands.window, hands.workplace
    _, soft, _ = small_weave(hands)
    w.submit(PutDial("", "soft", rl_dial("length", 0.01), (soft, "radius")))
    document = replace(w.document, colourways={"bad": Colourway(label="Bad", values={"soft": 7.0})})
    w.replace_document(replace(document, settings={"soft": -1.0}), None)
    hands.press("focus_dials")
    trouble = window.dials.rows["soft"].trouble
    assert trouble is not None and "cannot be -1" in trouble.text()
    hands.wait_until_done()
    assert "cannot be -1" in w.failures[soft]
    window.dials.rows["soft"].editor.changed.emit(0.02)
    assert not trouble.text()
    hands.press("focus_colourways")
    hands.bot.waitUntil(lambda: bool(window.colourways.tiles["bad"].trouble), timeout=20_000)
    assert "cannot be 7" in window.colourways.tiles["bad"].trouble
    window.colourways.put_on("bad")
    assert "cannot be 7" in window.status.message.text() and w.document.settings == {"soft": 0.02}
    hands.wait_until_done()
    assert not w.failures and window.flat.canvas.first is not None
