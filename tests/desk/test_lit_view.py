"""The lit view in the window: it follows the weave and the hands, and says so where it cannot."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QMouseEvent
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QWidget

from conftest import Hands
from reedloom.data import shipped_weave
from reedloom.desk.lit.lit_panel import EMPTY
from reedloom.lit.renderer import NoOpenGLError, Renderer


@pytest.fixture
def lit(hands: Hands) -> Hands:
    """A window that shows the lit view; skipped where there is no OpenGL."""
    try:
        Renderer().release()
    except NoOpenGLError as error:
        pytest.skip(str(error))
    hands.window.views.show_view("lit")
    return hands


def wait_for_fine(hands: Hands) -> None:
    """Until a frame at rest is shown."""
    canvas = hands.window.views.lit.canvas
    hands.bot.waitUntil(lambda: canvas.frame is not None and canvas.fine, timeout=60_000)


def move(widget: QWidget, to: QPoint, modifier: Qt.KeyboardModifier) -> None:
    """Move the mouse with its left button and a modifier held."""
    held = Qt.MouseButton.LeftButton
    event = QMouseEvent(
        QEvent.Type.MouseMove, QPointF(to), widget.mapToGlobal(QPointF(to)), held, held, modifier
    )
    QApplication.sendEvent(widget, event)


def test_the_material_is_shown_on_an_object_and_turned_by_hand(lit: Hands) -> None:
    window, canvas = lit.window, lit.window.views.lit.canvas
    assert canvas.frame is None and canvas.message == EMPTY and not canvas.grab().isNull()
    window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    wait_for_fine(lit)
    first = canvas.frame
    assert first is not None and first.width() == round(canvas.width() * canvas.devicePixelRatioF())
    middle = QPoint(canvas.width() // 2, canvas.height() // 2)
    before = canvas.state
    for modifier, changed in (
        (Qt.KeyboardModifier.NoModifier, {"yaw", "pitch"}),
        (Qt.KeyboardModifier.ShiftModifier, {"target"}),
        (Qt.KeyboardModifier.ControlModifier, {"turn"}),
        (Qt.KeyboardModifier.AltModifier, {"key"}),
    ):
        lit.bot.mousePress(canvas, Qt.MouseButton.LeftButton, modifier, middle)
        move(canvas, middle + QPoint(30, 12), modifier)
        lit.bot.mouseRelease(canvas, Qt.MouseButton.LeftButton, modifier, middle)
        assert all(getattr(canvas.state, name) != getattr(before, name) for name in changed), changed
        before = canvas.state
    canvas.fine = False
    wait_for_fine(lit)
    assert canvas.frame != first
    lit.bot.keyClick(canvas, Qt.Key.Key_Home)
    panel = window.views.lit
    panel.object.setCurrentIndex(panel.object.findData("cloth"))
    panel.object.activated.emit(panel.object.currentIndex())
    assert canvas.state.object == "cloth" and canvas.state.turn == 0.0
    panel.depth_field.setText("2*1.5")
    panel.depth_field._take()
    assert canvas.state.depth == 3.0


def test_a_change_upstream_is_seen_in_light(lit: Hands) -> None:
    canvas = lit.window.views.lit.canvas
    noise = lit.hang("gradient noise")
    lit.drag(lit.port_at(noise, "noise", True), lit.slot("height"))
    wait_for_fine(lit)
    first = canvas.frame
    lit.workplace.select({noise})
    canvas.fine = False
    lit.set_number("cells", "20")
    lit.bot.waitUntil(lambda: canvas.fine and canvas.frame != first, timeout=60_000)
    lit.press("undo")
    lit.press("undo")
    assert not lit.workplace.graph.ends
    lit.press("show_material")
    lit.wait_until_done()
    lit.bot.waitUntil(lambda: canvas.frame is None, timeout=10_000)


def test_the_view_is_kept_with_the_weave_and_view_points_have_names(
    lit: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, panel = lit.window, lit.window.views.lit
    canvas = panel.canvas
    lit.hang("gradient noise")
    path = tmp_path / "bowl.reed"
    lit.workplace.path = path
    assert window.documents.save()
    canvas.change(object="cube", yaw=12.0, light_set="workshop", exposure=1.5)
    assert lit.workplace.session.is_saved, "turning the view is no change of the weave"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("Rim, low", True))
    lit.press("keep_viewpoint")
    assert not lit.workplace.session.is_saved
    assert window.documents.save()
    window.documents.new()
    assert canvas.state.object == "ball" and panel.object.currentData() == "ball"
    window.documents.open_now(path)
    assert (canvas.state.object, canvas.state.yaw, canvas.state.exposure) == ("cube", 12.0, 1.5)
    assert panel.light.currentData() == "workshop" and panel.exposure_field.text() == "1.5"
    panel.viewpoint_menu.aboutToShow.emit()
    actions = {a.text(): a for a in panel.viewpoint_menu.actions()}
    assert {"Whole", "Raked", "Rim, low", "Keep this view point…"} <= set(actions)
    actions["Raked"].trigger()
    assert canvas.state.key is not None and canvas.state.yaw != 12.0
    actions["Rim, low"].trigger()
    assert canvas.state.yaw == 12.0 and canvas.state.key is None and canvas.state.object == "cube"
    panel._forget_viewpoint("Rim, low")
    assert not lit.workplace.document.viewpoints
    lit.press("undo")
    assert "Rim, low" in lit.workplace.document.viewpoints


def test_a_region_is_refined_and_the_picture_saved(
    lit: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, panel = lit.window, lit.window.views.lit
    canvas = panel.canvas
    window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    wait_for_fine(lit)
    before = canvas.frame
    panel.buttons["region"].click()
    start, end = QPoint(40, 40), QPoint(140, 120)
    lit.bot.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    move(canvas, end, Qt.KeyboardModifier.NoModifier)
    canvas.fine = False
    lit.bot.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end)
    assert not canvas.region.isEmpty() and canvas.state == lit.workplace.document.lit
    target = tmp_path / "look.png"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    panel.buttons["picture"].click()
    assert not target.exists(), "it is saved once it is fine"
    wait_for_fine(lit)
    lit.bot.waitUntil(target.exists, timeout=10_000)
    assert QImage(str(target)).size() == canvas.frame.size() and canvas.frame != before
    lit.bot.keyClick(canvas, Qt.Key.Key_Escape)
    assert canvas.region.isEmpty() and not panel.buttons["region"].isChecked()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "gone" / "x.png"), ""))
    wait_for_fine(lit)
    lit.press("show_lit")
    heard: list[str] = []
    lit.workplace.message.connect(lambda text, warning: heard.append(text))
    panel.buttons["picture"].click()
    lit.bot.waitUntil(lambda: bool(heard), timeout=60_000)
    assert "gone" in heard[-1] and heard[-1].endswith(".")


def test_pinned_maps_are_put_on_the_object_and_compared_with_a_wipe(lit: Hands) -> None:
    window, canvas = lit.window, lit.window.views.lit.canvas
    window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    wait_for_fine(lit)
    material = canvas.frame
    nodes = lit.workplace.graph.nodes
    by_name = {n.name: n.id for n in nodes.values()}
    for name, command in (("Height", "pin_a"), ("Base colour", "pin_b")):
        canvas.fine = False
        lit.workplace.select({by_name[name]})
        lit.press(command)
        wait_for_fine(lit)
    assert len(canvas.frames) == 2 and canvas.frames[0] != canvas.frames[1] != material
    assert canvas.caption.startswith("A: Height | B: Base colour")
    x = canvas.width() // 2
    middle = QPoint(x, canvas.height() // 2)
    state = canvas.state
    lit.bot.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle)
    move(canvas, QPoint(x // 2, 50), Qt.KeyboardModifier.NoModifier)
    lit.bot.mouseRelease(canvas, Qt.MouseButton.LeftButton)
    assert canvas.wipe.share == pytest.approx(0.25, abs=0.02) and canvas.state == state
    canvas.fine = False
    lit.press("show_material")
    wait_for_fine(lit)
    assert canvas.caption.startswith("Material") and canvas.frame == material


def test_views_are_large_side_by_side_and_torn_off(lit: Hands) -> None:
    window, views = lit.window, lit.window.views
    lit.press("show_both")
    assert views.splitter.orientation() == Qt.Orientation.Vertical
    lit.press("large_view")
    lit.bot.waitUntil(lambda: views.splitter.orientation() == Qt.Orientation.Horizontal, timeout=5000)
    assert not window.board.isVisible() and views.width() > 700
    lit.press("large_view")
    assert window.board.isVisible()
    views.place_buttons["view_apart"].click()
    apart = window.places.apart["view_apart"]
    assert views.window() is apart and window.actions_["view_apart"].isChecked()
    lit.press("settings_apart")
    assert window.settings.window() is not window and not window.column.isVisible()
    apart.close()
    assert views.window() is window and not window.actions_["view_apart"].isChecked()
    lit.press("settings_apart")
    assert window.settings.window() is window and window.column.indexOf(window.panels) == 1


def test_rare_maps_are_on_the_rail_when_asked_for_or_tied(lit: Hands) -> None:
    rail = lit.window.rail
    assert not rail.slots["sheen"].isVisible() and rail.slots["emission"].isVisible()
    noise = lit.hang("gradient noise")
    rail.more.click()
    assert rail.slots["anisotropy"].isVisible()
    rail.area.ensureWidgetVisible(rail.slots["sheen"])
    lit.drag(lit.port_at(noise, "noise", True), lit.slot("sheen"))
    assert lit.workplace.graph.ends["sheen"].node == noise
    rail.more.click()
    assert rail.slots["sheen"].isVisible() and not rail.slots["anisotropy"].isVisible()


def test_where_there_is_no_opengl_all_else_works(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse() -> None:
        raise NoOpenGLError(
            "The lit view needs OpenGL 3.3, which this computer does not offer; install a driver."
        )

    monkeypatch.setattr("reedloom.lit.renderer.Renderer", refuse)
    hands.window.views.show_view("both")
    hands.window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    panel = hands.window.views.lit
    hands.bot.waitUntil(lambda: bool(panel.reason), timeout=30_000)
    assert "install a driver" in panel.canvas.message and panel.canvas.frame is None
    hands.wait_until_done()
    assert hands.window.flat.canvas.first is not None


def test_the_object_the_view_and_the_light_are_moved_by_keys(lit: Hands) -> None:
    canvas = lit.window.views.lit.canvas
    canvas.setFocus()
    none, keys = Qt.KeyboardModifier.NoModifier, Qt.Key
    for key, modifier, changed in (
        (keys.Key_Left, none, {"yaw"}),
        (keys.Key_Up, none, {"pitch"}),
        (keys.Key_Right, Qt.KeyboardModifier.ShiftModifier, {"target"}),
        (keys.Key_Right, Qt.KeyboardModifier.ControlModifier, {"turn"}),
        (keys.Key_Up, Qt.KeyboardModifier.AltModifier, {"key"}),
        (keys.Key_Plus, none, {"distance"}),
        (keys.Key_Minus, none, {"distance"}),
    ):
        before = canvas.state
        lit.bot.keyClick(canvas, key, modifier)
        now = canvas.state
        assert {n for n in ("yaw", "pitch", "target", "turn", "key", "distance")
                if getattr(now, n) != getattr(before, n)} == changed  # fmt: skip
    # However long a key is held, the view stays one that can be looked from.
    for key in (keys.Key_Down, keys.Key_Minus):
        for _ in range(60):
            lit.bot.keyClick(canvas, key)
        at_the_end = canvas.state
        lit.bot.keyClick(canvas, key)
        assert canvas.state == at_the_end
    lit.bot.keyClick(canvas, keys.Key_Home)
    assert canvas.state.distance != at_the_end.distance and canvas.state.target == (0.0, 0.0, 0.0)
