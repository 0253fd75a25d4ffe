"""Weaves as they open: where the board begins, and that views show what scripts compute."""

from __future__ import annotations

import subprocess
import sys

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication

import reedloom as rl
from conftest import Hands
from reedloom.data import shipped_weave, shipped_weaves
from reedloom.desk.board.view import READABLE
from reedloom.desk.look.theme import unstyled

NAMES = tuple(shipped_weaves())


@pytest.mark.parametrize("name", NAMES)
def test_a_demo_weave_opens_where_reading_begins_and_shows_what_a_script_computes(
    hands: Hands, name: str
) -> None:
    window, w = hands.window, hands.workplace
    window.documents.open_now(shipped_weave(name), as_copy=True)
    hands.wait_until_done()
    board = window.board
    seen = board.mapToScene(board.viewport().rect()).boundingRect()
    items = board.board
    assert list(items.cards) == list(w.graph.nodes) and list(items.notes) == list(w.graph.notes)
    first = items.notes[next(iter(w.graph.notes))].sceneBoundingRect()
    assert seen.contains(first) and board.transform().m11() >= READABLE - 1e-6
    assert seen.top() > items.content_box().top() - 60 / READABLE  # not a band of nothing
    assert not w.failures and w.view_arrays
    weave = rl.open_weave(shipped_weave(name))
    for end, shown in w.view_arrays.items():
        made = rl.evaluate(weave, f"{end.node}.{end.port}", size=(shown.shape[1], shown.shape[0]))
        assert isinstance(made, np.ndarray) and np.array_equal(made, shown)


START = """
import gc
import linecache
import sys
from reedloom.desk.frame.app import make_application
from reedloom.desk.frame.window import Window
from reedloom.desk.board.view import BoardView

def kinds_read():
    return sum(name.startswith("reedloom.kinds.noise.") for name in sys.modules)

painted, paint = [], BoardView.drawBackground
BoardView.drawBackground = lambda *more: painted.append(kinds_read()) or paint(*more)
application = make_application()
window = Window()
window.show()
while not painted or not kinds_read():
    application.processEvents()
sources = sum("reedloom" in name for name in linecache.cache)
print(painted[0], len(window.workplace.kinds), sources, gc.isenabled())
"""


def test_an_empty_window_is_painted_before_kinds_and_sources_are_read() -> None:
    done = subprocess.run(
        [sys.executable, "-c", START], capture_output=True, text=True, check=True, timeout=60
    )
    before, after, sources, collects = done.stdout.split()
    assert int(before) == 0 and int(after) == len(rl.kinds())
    assert sources == "0", "Qt's binding has read what was imported after it"
    assert collects == "False"


def test_putting_a_window_together_leaves_the_style_sheet_as_it_was(hands: Hands) -> None:
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    before = application.styleSheet()
    assert "QPushButton" in before
    with pytest.raises(ZeroDivisionError), unstyled():
        assert application.styleSheet() == ""
        raise ZeroDivisionError
    assert application.styleSheet() == before
