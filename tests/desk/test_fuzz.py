"""Whatever hands do, in whatever order: no error reaches the screen, and the document stays whole."""

from __future__ import annotations

import random

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QInputDialog, QMessageBox

from conftest import Hands
from reedloom.data import shipped_weave
from reedloom.desk.frame.commands import COMMANDS
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.channels import CHANNELS
from reedloom.weave.fileformat import decode_document, encode_document

ASKING = {
    "open_weave",
    "save",
    "save_as",
    "deliver",
    "close",
    "show_keys",
    "pull_motif",
    "try_out",
    "show_about",
    "new_weave",
    "open_demo",
}
"""Commands that open a dialog; journeys of their own drive these."""

MODIFIERS = [
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
]


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_random_hands(hands: Hands, monkeypatch: pytest.MonkeyPatch, seed: int) -> None:
    chance, window, w = random.Random(seed), hands.window, hands.workplace
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Net", chance.random() < 0.7))
    monkeypatch.setattr(QMessageBox, "exec", lambda box: 0)  # every question is left as Escape leaves it
    monkeypatch.setattr(QInputDialog, "getMultiLineText", lambda *a, **k: ("A note", True))
    if seed == 3:
        window.documents.open_now(shipped_weave("lakebed-clay"), as_copy=True)
    commands = [c.method for c in COMMANDS if c.method not in ASKING]
    board = window.board

    def somewhere() -> QPoint:
        if w.graph.nodes and chance.random() < 0.7:
            card = board.board.cards[chance.choice(list(w.graph.nodes))]
            declared = w.kinds.of(card.node)
            ports = [(True, p.name) for p in declared.outputs] + [(False, p.name) for p in declared.inputs]
            at_port = chance.random() < 0.7
            spot = card.port_place(*chance.choice(ports)) if at_port else card.body().center()
            return board.mapFromScene(card.pos() + spot)
        return QPoint(chance.randrange(board.width()), chance.randrange(board.height()))

    def drag() -> None:
        modifier = chance.choice(MODIFIERS)
        hands.drag(somewhere(), somewhere(), modifier)
        window.finder.close_quietly()

    def hang() -> None:
        if len(w.graph.nodes) < 80:
            window._pending_end = None
            window._hang(chance.choice(tuple(built_in_kinds())).id)

    def edit() -> None:
        for editor in chance.sample(
            list(window.settings.editors.values()), min(2, len(window.settings.editors))
        ):
            parameter = editor.parameter
            if parameter.is_number:
                value = chance.choice([*parameter.hard, *parameter.useful])
                editor.changing.emit(round(value) if parameter.is_whole else value)
                editor.changed.emit(round(value) if parameter.is_whole else value)
            elif parameter.words:
                editor.changed.emit(chance.choice(parameter.words))

    def pick() -> None:
        items = [*w.graph.nodes, *w.graph.bays, *w.graph.notes]
        w.select(chance.sample(items, min(len(items), chance.randrange(4))))

    def tie() -> None:
        window.rail.slots[chance.choice(list(CHANNELS))].tie_selected()

    actions = [
        drag,
        hang,
        edit,
        pick,
        tie,
        lambda: hands.press(chance.choice(commands)),
        hands.window.flat.refresh,
    ]
    for step in range(160):
        chance.choice(actions)()
        if step % 40 == 0:
            hands.bot.wait(30)
    hands.wait_until_done()
    assert not window.grab().isNull()
    again = decode_document(encode_document(w.document))
    assert again.graph.nodes.keys() == w.graph.nodes.keys()
    assert all(reason.endswith(".") and "unforeseen" not in reason for reason in w.failures.values()), (
        w.failures
    )
