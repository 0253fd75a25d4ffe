"""What is on screen is asked for once, told apart by content, and survives whatever goes wrong."""

from __future__ import annotations

import threading
from collections import Counter
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QGuiApplication

from conftest import Hands
from reedloom.desk.screen import workplace
from reedloom.desk.screen.latest import LatestOnly
from reedloom.desk.screen.workplace import UNFORESEEN
from reedloom.lit.renderer import Renderer
from reedloom.logs import begin_log, end_log, log_file
from reedloom.loom import background
from reedloom.loom.background import Report, Stage
from reedloom.loom.run import Outcome, shared_cache
from reedloom.weave.document import Document, End
from reedloom.weave.edits import SetNode, SetParameters, Tie


class Counted:
    """What is asked of the engine by a window, from the moment this is made."""

    def __init__(self, hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
        self.tasks: Counter[str] = Counter()
        self.views: list[str] = []
        self.frames: list[Any] = []
        self.asked = 0
        real = background.evaluate_ends

        def evaluate(*args: Any, **more: Any) -> Outcome:
            return real(*args, on_task=lambda task: self.tasks.update([task.kind]), **more)

        monkeypatch.setattr(background, "evaluate_ends", evaluate)
        submit = hands.workplace.background.submit

        def count(*args: Any) -> None:
            self.asked += 1
            submit(*args)

        monkeypatch.setattr(hands.workplace.background, "submit", count)
        hands.workplace.view_ready.connect(self.views.append)
        worker = hands.window.views.lit.worker
        ask = worker.ask
        monkeypatch.setattr(worker, "ask", lambda request: (self.frames.append(request), ask(request)))


def hang_clay(hands: Hands) -> str:
    """The demo weave, shown in light and flat; returns a node of it."""
    hands.press("open_demo")
    hands.press("show_both")
    hands.wait_until_done()
    return next(iter(hands.workplace.graph.nodes))


def test_selecting_and_moving_a_card_compute_nothing_and_start_no_view_over(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    hang_clay(hands)
    w = hands.workplace
    first = {n: w.kinds.of(node).outputs[0].name for n, node in w.graph.nodes.items()}
    single = [
        n
        for n, node in w.graph.nodes.items()
        if len(w.kinds.of(node).outputs) == 1
        and all(end.port == first[end.node] for end in w.graph.incoming(n).values())
    ]
    assert len(single) > 6
    hands.bot.waitUntil(lambda: hands.window.views.lit.canvas.fine, timeout=60_000)
    counted = Counted(hands, monkeypatch)
    for node in single[:6]:
        w.select({node})
        hands.wait_until_done()
    card = hands.window.board.board.cards[single[0]]
    start = hands.window.board.mapFromScene(card.pos() + card.body().center())
    hands.drag(start, start + QPoint(40, 20))
    hands.wait_until_done()
    assert counted.asked == 0 and counted.tasks == {}
    assert counted.views == [] and counted.frames == []
    assert w.graph.nodes[single[0]].x != 0 and hands.window.views.lit.canvas.fine


def test_a_change_that_the_views_do_not_show_leaves_them_alone(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    hang_clay(hands)
    hands.workplace.select(())
    aside = hands.hang("gradient noise")
    hands.wait_until_done()
    hands.bot.waitUntil(lambda: hands.window.views.lit.canvas.fine, timeout=60_000)
    counted = Counted(hands, monkeypatch)
    hands.workplace.select({aside})
    hands.set_number("cells", "11")
    hands.wait_until_done()
    assert counted.tasks == {"gradient_noise": 1} and counted.views == []
    # Its maps were about to change, for all it knew, so the lit view took its frame up again.
    hands.bot.waitUntil(lambda: hands.window.views.lit.canvas.fine, timeout=60_000)


def test_a_late_report_of_another_weave_is_not_shown(hands: Hands) -> None:
    node = hands.hang("disc")
    hands.wait_until_done()
    w = hands.workplace
    late = w._wish
    assert late is not None
    w.replace_document(Document(graph=w.graph), None)
    hands.wait_until_done()
    end = End(node=node, port="profile")
    stage = Stage("cards", late.flat, (end,), (8, 8))
    w._report_from_worker(Report(late, stage, Outcome(failures={node: "it is of another weave"})))
    hands.wait_until_done()
    assert node not in w.failures and end in w.looks


def test_pictures_are_dropped_with_the_wish(hands: Hands) -> None:
    first, second = hands.hang("disc"), hands.hang("gradient noise")
    w = hands.workplace
    for node in (first, second):
        w.select({node})
        hands.press("pin_a")
        hands.wait_until_done()
        assert {end.node for end in w.view_arrays} == {node}
    w.select({first})
    hands.press("delete")
    hands.wait_until_done()
    assert {end.node for end in w.looks} == {second}


def test_whatever_goes_wrong_off_the_windows_thread_is_heard(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One sentence for the maker, the traceback in the log, and the worker goes on."""
    begin_log()
    told: list[str] = []
    w = hands.workplace
    w.message.connect(lambda text, warning: told.append(text) if warning else None)

    def broken(stop: Any) -> None:
        raise RuntimeError("an errand of reeds")

    w.background.add_errand(broken)
    hands.bot.waitUntil(lambda: told == [UNFORESEEN], timeout=10_000)
    node = hands.hang("disc")
    hands.wait_until_done()
    assert End(node=node, port="profile") in w.looks
    text = log_file().read_text()
    assert "Traceback" in text and "an errand of reeds" in text
    hands.press("copy_report")
    copied = QGuiApplication.clipboard().text()
    assert "an errand of reeds" in copied and str(Path.home()) not in copied
    end_log()


def test_a_frame_that_breaks_is_heard_and_the_next_one_is_drawn(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[str] = []
    hands.workplace.message.connect(lambda text, warning: told.append(text) if warning else None)
    real, breaking = Renderer.render, [True]

    def render(self: Renderer, *args: Any, **more: Any) -> Any:
        if breaking:
            breaking.clear()
            raise RuntimeError("a frame of reeds")
        return real(self, *args, **more)

    monkeypatch.setattr(Renderer, "render", render)
    hang_clay(hands)
    lit = hands.window.views.lit
    hands.bot.waitUntil(lambda: UNFORESEEN in told or lit.canvas.fine, timeout=60_000)
    assert UNFORESEEN in told
    lit.canvas.change(exposure=0.5)
    hands.bot.waitUntil(lambda: lit.canvas.fine, timeout=60_000)


def test_the_newest_request_tells_its_result_or_its_exception(hands: Hands) -> None:
    latest = LatestOnly(hands.window)
    done, failed, gate = [], [], threading.Event()
    latest.done.connect(done.append)
    latest.failed.connect(failed.append)
    latest.ask(lambda: gate.wait(10))
    latest.ask(lambda: "never")

    def breaks() -> None:
        raise ValueError("no such reed")

    latest.ask(breaks)
    gate.set()
    hands.bot.waitUntil(lambda: bool(failed), timeout=10_000)
    latest.ask(lambda: "newest")
    hands.bot.waitUntil(lambda: bool(done), timeout=10_000)
    assert done == ["newest"] and [str(e) for e in failed] == ["no such reed"]
    latest.close()


def test_a_closed_window_holds_no_results(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    reported = threading.Event()
    report = hands.workplace._report_from_worker

    def reports(told: Report) -> None:
        report(told)
        reported.set()

    hang_clay(hands)
    monkeypatch.setattr(hands.workplace.background, "_on_report", reports)
    hands.workplace.set_view_size(80)
    assert reported.wait(60)  # and the window's thread has not heard of it yet
    hands.workplace.session.mark_saved()
    assert hands.window.close()
    QGuiApplication.processEvents()
    budget = shared_cache().budget
    try:
        shared_cache().bound(0)
        assert shared_cache().held == 0
    finally:
        shared_cache().bound(budget)


def test_the_worker_goes_on_once_a_picture_is_in_the_window(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(workplace, "GIVE_WAY", 10.0)
    order: list[str] = []
    real = background.evaluate_ends

    def evaluate(*args: Any, **more: Any) -> Outcome:
        order.append("computed")
        return real(*args, **more)

    node = hands.hang("gradient noise")
    hands.press("pin_a")
    hands.wait_until_done()
    monkeypatch.setattr(background, "evaluate_ends", evaluate)
    hands.workplace.view_ready.connect(order.append)
    hands.workplace.submit(SetParameters(node, {"cells": 11}))
    hands.wait_until_done()
    assert order == ["computed", "coarse", "computed", "full", "computed"]


def test_a_new_result_is_on_its_card_and_in_its_slot_and_leaves_the_frame(
    hands: Hands, monkeypatch: pytest.MonkeyPatch
) -> None:
    node = hands.hang("gradient noise")
    w = hands.workplace
    w.submit(Tie(End(node=node, port="noise"), "height"))
    hands.wait_until_done()
    card, slot = hands.window.board.board.cards[node], hands.window.rail.slots["height"]
    updated: list[str] = []
    for name, item in (("frame", card), ("face", card.face), ("slot", slot)):
        monkeypatch.setattr(item, "update", lambda name=name: updated.append(name))
    look, tip = card.face.state.look, slot.toolTip()
    w.preview(SetParameters(node, {"cells": 11}))
    hands.wait_until_done()
    assert card.face.state.look is not look and slot.toolTip() != tip
    assert sorted(set(updated)) == ["face", "slot"]
    w.submit(SetNode(node, name="Swell"))
    assert "frame" in updated
