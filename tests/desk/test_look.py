"""Contrast, names and reach of what is on screen, in both themes."""

from __future__ import annotations

import gc
import weakref

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLineEdit, QWidget

from conftest import Hands
from reedloom.data import FOLDER, shipped_weave
from reedloom.desk.frame.commands import COMMANDS
from reedloom.desk.look.theme import TEXT_PAIRS, THEMES, contrast
from reedloom.desk.screen.collector import EVERYTHING, Collector
from reedloom.kit.families import FAMILIES


@pytest.mark.parametrize("theme", THEMES.values(), ids=THEMES.keys())
def test_text_has_enough_contrast(theme: object) -> None:
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    for text, ground in TEXT_PAIRS:
        assert contrast(getattr(theme, text), getattr(theme, ground)) >= 4.5, (text, ground)


def test_every_control_is_named_and_reachable(hands: Hands) -> None:
    window = hands.window
    window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    hands.workplace.select({next(iter(hands.workplace.graph.nodes))})
    controls = window.findChildren(QWidget)
    seen = 0
    for control in controls:
        if isinstance(control, (QAbstractButton, QComboBox, QLineEdit)) and control.isVisible():
            seen += 1
            named = control.accessibleName() or control.toolTip() or getattr(control, "text", str)()
            assert named, control
            assert (
                control.focusPolicy() & Qt.FocusPolicy.TabFocus or control.parent().objectName() == "topbar"
            ), control
            if isinstance(control, QAbstractButton) and not control.icon().isNull():
                assert control.toolTip(), control
    assert seen > 25


def test_shortcuts_are_single_and_leave_letters_free() -> None:
    keys = [c.keys for c in COMMANDS if c.keys]
    assert len(set(keys)) == len(keys)
    assert all(len(k) > 1 or k.isdigit() for k in keys)


def test_swatches_differ_by_family() -> None:
    assert len({f.swatch for f in FAMILIES.values()}) == len(FAMILIES)
    assert all(any(row for row in f.swatch) for f in FAMILIES.values())


def mean_lightness(image: QImage) -> int:
    """How light a picture is on the whole."""
    one = image.scaled(1, 1, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation)
    return one.pixelColor(0, 0).lightness()


def test_both_themes_paint_and_leave_nothing_behind(hands: Hands) -> None:
    window = hands.window
    window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    hands.wait_until_done()
    dark = window.grab().toImage()
    window.actions_["use_linen"].setChecked(True)
    linen = window.grab().toImage()
    assert mean_lightness(dark) < 90
    assert mean_lightness(linen) > 140
    window.actions_["use_linen"].setChecked(False)
    card = weakref.ref(next(iter(window.board.board.cards.values())))
    hands.workplace.session.mark_saved()
    window.actions_["new_weave"].trigger()
    gc.unfreeze()  # whatever the collector may have set aside meanwhile
    gc.collect()
    assert card() is None
    assert "@" not in window.styleSheet() and (FOLDER / "fonts" / "OFL.txt").exists()


def test_garbage_is_collected_a_part_at_a_time_and_in_the_end_all_of_it(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    application = QApplication.instance()
    assert application is not None
    collector = application.findChild(Collector)
    assert collector is not None and not gc.isenabled()

    class Node:
        def __init__(self) -> None:
            self.itself = self

    monkeypatch.setattr(gc, "get_count", lambda: (0, 0, 99))
    collector._looks = 0
    kept = Node()
    old = weakref.ref(kept)
    collector.look()  # all that is there is set aside, and this with it
    del kept
    young = weakref.ref(Node())
    monkeypatch.setattr(QGuiApplication, "mouseButtons", lambda: Qt.MouseButton.LeftButton)
    collector.look()
    assert young() is not None  # nothing old is looked at under a pressed button
    monkeypatch.undo()
    monkeypatch.setattr(gc, "get_count", lambda: (0, 0, 99))
    collector.look()
    assert young() is None and old() is not None
    for _ in range(EVERYTHING):
        collector.look()
    assert old() is None


def test_the_creel_shows_pictures_by_the_engine(hands: Hands) -> None:
    window = hands.window
    window.creel.open_family("noise")
    rows = window.creel.flyout.rows
    hands.bot.waitUntil(
        lambda: sum(n < 0 for _, n in window.creel.pictures) == rows.count() > 8, timeout=30_000
    )
    hands.bot.keyClick(rows, Qt.Key.Key_Return)
    assert len(hands.workplace.graph.nodes) == 1 and not window.creel.flyout.isVisible()
