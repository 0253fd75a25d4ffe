"""Drawing paths by hand, in the real window: with the pointer, with the keyboard, with typed numbers."""

from __future__ import annotations

import random

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QTableWidget

from conftest import Hands
from reedloom.desk.flat.flat_canvas import FlatCanvas
from reedloom.desk.flat.path_hands import PathHands
from reedloom.kit import drawing
from reedloom.kit.parameters import DrawnPaths
from reedloom.weave.document import End
from reedloom.weave.fileformat import decode_document, encode_document

LEFT, NONE, SHIFT = (
    Qt.MouseButton.LeftButton,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
CTRL = Qt.KeyboardModifier.ControlModifier


class Pen:
    """A hand over the flat view, in places of the tile."""

    def __init__(self, hands: Hands) -> None:
        self.hands, self.bot = hands, hands.bot
        self.canvas: FlatCanvas = hands.window.flat.canvas
        self.in_hand = hands.workplace.paths_in_hand
        assert self.canvas.path_hands is not None
        self.paths_hands: PathHands = self.canvas.path_hands

    def at(self, u: float, v: float) -> QPoint:
        return self.canvas._to_widget(u, v).toPoint()

    def click(self, u: float, v: float, modifier: Qt.KeyboardModifier = NONE) -> None:
        self.bot.mouseClick(self.canvas, LEFT, modifier, self.at(u, v))

    def drag(self, *places: tuple[float, float], modifier: Qt.KeyboardModifier = NONE) -> None:
        self.bot.mousePress(self.canvas, LEFT, modifier, self.at(*places[0]))
        for place in places[1:]:
            self.bot.mouseMove(self.canvas, self.at(*place))
        self.bot.mouseRelease(self.canvas, LEFT, modifier, self.at(*places[-1]))

    def key(self, key: Qt.Key, modifier: Qt.KeyboardModifier = NONE) -> None:
        self.bot.keyClick(self.canvas, key, modifier)

    def knots(self, path: int = 0) -> list[tuple[float, float]]:
        """The places of a path's knots."""
        return [(k[0], k[1]) for k in drawing.knots_of(self.in_hand.paths[path])]


@pytest.fixture
def pen(hands: Hands) -> Pen:
    """Drawn paths tied to strokes that the flat view shows, ready to be drawn."""
    node = hands.hang("drawn paths")
    strokes = hands.hang("draw paths")
    w = hands.workplace
    w.select({node, strokes})
    hands.window.actions_["tie_selected"].trigger()
    w.select({strokes})
    hands.window.actions_["pin_a"].trigger()
    w.select({node})
    hands.wait_until_done()
    return Pen(hands)


def close(found: list[tuple[float, float]], wanted: list[tuple[float, float]], within: float = 0.006) -> bool:
    """Whether places are the same, but for the pixels that a pointer has."""
    return len(found) == len(wanted) and all(
        abs(a - c) < within and abs(b - d) < within for (a, b), (c, d) in zip(found, wanted, strict=True)
    )


def test_paths_are_drawn_joined_over_the_seam_and_taken_back_step_by_step(hands: Hands, pen: Pen) -> None:
    w = hands.workplace
    assert not hands.window.flat.path_strip.isHidden()
    hands.window.flat.path_strip.buttons["Draw"].click()
    assert pen.in_hand.drawing
    across = [(0.1, 0.3), (0.4, 0.2), (0.8, 0.4)]
    for place in across:
        pen.click(*place)
    assert close(pen.knots(), across)
    pen.click(1.1, 0.3)  # the beginning, as it shows on the next tile
    assert drawing.closing_of(pen.in_hand.paths[0]) == (1, 0)
    hands.wait_until_done()
    (strokes,) = (end for end in w.pins.values() if end is not None)
    drawn = w.view_arrays[strokes]
    assert drawn[:, 0].max() > 0.7 and abs(int(drawn[:, 0].argmax()) - int(drawn[:, -1].argmax())) <= 2
    pen.key(Qt.Key.Key_Return)
    pen.drag(*((0.2 + 0.01 * i, 0.7 + 0.002 * (i - 20) ** 2 * 0.1) for i in range(41)))
    assert len(pen.in_hand.paths) == 2 and 3 <= len(pen.knots(1)) <= 12
    pen.key(Qt.Key.Key_Escape)
    assert not pen.in_hand.drawing
    counts = []
    for _ in range(5):
        hands.window.actions_["undo"].trigger()
        counts.append(sum(map(len, pen.in_hand.paths)))
    assert counts == [4, 3, 2, 1, 0]
    assert pen.in_hand.paths == ()
    for _ in range(5):
        hands.window.actions_["redo"].trigger()
    assert len(pen.in_hand.paths) == 2


def test_knots_and_paths_are_chosen_moved_turned_cut_and_made_sharp_by_hand(hands: Hands, pen: Pen) -> None:
    square = [(0.2, 0.2), (0.6, 0.2), (0.6, 0.6), (0.2, 0.6)]
    hands.window.actions_["draw_paths"].trigger()
    for place in (*square, square[0]):
        pen.click(*place)
    pen.key(Qt.Key.Key_Escape)
    assert drawing.closing_of(pen.in_hand.paths[0]) == (0, 0)
    pen.drag((0.6, 0.6), (0.7, 0.75))
    assert close(pen.knots(), [*square[:2], (0.7, 0.75), square[3]])
    pen.drag((0.6, 0.2), (0.991, 0.2))  # drawn to the seam
    assert pen.knots()[1][0] == 1.0
    hands.window.actions_["undo"].trigger()
    hands.window.actions_["undo"].trigger()
    pen.bot.mouseDClick(pen.canvas, LEFT, NONE, pen.at(0.6, 0.2))
    assert pen.in_hand.paths[0][1][2] == 1.0
    before = pen.knots()
    pen.click(0.4, 0.199)  # the line: the whole path
    assert len(pen.in_hand.chosen) == 4
    pen.drag((0.4, 0.2), (0.45, 0.25))
    assert close(pen.knots(), [(u + 0.05, v + 0.05) for u, v in before])
    rim = pen.paths_hands._rim()
    assert rim is not None
    middle = pen.canvas._to_tile(rim[0])
    reach = rim[1].x() - rim[0].x()
    down = (rim[0].toPoint() + QPoint(0, round(reach))) - rim[0].toPoint()
    start, end = rim[1].toPoint(), rim[0].toPoint() + down
    pen.bot.mousePress(pen.canvas, LEFT, NONE, start)
    pen.bot.mouseMove(pen.canvas, start + QPoint(-10, 30))
    pen.bot.mouseMove(pen.canvas, end)
    pen.bot.mouseRelease(pen.canvas, LEFT, NONE, end)
    turned = [
        (middle.x() - (v - middle.y()), middle.y() + (u - middle.x()))
        for u, v in ((u + 0.05, v + 0.05) for u, v in before)
    ]
    assert close(pen.knots(), turned, within=0.02)
    pen.drag((0.02, 0.02), (0.98, 0.45), modifier=SHIFT)  # a box chooses what is within
    assert len(pen.in_hand.chosen) > 0
    pen.click(0.9, 0.95)
    assert not pen.in_hand.chosen
    pen.key(Qt.Key.Key_PageDown)
    hands.window.flat.path_strip.buttons["Cut"].click()
    assert drawing.closing_of(pen.in_hand.paths[0]) is None and len(pen.knots()) == 4


def test_paths_are_drawn_with_the_keyboard_alone(hands: Hands, pen: Pen) -> None:
    hands.window.actions_["draw_paths"].trigger()
    assert pen.canvas.hasFocus()
    for _ in range(3):
        pen.key(Qt.Key.Key_Insert)
    assert len(pen.knots()) == 3 and pen.in_hand.chosen == {(0, 2)}
    before = pen.knots()[2]
    pen.key(Qt.Key.Key_Up, SHIFT)
    pen.key(Qt.Key.Key_Right)
    assert pen.knots()[2] == pytest.approx((before[0] + 0.005, before[1] - 0.05))
    pen.key(Qt.Key.Key_PageUp)
    assert pen.in_hand.chosen == {(0, 1)}
    pen.key(Qt.Key.Key_Escape)
    pen.key(Qt.Key.Key_PageDown)
    pen.key(Qt.Key.Key_Return)
    assert pen.in_hand.paths[0][0][2] == 1.0
    pen.key(Qt.Key.Key_PageDown, CTRL)
    hands.window.actions_["join_ends"].trigger()
    assert drawing.closing_of(pen.in_hand.paths[0]) is not None
    hands.window.actions_["double_paths"].trigger()
    assert len(pen.in_hand.paths) == 2 and {p for p, _ in pen.in_hand.chosen} == {1}
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down):  # turned, scaled up and down
        lain = pen.in_hand.paths
        pen.key(key, CTRL)
        assert pen.in_hand.paths != lain
    pen.key(Qt.Key.Key_Delete)
    assert len(pen.in_hand.paths) == 1
    hands.window.actions_["cut_paths"].trigger()  # nothing is chosen: a word, and nothing lost
    assert len(pen.in_hand.paths) == 1 and "Choose knots first" in hands.window.status.message.text()


def test_numbers_are_typed_in_the_table_and_wrong_ones_are_refused(hands: Hands, pen: Pen) -> None:
    hands.window.actions_["draw_paths"].trigger()
    for place in ((0.2, 0.2), (0.5, 0.5), (0.8, 0.2)):
        pen.click(*place)
    pen.key(Qt.Key.Key_Escape)
    table = hands.window.settings.editors["paths"].findChild(QTableWidget)
    assert table is not None and table.rowCount() == 3
    table.item(1, 0).setText("1/4")
    table.item(2, 3).setText("0.5*3")
    assert pen.in_hand.paths[0][1][0] == 0.25 and pen.in_hand.paths[0][2][3] == 1.5
    table.selectRow(2)
    assert pen.in_hand.chosen == {(0, 2)}
    table.item(0, 2).setText("seven")
    assert pen.in_hand.paths[0][0][2] == 0.0 and table.item(0, 2).text() == "0"
    pen.click(0.25, 0.5)
    assert {index.row() for index in table.selectedIndexes()} == {1}


def test_the_view_shows_paths_only_where_they_lead_to_what_is_shown(hands: Hands, pen: Pen) -> None:
    w = hands.workplace
    node = w.selected_node
    assert node is not None and hands.window.flat.shows_paths()
    other = hands.hang("fractal noise")
    w.pin("A", End(node=other, port="map"))
    w.select({node})
    assert not hands.window.flat.shows_paths()
    hands.window.actions_["draw_paths"].trigger()
    assert w.pins["A"] == w.at(End(node=node, port="paths")) and hands.window.flat.shows_paths()
    w.select({other})
    assert hands.window.flat.path_strip.isHidden() and not pen.in_hand.drawing
    hands.window.actions_["join_ends"].trigger()
    assert "Select a card of drawn paths" in hands.window.status.message.text()


@pytest.mark.parametrize("seed", [1, 2])
def test_whatever_a_hand_does_over_the_view_the_paths_stay_whole(hands: Hands, pen: Pen, seed: int) -> None:
    chance, w = random.Random(seed), hands.workplace
    keys = [
        Qt.Key.Key_Up, Qt.Key.Key_Left, Qt.Key.Key_PageDown, Qt.Key.Key_PageUp, Qt.Key.Key_Insert,
        Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_A, Qt.Key.Key_Delete,
    ]  # fmt: skip
    held = [NONE, NONE, SHIFT, CTRL, Qt.KeyboardModifier.AltModifier]
    commands = ["draw_paths", "draw_paths", "join_ends", "cut_paths", "sharpen_knots", "reverse_paths"]
    commands += ["double_paths", "undo", "undo", "redo"]

    def somewhere() -> tuple[float, float]:
        knots = [knot for path in pen.in_hand.paths for knot in path]
        if knots and chance.random() < 0.6:  # at a knot, as it is or on another tile
            u, v = chance.choice(knots)[:2]
            return u % 1 + chance.choice([0, 0, 0, 1, -1]) * (chance.random() < 0.3), v % 1
        return chance.uniform(-0.2, 1.2), chance.uniform(-0.2, 1.2)

    for _ in range(150):
        what = chance.random()
        if what < 0.35:
            pen.click(*somewhere(), chance.choice(held))
        elif what < 0.6:
            pen.drag(*(somewhere() for _ in range(chance.randint(2, 5))), modifier=chance.choice(held))
        elif what < 0.7:
            pen.bot.mouseDClick(pen.canvas, LEFT, NONE, pen.at(*somewhere()))
        elif what < 0.85:
            key = chance.choice(keys)
            pen.key(key, NONE if key == Qt.Key.Key_Return else chance.choice(held))  # else it delivers
        else:
            hands.window.actions_[chance.choice(commands)].trigger()
        paths = pen.in_hand.paths
        assert DrawnPaths("paths", (), help="Paths.").check(paths) == paths
        assert drawing.still_there(paths, pen.in_hand.chosen) == pen.in_hand.chosen
        if len(paths) > 40:
            pen.key(Qt.Key.Key_A, CTRL)
            pen.key(Qt.Key.Key_Delete)
    hands.wait_until_done()
    assert not pen.canvas.grab().isNull() and not w.failures
    again = decode_document(encode_document(w.document))
    assert again.graph == w.document.graph
