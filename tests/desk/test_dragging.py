"""What a dragged value paints, and in which order."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QWidget

from conftest import Hands
from reedloom.loom.background import Background
from reedloom.loom.run import shared_cache
from reedloom.weave.edits import SetParameters


class PaintsSeen(QObject):
    """Notes which widgets are painted, in order, beside what else happens."""

    def __init__(self, widgets: dict[str, QWidget]) -> None:
        super().__init__()
        self.names = {widget: name for name, widget in widgets.items()}
        self.order: list[str] = []
        for widget in widgets.values():
            widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:  # noqa: N802 - Qt's own name
        if event.type() == QEvent.Type.Paint and isinstance(watched, QWidget):
            self.order.append(self.names[watched])
        return False


@pytest.fixture
def dragging(hands: Hands) -> tuple[Hands, str, PaintsSeen]:
    """A weave of two nodes that do not depend on each other, each on the rail; the first is to be dragged."""
    bumps, grain = hands.hang("gradient noise"), hands.hang("white noise")
    board = hands.window.board
    board.fit_all()
    hands.drag(hands.port_at(bumps, "noise", True), hands.slot("height"))
    hands.drag(hands.port_at(grain, "noise", True), hands.slot("roughness"))
    hands.workplace.unpin()
    hands.wait_until_done()
    slots = hands.window.rail.slots
    seen = PaintsSeen(
        {
            "view": hands.window.flat.canvas,
            "height": slots["height"],
            "roughness": slots["roughness"],
            "metallic": slots["metallic"],
        }
    )
    return hands, bumps, seen


def test_the_view_is_painted_before_anything_on_the_board_or_rail(
    dragging: tuple[Hands, str, PaintsSeen],
) -> None:
    hands, bumps, seen = dragging
    w = hands.workplace
    w.view_ready.connect(seen.order.append)
    w.looks_changed.connect(lambda _: seen.order.append("looks"))
    w.preview(SetParameters(bumps, {"octaves": 2}))
    seen.order.clear()
    hands.wait_until_done()
    first = seen.order[: seen.order.index("looks")]
    assert [name for name in first if name in {"view", "coarse", "full"}] == [
        "view",
        "coarse",
        "view",
        "full",
    ]
    assert {*first} == {"view", "coarse", "full"}


def test_a_drag_that_goes_on_comes_to_the_cards(
    dragging: tuple[Hands, str, PaintsSeen], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its full pictures may never be done, so cards do not wait for them."""
    hands, bumps, seen = dragging
    w = hands.workplace
    w.view_ready.connect(seen.order.append)
    w.looks_changed.connect(lambda _: seen.order.append("looks"))
    with monkeypatch.context() as meanwhile:
        meanwhile.setattr(Background, "busy", True)
        w.preview(SetParameters(bumps, {"octaves": 2}))
    seen.order.clear()
    hands.wait_until_done()
    assert "looks" in seen.order[: seen.order.index("full")]


def test_only_slots_whose_map_is_another_are_painted(dragging: tuple[Hands, str, PaintsSeen]) -> None:
    hands, bumps, seen = dragging
    seen.order.clear()
    before = hands.window.rail.slots["height"].toolTip()
    hands.workplace.preview(SetParameters(bumps, {"octaves": 1}))
    hands.wait_until_done()
    assert "height" in seen.order and not {"roughness", "metallic"} & set(seen.order)
    assert hands.window.rail.slots["height"].toolTip() != before


def test_large_maps_of_a_drag_go_with_its_next_step_until_it_is_recorded(
    dragging: tuple[Hands, str, PaintsSeen],
) -> None:
    hands, bumps, _ = dragging
    cache, side = shared_cache(), hands.workplace.view_size

    def large() -> set[object]:
        return {key for key, entry in cache._entries.items() if np.shape(entry.array)[:1] == (side,)}

    def show(step: int) -> None:
        hands.workplace.preview(SetParameters(bumps, {"octaves": step}))
        hands.wait_until_done()

    show(2)
    show(3)
    held = large()
    show(4)
    show(5)
    assert len(large()) == len(held)
    hands.workplace.submit(SetParameters(bumps, {"octaves": 5}))
    hands.wait_until_done()
    recorded = large()
    show(1)
    show(2)
    assert recorded < large()
