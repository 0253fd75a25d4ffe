"""Values in the settings: trying, formulas, layers, picking colours, and choices in the creel."""

from __future__ import annotations

import random
from pathlib import Path

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QEnterEvent, QMouseEvent
from PySide6.QtWidgets import QApplication, QFileDialog, QToolButton, QWidget

from conftest import Hands, with_keyboard
from reedloom.delivery.encode import FORMATS, write_map
from reedloom.desk.settings.editors.colours import ColourEditor, GradientRow
from reedloom.desk.settings.editors.curves import DraftRow
from reedloom.desk.settings.editors.words import FormulaEditor, TextEditor
from reedloom.desk.settings.reuse_menu import _read
from reedloom.kernels.colours import linear_from_srgb
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.preview.samples import choice_samples
from reedloom.weave.document import End
from reedloom.weave.edits import Connect, SetParameters
from weaving import KINDS


def tie(hands: Hands, source: str, target: str) -> None:
    """Tie "node.port" to "node.port"."""
    ends = [End(node=n, port=p) for n, p in (source.split("."), target.split("."))]
    assert hands.workplace.submit(Connect(*ends))


def test_the_try_strip_shows_five_results_and_takes_one(hands: Hands) -> None:
    noise = hands.hang("gradient noise")
    hands.wait_until_done()
    panel, strip = hands.window.settings, hands.window.settings.tries
    row = panel.editors["cells"]
    place = QPointF(5, 5)
    QApplication.sendEvent(row, QEnterEvent(place, place, QPointF(row.mapToGlobal(place.toPoint()))))
    hands.bot.waitUntil(strip.isVisible, timeout=5000)
    assert "more is finer" in strip.help.text() and len(strip.tries) == 5
    hands.bot.waitUntil(lambda: all(t.image is not None for t in strip.tries), timeout=20_000)
    assert len({t.image.cacheKey() for t in strip.tries if t.image}) == 5
    pictures = [t.image for t in strip.tries]
    assert pictures[0] != pictures[4]
    hands.bot.mouseClick(strip.tries[3], Qt.MouseButton.LeftButton)
    assert not strip.isVisible()
    assert KINDS.value(hands.workplace.graph.nodes[noise], "cells") == strip.values[3] != 6
    hands.press("undo")
    assert KINDS.value(hands.workplace.graph.nodes[noise], "cells") == 6
    panel.editors["seed"].setFocus()
    hands.press("try_values")
    assert strip.isVisible()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Return):
        hands.bot.keyClick(QApplication.focusWidget(), key)
    assert KINDS.value(hands.workplace.graph.nodes[noise], "seed") == 2 and not strip.isVisible()
    hands.press("try_values")
    hands.bot.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)
    assert not strip.isVisible()
    QApplication.sendEvent(row, QEvent(QEvent.Type.Leave))


def test_a_value_is_copied_to_another_parameter_that_can_have_it(hands: Hands) -> None:
    """By way of the clipboard, where it is JSON: gradients and numbers; what does not fit is told."""
    window, w, clipboard = hands.window, hands.workplace, QApplication.clipboard()

    def carry(command: str, node: str, name: str) -> object:
        w.select({node})
        hands.wait_until_done()
        first = window.settings.editors[name]
        (first if first.focusPolicy() else first.findChildren(QWidget)[0]).setFocus()
        with_keyboard()
        assert window.settings._focused_name() == name
        hands.press(command)
        return KINDS.value(w.graph.nodes[node], name)

    first, second = hands.hang("gradient map"), hands.hang("gradient map")
    stops = ((0.0, 0.1, 0.2, 0.3), (1.0, 0.9, 0.8, 0.7))
    w.submit(SetParameters(first, {"gradient": stops}))
    carry("copy_value", first, "gradient")
    assert carry("paste_value", second, "gradient") == KINDS.value(w.graph.nodes[first], "gradient")
    disc = hands.hang("disc")
    w.submit(SetParameters(disc, {"radius": 0.125}))
    carry("copy_value", disc, "radius")
    assert clipboard.text() == "0.125"
    told: list[str] = []
    w.message.connect(lambda text, wrong: told.append(text) if wrong else None)
    before = w.document
    for text in ("0.125", "", "[" * 100_000, '{"a": [1]}', "1e999", "null"):
        clipboard.setText(text)
        carry("paste_value", second, "gradient")
        assert w.document == before and "gradient" in told[-1] and told[-1].endswith("."), text
    clipboard.setText("0.25")
    assert carry("paste_value", disc, "radius") == 0.25
    hands.press("undo")
    assert KINDS.value(w.graph.nodes[disc], "radius") == 0.125


def test_every_value_is_itself_again_after_the_clipboard() -> None:
    chance = random.Random(4)
    for kind in built_in_kinds():
        for parameter in kind.parameters:
            for value in (parameter.default, parameter.check(parameter.draw(chance))):
                assert parameter.check(_read(msgspec.json.encode(value).decode())) == value, parameter


def test_a_wrong_formula_is_pointed_at_and_not_taken(hands: Hands) -> None:
    node = hands.hang("formula")
    editor = hands.window.settings.editors["formula"]
    assert isinstance(editor, FormulaEditor)
    before = KINDS.value(hands.workplace.graph.nodes[node], "formula")
    editor.line.setFocus()
    editor.line.selectAll()
    hands.bot.keyClicks(editor.line, "0.5 + wobble")
    assert editor.trouble.isVisible() and "'wobble' is unknown here" in editor.trouble.text()
    hands.bot.keyClick(editor.line, Qt.Key.Key_Return)
    assert KINDS.value(hands.workplace.graph.nodes[node], "formula") == before
    assert editor.line.selectedText() == "w"
    editor.line.selectAll()
    hands.bot.keyClicks(editor.line, "u*(1-u)*4")
    assert not editor.trouble.isVisible()
    hands.bot.keyClick(editor.line, Qt.Key.Key_Return)
    assert KINDS.value(hands.workplace.graph.nodes[node], "formula") == "u*(1-u)*4"


def test_layers_show_their_pictures_and_are_dragged_into_another_order(hands: Hands) -> None:
    noise, spots = hands.hang("gradient noise"), hands.hang("spots")
    hands.workplace.select(())
    stack = hands.hang("layers")
    tie(hands, f"{noise}.noise", f"{stack}.layer_1")
    tie(hands, f"{spots}.spots", f"{stack}.layer_2")
    hands.workplace.select({stack})
    hands.wait_until_done()
    rows = hands.window.settings.series
    assert rows is not None and list(rows.rows) == [1, 2]
    hands.bot.waitUntil(lambda: all(r.sum.image and r.own.image for r in rows.rows.values()), timeout=20_000)
    first, second = rows.rows.values()
    assert first.sum.image != second.sum.image and first.own.image != second.own.image
    first.editors["mode_1"].changed.emit("average")
    second.editors["strength_2"].changed.emit(0.25)
    grip, down = first.grip, QPointF(9, 20)
    below = QPointF(rows.mapToGlobal(QPoint(10, second.geometry().bottom() - 4)))
    held, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    for kind in (QEvent.Type.MouseButtonPress, QEvent.Type.MouseMove, QEvent.Type.MouseButtonRelease):
        QApplication.sendEvent(grip, QMouseEvent(kind, down, below, held, held, none))
    tied = hands.workplace.graph.incoming(stack)
    assert tied["layer_1"].node == spots and tied["layer_2"].node == noise
    node = hands.workplace.graph.nodes[stack]
    assert KINDS.value(node, "strength_1") == 0.25 and KINDS.value(node, "mode_2") == "average"
    hands.press("undo")
    assert hands.workplace.graph.incoming(stack)["layer_1"].node == noise
    # By keys: Alt with an arrow moves the row that has the keyboard, which goes with it.
    shown = hands.window.settings.series
    assert shown is not None
    hands.window.activateWindow()
    shown.rows[1].editors["mode_1"].setFocus()
    for key, order in ((Qt.Key.Key_Up, (noise, spots)), (Qt.Key.Key_Down, (spots, noise))):
        held_by = with_keyboard()
        assert held_by is not None
        hands.bot.keyClick(held_by, key, Qt.KeyboardModifier.AltModifier)
        tied = hands.workplace.graph.incoming(stack)
        assert (tied["layer_1"].node, tied["layer_2"].node) == order
    shown = hands.window.settings.series
    assert shown is not None and shown.rows[2].isAncestorOf(QApplication.focusWidget())
    hands.press("undo")
    shown = hands.window.settings.series
    assert shown is not None
    shown.rows[2].unfold.click()
    assert shown.rows[2].editors["curve_2"].isVisible()


def drag(widget: QWidget, start: QPoint, end: QPoint) -> None:
    """Press, move and let go on a widget."""
    held, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    for kind, at in (
        (QEvent.Type.MouseButtonPress, start),
        (QEvent.Type.MouseMove, end),
        (QEvent.Type.MouseButtonRelease, end),
    ):
        QApplication.sendEvent(
            widget, QMouseEvent(kind, QPointF(at), QPointF(widget.mapToGlobal(at)), held, held, none)
        )


def test_colours_are_picked_from_the_flat_view_at_a_point_and_along_a_line(
    hands: Hands, tmp_path: Path
) -> None:
    ramp = np.linspace(0, 1, 256, dtype=np.float32)
    photo = np.stack([np.broadcast_to(ramp, (256, 256)), np.full((256, 256), 0.2, np.float32),
                      np.full((256, 256), 0.1, np.float32)], axis=-1)  # fmt: skip
    write_map(tmp_path / "shore.png", np.ascontiguousarray(photo), FORMATS["png16"], srgb=True)
    picture = hands.hang("picture")
    editor = hands.window.settings.editors["file"]
    assert isinstance(editor, TextEditor)
    editor.changed.emit(str(tmp_path / "shore.png"))
    hands.press("pin_a")
    hands.wait_until_done()
    hands.window.views.show_view("lit")
    solid = hands.hang("solid")
    assert isinstance(hands.window.settings.editors["colour"], ColourEditor)
    hands.workplace.select({picture})
    hands.press("pin_a")
    hands.workplace.select({solid})
    swatch = hands.window.settings.editors["colour"]
    hands.wait_until_done()
    canvas = hands.window.flat.canvas
    swatch.pick_asked.emit(False, lambda found: swatch.changed.emit(found[0]))
    assert canvas.isVisible() and canvas.picking == "point"
    hands.wait_until_done()
    left, middle = canvas._origin().toPoint(), canvas.height() // 2
    side = round(canvas.zoom)
    drag(canvas, QPoint(left.x() + side // 2, middle), QPoint(left.x() + side // 2, middle))
    colour = KINDS.value(hands.workplace.graph.nodes[solid], "colour")
    assert colour[0] == pytest.approx(0.5, abs=0.03) and colour[1] == pytest.approx(0.2, abs=0.02)
    hands.workplace.select({picture})
    gradient = hands.hang("gradient map")
    hands.workplace.select({picture})
    hands.press("pin_a")
    hands.workplace.select({gradient})
    hands.wait_until_done()
    row = hands.window.settings.editors["gradient"]
    assert isinstance(row, GradientRow)
    row.pick_asked.emit(True, row._take_line)
    assert canvas.picking == "line"
    drag(canvas, QPoint(left.x() + 4, middle), QPoint(left.x() + side - 4, middle))
    stops = KINDS.value(hands.workplace.graph.nodes[gradient], "gradient")
    assert 2 <= len(stops) <= 8 and stops[0][1] < 0.1 and stops[-1][1] > 0.85
    canvas.start_picking(False)
    hands.bot.keyClick(canvas, Qt.Key.Key_Escape)
    assert not canvas.picking
    assert float(linear_from_srgb(np.array(1.0))) == 1.0


def test_a_missing_picture_says_so_on_its_node_and_can_be_chosen_again(
    hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    node = hands.hang("picture")
    editor = hands.window.settings.editors["file"]
    editor.changed.emit(str(tmp_path / "gone.png"))
    hands.wait_until_done()
    assert "there is no such file" in hands.workplace.failures[node]
    assert hands.window.settings.notes is not None and "gone.png" in hands.window.settings.notes.text()
    write_map(tmp_path / "here.png", np.ones((8, 8), np.float32), FORMATS["png8"], srgb=False)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "here.png"), ""))
    assert isinstance(editor, TextEditor)
    editor._choose()
    hands.wait_until_done()
    assert node not in hands.workplace.failures


def test_the_creel_hangs_a_kind_with_the_choice_whose_picture_is_taken(hands: Hands) -> None:
    creel = hands.window.creel
    creel.open_family("noise")
    rows = creel.flyout.rows
    declared = built_in_kinds().get("fractal_noise")
    names = [rows.item(n).data(Qt.ItemDataRole.UserRole).id for n in range(rows.count())]
    number = names.index("fractal_noise")
    item = rows.item(number)
    rows.scrollToItem(item)
    choices = choice_samples(declared)
    wanted = {(declared.id, n) for n in range(len(choices))}
    hands.bot.waitUntil(lambda: wanted <= creel.pictures.keys(), timeout=60_000)
    at = creel.flyout.painter.thumb(rows.visualItemRect(item), 5).center()
    hands.bot.mouseClick(rows.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    (node,) = hands.workplace.graph.nodes.values()
    assert node.kind == "fractal_noise" and KINDS.value(node, "sum") == choices[5][1]["sum"]
    creel.open_family("noise")
    rows.setCurrentRow(number)
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Return):
        hands.bot.keyClick(rows, key)
    newest = list(hands.workplace.graph.nodes.values())[-1]
    assert KINDS.value(newest, "sum") == choices[1][1]["sum"] and not creel.flyout.isVisible()


def test_a_binding_draft_is_filled_square_by_square(hands: Hands) -> None:
    cloth = hands.hang("woven cloth")
    hands.wait_until_done()

    def draft() -> tuple[str, ...]:
        value: tuple[str, ...] = KINDS.value(hands.workplace.graph.nodes[cloth], "draft")
        return value

    editor = hands.window.settings.editors["draft"]
    assert isinstance(editor, DraftRow)
    grid = editor.draft.grid
    first, second = (grid.square(x, 3).center().toPoint() for x in (1, 2))
    hands.bot.mousePress(grid, Qt.MouseButton.LeftButton, pos=first)
    hands.bot.mouseMove(grid, second)
    hands.bot.mouseRelease(grid, Qt.MouseButton.LeftButton, pos=second)
    assert draft()[3] == "####"
    hands.press("undo")
    assert draft()[3] == "#..#"  # the drag was one step
    grid.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Space):
        hands.bot.keyClick(grid, key)
    before = draft()
    hands.bot.keyClick(grid, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    assert [len(row) for row in draft()] == [len(row) + 1 for row in before]
    for key, more in ((Qt.Key.Key_Down, 1), (Qt.Key.Key_Up, 0)):
        hands.bot.keyClick(grid, key, Qt.KeyboardModifier.ControlModifier)
        assert len(draft()) == len(before) + more
    for word in ("Fewer rows", "Fewer columns"):
        button = next(b for b in editor.findChildren(QToolButton) if b.toolTip() == word)
        hands.bot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert len(draft()) == len(before) - 1 and len(draft()[0]) == len(before[0])


def test_a_noise_is_moved_by_hand_through_the_place_it_is_drawn_at(hands: Hands) -> None:
    w = hands.workplace
    place = hands.hang("move, turn, scale")
    noise = hands.hang("gradient noise")  # is tied to the selected place
    assert w.graph.incoming(noise)["place"].node == place
    hands.wait_until_done()
    canvas = hands.window.flat.canvas
    assert canvas.handles is not None and canvas.handles.node() == place
    for selected in (noise, place):  # whichever of the two is chosen, while the noise is looked at
        w.select({selected})
        w.pin("A", End(node=noise, port="noise"))
        assert [h.name for h in canvas.handles.shown()] == ["centre", "rim"]
    at = canvas.handles.shown()[0]
    places = [canvas._to_widget(at.u + s * 0.1, at.v).toPoint() for s in (0, 0.5, 1)]
    hands.bot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=places[0])
    for point in places[1:]:
        hands.bot.mouseMove(canvas, point)
    hands.bot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=places[2])
    assert KINDS.value(w.graph.nodes[place], "offset_u") == pytest.approx(0.1, abs=0.01)
    # Its sliders stop only at what closes at the seam, and set what else is needed for that.
    w.select({place})
    slider = hands.window.settings.editors["turn"].slider  # type: ignore[attr-defined]
    assert len(slider.stops) > 20
    slider.setFocus()
    hands.bot.keyClick(slider, Qt.Key.Key_Right)
    values = KINDS.values(w.graph.nodes[place])
    assert 0 < values["turn"] < 15 and values["scale"] == pytest.approx(
        np.sin(np.radians(values["turn"])), abs=1e-3
    )
    assert "×" in slider.toolTip()
    hands.wait_until_done()
    assert not w.said_of(place)  # nothing had to be snapped
    hands.press("undo")
    assert KINDS.value(w.graph.nodes[place], "turn") == 0 and KINDS.value(w.graph.nodes[place], "scale") == 1


def test_an_outline_is_dragged_by_its_knots_over_the_flat_view(hands: Hands) -> None:
    outline = hands.hang("drawn outline")
    hands.wait_until_done()
    canvas = hands.window.flat.canvas
    node = hands.workplace.graph.nodes[outline]
    assert canvas.handles is not None
    handles = canvas.handles.shown()
    assert [h.name for h in handles] == ["centre", "knot 1", "knot 2", "knot 3", "knot 4", "rim"]

    def drag(number: int, du: float, dv: float) -> None:
        at = canvas.handles.shown()[number]  # type: ignore[union-attr]
        places = [canvas._to_widget(at.u + s * du, at.v + s * dv).toPoint() for s in (0, 0.5, 1)]
        hands.bot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=places[0])
        for place in places[1:]:
            hands.bot.mouseMove(canvas, place)
        hands.bot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=places[2])

    drag(0, 0.1, -0.05)
    moved = hands.workplace.graph.nodes[outline]
    assert (
        abs(KINDS.value(moved, "centre_u") - 0.6) < 0.01 and abs(KINDS.value(moved, "centre_v") - 0.45) < 0.01
    )
    drag(1, -0.2, 0.0)  # the first knot lies to the right; its end is dragged with it
    curve = KINDS.value(hands.workplace.graph.nodes[outline], "outline")
    assert abs(curve[0][1] - (0.95 - 0.5)) < 0.03 and curve[0][1] == curve[-1][1]
    assert curve[1:-1] == KINDS.value(node, "outline")[1:-1]
    hands.press("undo")
    hands.press("undo")
    assert KINDS.values(hands.workplace.graph.nodes[outline]) == KINDS.values(node)


def test_several_selected_cards_are_set_together_and_undone_in_one_step(hands: Hands) -> None:
    window, w = hands.window, hands.workplace
    nodes = [hands.hang(word) for word in ("gradient noise", "value noise", "gradient noise")]
    for node, cells in zip(nodes, (4, 9, 4), strict=True):
        w.submit(SetParameters(node, {"cells": cells}))
    w.select(set(nodes))
    hands.wait_until_done()
    rows = window.settings.several
    assert rows is not None and {"cells", "seed"} <= rows.editors.keys()
    assert not rows.marks["cells"].isHidden()  # they differ
    field = rows.editors["cells"].field  # type: ignore[attr-defined]
    field.setFocus()
    field.selectAll()
    hands.bot.keyClicks(field, "6")
    hands.bot.keyClick(field, Qt.Key.Key_Return)
    hands.wait_until_done()
    values = [w.kinds.value(w.graph.nodes[node], "cells") for node in nodes]
    assert values == [6, 6, 6] and rows.marks["cells"].isHidden()
    window.undo()
    assert [w.kinds.value(w.graph.nodes[node], "cells") for node in nodes] == [4, 9, 4]
    assert not rows.marks["cells"].isHidden()
    w.select({nodes[0]})
    assert window.settings.several is None and "cells" in window.settings.editors
    w.select({*nodes[:1], hands.hang("disc")})
    both = window.settings.several
    assert both is not None and "cells" not in both.editors
