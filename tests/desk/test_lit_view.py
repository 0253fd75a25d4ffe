"""The lit view in the window: it follows the weave and the hands, and says so where it cannot."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QWidget

from conftest import Hands
from reedloom.data import shipped_weave
from reedloom.desk.lit_panel import EMPTY
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
    assert not lit.workplace.document.ties
    lit.wait_until_done()
    lit.bot.waitUntil(lambda: canvas.frame is None, timeout=10_000)


def test_where_there_is_no_opengl_all_else_works(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse() -> None:
        raise NoOpenGLError(
            "The lit view needs OpenGL 3.3, which this computer does not offer; install a driver."
        )

    monkeypatch.setattr("reedloom.desk.lit_worker.Renderer", refuse)
    hands.window.views.show_view("both")
    hands.window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    panel = hands.window.views.lit
    hands.bot.waitUntil(lambda: bool(panel.reason), timeout=30_000)
    assert "install a driver" in panel.canvas.message and panel.canvas.frame is None
    hands.wait_until_done()
    assert hands.window.flat.canvas.first is not None
