"""Trials of other values: each state's picture or reason, coarse ones first; a newer trial ends an older."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtCore import QObject
from PySide6.QtGui import QImage
from pytestqt.qtbot import QtBot

import reedloom as rl
from reedloom.data import shipped_weave
from reedloom.desk.frame.app import make_application
from reedloom.desk.screen.trial import COARSE, Trial, TrialWorker
from reedloom.errors import ReedError
from reedloom.weave.resolve import FlatGraph, resolve

FINE = 96


class Told(QObject):
    """What a worker tells, in order."""

    def __init__(self, worker: TrialWorker) -> None:
        super().__init__()
        self.made: list[tuple[int, int, int, bool]] = []
        self.failed: list[tuple[int, int, str]] = []
        self.finished: list[int] = []
        worker.made.connect(self._take)
        worker.failed.connect(lambda *all_: self.failed.append(all_))
        worker.finished.connect(self.finished.append)

    def _take(self, request: int, number: int, image: QImage, fine: bool) -> None:
        self.made.append((request, number, image.width(), fine))


def state(weave: rl.Weave, **dials: float) -> Callable[[], FlatGraph]:
    return lambda: resolve(weave.document, weave.kinds, None, dials)


def unsound() -> FlatGraph:
    raise ReedError("The dial 'age' cannot be that.")


@pytest.fixture
def worker(qtbot: QtBot) -> TrialWorker:
    make_application()
    parent = QObject()
    made = TrialWorker(parent)
    made.setProperty("kept", parent)
    yield made  # type: ignore[misc]
    made.close()


def test_each_state_gives_its_pictures_and_one_that_cannot_be_its_reason(
    worker: TrialWorker, qtbot: QtBot
) -> None:
    weave, told = rl.open_weave(shipped_weave("lakebed-clay")), Told(worker)
    states = (state(weave, wetness=0.1), unsound, state(weave, wetness=0.9))
    request = worker.ask(Trial(states, weave.kinds, FINE))
    qtbot.waitUntil(lambda: told.finished == [request], timeout=60_000)
    wanted = [(request, n, side, side == FINE) for side in (COARSE, FINE) for n in (0, 2)]
    assert told.made == wanted
    assert told.failed == [(request, 1, "The dial 'age' cannot be that.")]


def test_a_newer_trial_ends_the_one_before(worker: TrialWorker, qtbot: QtBot) -> None:
    weave, told = rl.open_weave(shipped_weave("lakebed-clay")), Told(worker)
    old = worker.ask(Trial(tuple(state(weave, wetness=n / 40) for n in range(40)), weave.kinds, 512))
    qtbot.waitUntil(lambda: len(told.made) > 0, timeout=60_000)
    new = worker.ask(Trial((state(weave, wetness=0.7),), weave.kinds, FINE))
    qtbot.waitUntil(lambda: told.finished == [new], timeout=60_000)
    assert [entry[1:] for entry in told.made if entry[0] == new] == [(0, COARSE, False), (0, FINE, True)]
    assert sum(entry[0] == old for entry in told.made) < 80
