"""Drawn paths over the flat view: painted, found under the pointer, drawn and moved, and edited with keys."""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import pairwise

import numpy as np
from msgspec import Struct, field
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPen, QPolygonF

from reedloom.desk.look.arrows import ARROWS
from reedloom.desk.look.hints import paint_hint
from reedloom.desk.look.theme import theme
from reedloom.desk.screen.paths_in_hand import PathsInHand
from reedloom.kernels.knots import through_knots
from reedloom.kernels.points import starts_of
from reedloom.kinds.path.drawn_path import knots_of as as_array
from reedloom.kit import drawing
from reedloom.kit.drawing import NONE, Chosen
from reedloom.kit.parameters.drawn import Drawn

NEAR = 9.0
"""How many pixels from a knot or a line it can be taken."""
STILL = 3.0
"""How many pixels a hand may stray in a click."""
RIM = 26.0
"""How far beyond the chosen knots the mark stands that turns them."""
LOOSE = 2.5
"""How many pixels a freely drawn path may be from where the hand went."""
STEP, TURN, GROW = 0.005, 5.0, 1.05
"""What an arrow moves in tiles, turns in degrees, and scales by; with Shift ten times the way."""
APART = 2.5
"""Pixels between corners of a painted line."""
MANY, CROWD = 80, 600
"""More knots than the first are drawn smaller; of more than the second, those of chosen paths alone."""
HINTS = {
    "begin": "Click to lay the first knot, or drag to draw freely; Esc ends",
    "go on": "Click to go on; on an end it joins; Enter ends the path",
}
Place = tuple[float, float]


class _Held(Struct):
    """What a hand is at: "knots", "turn", "box", "free" or "ground", since where, with which paths."""

    what: str
    start: QPointF
    paths: Drawn
    chosen: Chosen
    trail: list[QPointF] = field(default_factory=list)
    is_moved: bool = False


class PathHands:
    """The hands on the paths of the selected node; knows the canvas only by how places turn into pixels."""

    def __init__(self, in_hand: PathsInHand) -> None:
        self.in_hand = in_hand
        self.is_active = False
        """Whether there are paths in hand that have to do with what the view shows."""
        self.to_widget: Callable[[float, float], QPointF] = QPointF
        self.to_tile: Callable[[QPointF], QPointF] = lambda point: point
        self.span: Callable[[], tuple[int, int, int, int]] = lambda: (0, 1, 0, 1)
        """From which tile to before which, across and down, there is anything to see."""
        self.held: _Held | None = None
        self._image = (0, 0)
        """On which tile the end that is drawn on from was taken."""
        self._aspect = 1.0
        self._drawn: tuple[np.ndarray | None, QPointF, list[tuple[int, QPolygonF]]] = None, QPointF(), []
        self._kept: tuple[Drawn, float, np.ndarray, np.ndarray] | None = None

    # -- where things are -----------------------------------------------------------------------------

    def _place(self, point: QPointF) -> Place:
        at = self.to_tile(point)
        return at.x(), at.y()

    def _away(self, u: float, v: float, point: QPointF) -> tuple[float, tuple[int, int]]:
        """How many pixels the nearest image of a place is from a point, and on which tile that is."""
        at = self._place(point)
        tile = round(at[0] - u), round(at[1] - v)
        gap = self.to_widget(u + tile[0], v + tile[1]) - point
        return math.hypot(gap.x(), gap.y()), tile

    def knot_at(self, point: QPointF) -> tuple[tuple[int, int], tuple[int, int]] | None:
        """The knot under a point, the chosen before others, and the tile on which it was met."""
        found, chosen = [], self.in_hand.chosen
        for p, path in enumerate(self.in_hand.paths):
            for k, knot in enumerate(drawing.knots_of(path)):
                away, tile = self._away(knot[0], knot[1], point)
                if away <= NEAR:
                    found.append((away - ((p, k) in chosen), (p, k), tile))
        return min(found)[1:] if found else None

    def line_at(self, point: QPointF) -> tuple[int, int, tuple[int, int]] | None:
        """The path under a point, the knot after which that is, and the tile on which it was met."""
        paths = self.in_hand.paths
        corners, knot = self._course(paths)
        pieces = np.flatnonzero(corners["path"][1:] == corners["path"][:-1])
        if not len(pieces):
            return None
        origin, one = self.to_widget(0, 0), self.to_widget(1, 1)
        scale = np.array([one.x() - origin.x(), one.y() - origin.y()])
        at = np.stack([corners["u"], corners["v"]], axis=1)
        place = np.array(self._place(point))
        # On the tile on which the piece's middle is nearest.
        tile = np.round(place - (at[pieces] + at[pieces + 1]) / 2)
        begin, way = (at[pieces] + tile - place) * scale, (at[pieces + 1] - at[pieces]) * scale
        share = np.clip(-(begin * way).sum(1) / np.maximum((way * way).sum(1), 1e-9), 0, 1)
        away = np.hypot(*(begin + share[:, None] * way).T)
        nearest = int(away.argmin())
        if away[nearest] > NEAR:
            return None
        path = int(corners["path"][pieces[nearest]])
        before = sum(len(earlier) for earlier in paths[:path])
        return path, int(knot[pieces[nearest]]) - before, (int(tile[nearest][0]), int(tile[nearest][1]))

    def _lines(self, pixels: QPointF) -> list[tuple[int, QPolygonF]]:
        """Each path's number and its line in tiles, kept until the paths or the zoom change.

        pixels : how many a tile is wide and high
        """
        corners, _ = self._course(self.in_hand.paths)
        if self._drawn[0] is not corners or self._drawn[1] != pixels:
            self._drawn = corners, pixels, seen_lines(corners, pixels.x(), pixels.y())
        return self._drawn[2]

    def _course(self, paths: Drawn) -> tuple[np.ndarray, np.ndarray]:
        """The corners through the paths' knots, and the knot that each comes after; kept."""
        if self._kept is None or self._kept[0] != paths or self._kept[1] != self._aspect:
            self._kept = paths, self._aspect, *through_knots(*as_array(paths), self._aspect)
        return self._kept[2], self._kept[3]

    def _rim(self) -> tuple[QPointF, QPointF] | None:
        """The middle of what is chosen and the mark that turns it, where more than one knot is."""
        held = self.held
        paths, chosen = self.in_hand.paths, self.in_hand.chosen
        if len(chosen) < 2 or (held is not None and held.what != "turn"):
            return None
        middle = self.to_widget(*drawing.middle_of(paths, chosen))
        reach = max(abs(self.to_widget(*paths[p][k][:2]).x() - middle.x()) for p, k in chosen)
        return middle, middle + QPointF(reach + RIM, 0)

    # -- painting -------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, aspect: float) -> None:
        """Draw the paths on every tile in sight, and the knots of those on the first."""
        self._aspect = aspect
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paths = self.in_hand.paths
        chosen_paths = {p for p, _ in self.in_hand.chosen}
        left, right, top, bottom = self.span()
        pixels = self.to_widget(1, 1) - self.to_widget(0, 0)
        lines = [(line, "accent" if path in chosen_paths else "text") for path, line in self._lines(pixels)]
        for i in range(left, right):
            for j in range(top, bottom):
                self._paint_lines(painter, lines, (i, j), pixels)
        self._paint_knots(painter, paths)
        rim = self._rim()
        if rim is not None:
            self._paint_rim(painter, *rim)
        self._paint_hand(painter)
        self._paint_hint(painter)

    def _paint_lines(
        self, painter: QPainter, lines: list[tuple[QPolygonF, str]], tile: tuple[int, int], pixels: QPointF
    ) -> None:
        """All paths, each in its colour, as they lie from one tile on; fainter than on the first."""
        t, is_first = theme(), tile == (0, 0)
        painter.save()
        painter.translate(self.to_widget(*tile))
        painter.scale(pixels.x(), pixels.y())
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line, main in lines:
            # A line of one pixel is drawn many times faster than a broader one.
            for colour, width in (("ground", 4.0), (main, 1.8)) if is_first else ((main, 1.0),):
                ink = t.colour(colour)
                ink.setAlphaF(1.0 if is_first else 0.6)
                pen = QPen(ink, width)
                pen.setCosmetic(True)
                painter.setPen(pen)
                painter.drawPolyline(line)
        painter.restore()

    def _paint_knots(self, painter: QPainter, paths: Drawn) -> None:
        """Discs for smooth knots, squares for sharp ones; a ring about the start of each path."""
        t = theme()
        count = sum(map(len, paths))
        is_crowded, size = count > CROWD, 5.0 if count <= MANY else 3.5
        chosen = self.in_hand.chosen
        numbers = {p for p, _ in chosen} if is_crowded else range(len(paths))
        for p in numbers:
            path = paths[p]
            for k, knot in enumerate(drawing.knots_of(path)):
                at = self.to_widget(knot[0], knot[1])
                painter.setPen(QPen(t.colour("ground"), 1.4))
                painter.setBrush(t.colour("accent" if (p, k) in chosen else "text"))
                if knot[2] >= 0.5:
                    painter.drawRect(QRectF(at.x() - 0.9 * size, at.y() - 0.9 * size, 1.8 * size, 1.8 * size))
                else:
                    painter.drawEllipse(at, size, size)
                if k == 0 and len(path) > 1:
                    painter.setPen(QPen(t.colour("text"), 1.2))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawEllipse(at, size + 3.5, size + 3.5)

    def _paint_rim(self, painter: QPainter, middle: QPointF, rim: QPointF) -> None:
        t = theme()
        for colour, width in ((t.colour("ground"), 4.0), (t.colour("accent"), 2.0)):
            painter.setPen(QPen(colour, width))
            painter.setBrush(t.colour("ground"))
            painter.drawLine(middle - QPointF(5, 0), middle + QPointF(5, 0))
            painter.drawLine(middle - QPointF(0, 5), middle + QPointF(0, 5))
            painter.drawEllipse(rim, 4.5, 4.5)

    def _paint_hand(self, painter: QPainter) -> None:
        """What is being drawn: a box that chooses, or the way of the hand."""
        if self.held is None or not self.held.is_moved:
            return
        painter.setPen(QPen(theme().colour("accent"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.held.what == "box":
            painter.drawRect(QRectF(self.held.start, self.held.trail[-1]).normalized())
        elif self.held.what == "free":
            painter.drawPolyline(QPolygonF([self.held.start, *self.held.trail]))

    def _paint_hint(self, painter: QPainter) -> None:
        """The next step, at the foot of the view, while drawing or while there is nothing yet."""
        if not (self.in_hand.drawing or not self.in_hand.paths):
            return
        text = HINTS["go on" if self._end() is not None else "begin"]
        if not self.in_hand.drawing:
            text = "Nothing is drawn yet: press Draw above"
        view = painter.viewport()
        paint_hint(painter, text, QPointF(view.width() / 2, view.height() - 22))

    # -- the pointer ----------------------------------------------------------------------------------

    def _end(self) -> tuple[int, int] | None:
        """The end that a click draws on from: the single knot chosen, if it is one."""
        chosen = self.in_hand.chosen
        if len(chosen) != 1 or not drawing.is_end(self.in_hand.paths, *next(iter(chosen))):
            return None
        return next(iter(chosen))

    def press(self, point: QPointF, modifiers: Qt.KeyboardModifier) -> bool:
        """Begin something at a point; whether the hand is on the paths, and not on the picture."""
        paths, shift = self.in_hand.paths, bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        rim = self._rim()
        if rim is not None and math.hypot((rim[1] - point).x(), (rim[1] - point).y()) <= NEAR:
            return self._hold("turn", point)
        met = self.knot_at(point)
        if met is not None:
            return self._take_knot(*met, point, shift)
        line = self.line_at(point)
        if line is not None and self.in_hand.drawing and self._end() is None:
            return self._lay_into(line, point)
        if line is not None and not self.in_hand.drawing:
            whole = drawing.all_of(paths, (line[0],))
            self.in_hand.choose(self.in_hand.chosen | whole if shift else whole)
            return self._hold("knots", point)
        if self.in_hand.drawing:
            return self._hold("free", point)
        if shift:
            return self._hold("box", point)
        self._hold("ground", point)
        return False

    def _hold(self, what: str, point: QPointF) -> bool:
        self.held = _Held(what, point, self.in_hand.paths, self.in_hand.chosen)
        return True

    def _take_knot(self, knot: tuple[int, int], tile: tuple[int, int], point: QPointF, shift: bool) -> bool:
        """Choose a knot; while drawing, an end that is met is where the path goes."""
        end, paths = self._end(), self.in_hand.paths
        if self.in_hand.drawing and end is not None and end != knot and drawing.is_end(paths, *knot):
            found = self._reach(end, knot, tile)
            if found is not None:
                self.in_hand.take(found, "Join paths")
            return True
        if shift:
            self.in_hand.choose(self.in_hand.chosen ^ {knot})
        elif knot not in self.in_hand.chosen:
            self.in_hand.choose(frozenset({knot}))
        self._image = tile
        return self._hold("knots", point)

    def _reach(
        self, end: tuple[int, int], knot: tuple[int, int], tile: tuple[int, int]
    ) -> drawing.Change | None:
        """The path drawn on from an end to another end: closed there on just that tile, or joined with it."""
        paths = self.in_hand.paths
        if end[0] != knot[0]:
            return drawing.joined(paths, frozenset({end, knot}))
        at = paths[knot[0]][knot[1]]
        across, down = tile[0] - self._image[0], tile[1] - self._image[1]
        return drawing.continued(paths, *end, at[0] + across, at[1] + down)

    def _lay_into(self, line: tuple[int, int, tuple[int, int]], point: QPointF) -> bool:
        """Lay a knot into a line, and hold it."""
        path, after, tile = line
        u, v = self._place(point)
        found = drawing.added(self.in_hand.paths, path, after, u - tile[0], v - tile[1])
        self.in_hand.take(found, "Add a knot")
        return self._hold("knots", point)

    def move(self, point: QPointF, modifiers: Qt.KeyboardModifier) -> bool:
        """Go on with what was begun; whether anything was."""
        held = self.held
        if held is None:
            return False
        gap = point - held.start
        held.is_moved = held.is_moved or math.hypot(gap.x(), gap.y()) > STILL
        if held.what == "ground" or not held.is_moved:
            return held.what != "ground"
        held.trail.append(point)
        if held.what == "knots":
            free = bool(modifiers & Qt.KeyboardModifier.AltModifier)
            self.in_hand.put(self._moved(held, point, free))
        elif held.what == "turn":
            self.in_hand.put(self._turned(held, point))
        return True

    def _moved(self, held: _Held, point: QPointF, free: bool) -> Drawn:
        chosen = self.in_hand.chosen
        (a, b), (c, d) = self._place(held.start), self._place(point)
        du, dv = c - a, d - b
        if len(chosen) == 1 and not free:  # one knot is drawn to ends and to the seam
            p, k = next(iter(chosen))
            u, v = held.paths[p][k][:2]
            at = self._snapped(held.paths, chosen, (u + du, v + dv))
            du, dv = at[0] - u, at[1] - v
        return drawing.moved(held.paths, chosen, du, dv)

    def _snapped(self, paths: Drawn, chosen: Chosen, place: Place) -> Place:
        one = self.to_tile(QPointF(NEAR, NEAR)) - self.to_tile(QPointF(0, 0))
        return drawing.snapped(paths, chosen, *place, (abs(one.x()), abs(one.y())))

    def _turned(self, held: _Held, point: QPointF) -> Drawn:
        middle = self.to_widget(*drawing.middle_of(held.paths, held.chosen))
        before, now = held.start - middle, point - middle
        degrees = math.degrees(math.atan2(now.y(), now.x()) - math.atan2(before.y(), before.x()))
        scale = max(math.hypot(now.x(), now.y()), 1.0) / max(math.hypot(before.x(), before.y()), 1.0)
        return drawing.turned(held.paths, held.chosen, degrees, scale, self._aspect)

    def release(self, point: QPointF) -> bool:
        """End what was begun; whether it was on the paths."""
        held, self.held = self.held, None
        if held is None:
            return False
        if held.what == "ground":
            if not held.is_moved:
                self.in_hand.choose(NONE)
            return False
        if held.what == "free":
            self._end_free(held, point)
        elif held.is_moved and held.what == "box":
            self._choose_in(QRectF(held.start, point).normalized())
        elif held.is_moved:
            label = "Move knots" if held.what == "knots" else "Turn knots"
            self.in_hand.put(self.in_hand.paths, label)
        return True

    def _end_free(self, held: _Held, point: QPointF) -> None:
        """A click lays the next knot; a stroke becomes a path of its own."""
        if not held.is_moved:
            end = self._end()
            place = self._place(point)
            if end is None:
                found = drawing.begun(held.paths, *self._snapped(held.paths, NONE, place))
                self._image = (0, 0)
            else:
                near = place[0] - self._image[0], place[1] - self._image[1]
                found = drawing.continued(
                    held.paths, *end, *self._snapped(held.paths, frozenset({end}), near)
                )
            self.in_hand.take(found, "Draw a knot")
            return
        places = [self._place(at) for at in (held.start, *held.trail)]
        one = self.to_tile(QPointF(LOOSE, 0)) - self.to_tile(QPointF(0, 0))
        paths, _ = drawing.drawn_freely(held.paths, places, abs(one.x()))
        self.in_hand.put(paths, "Draw a path", NONE)

    def _choose_in(self, box: QRectF) -> None:
        inside = {
            (p, k)
            for p, path in enumerate(self.in_hand.paths)
            for k, knot in enumerate(drawing.knots_of(path))
            if box.contains(self.to_widget(knot[0], knot[1]))
        }
        self.in_hand.choose(self.in_hand.chosen | inside)

    def double_click(self, point: QPointF) -> bool:
        """Make a knot sharp or smooth, or lay one into a line."""
        met, line = self.knot_at(point), self.line_at(point)
        if met is not None:
            self.in_hand.choose(frozenset({met[0]}))
            self.in_hand.sharpen_knots()
        elif line is not None:
            self._lay_into(line, point)
        return met is not None or line is not None

    # -- the keyboard ---------------------------------------------------------------------------------

    def key(self, event: QKeyEvent) -> bool:
        """Do what a key says; whether it says anything here."""
        key, modifiers = event.key(), event.modifiers()
        is_ctrl = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        times = 10 if modifiers & Qt.KeyboardModifier.ShiftModifier else 1
        hand = self.in_hand
        if key in ARROWS and hand.chosen:
            dx, dy = ARROWS[key]
            if not is_ctrl:
                paths = drawing.moved(hand.paths, hand.chosen, dx * STEP * times, dy * STEP * times)
                hand.put(paths, "Move knots")
            else:
                grow = GROW ** (-dy * times)
                hand.put(
                    drawing.turned(hand.paths, hand.chosen, dx * TURN * times, grow, self._aspect),
                    "Turn knots",
                )
        elif key in {Qt.Key.Key_PageDown, Qt.Key.Key_PageUp}:
            self._step(1 if key == Qt.Key.Key_PageDown else -1, is_ctrl)
        elif key == Qt.Key.Key_Insert:
            self._insert()
        elif key == Qt.Key.Key_Delete:
            hand.delete_knots()
        elif key == Qt.Key.Key_A and is_ctrl:
            hand.choose(drawing.all_of(hand.paths, range(len(hand.paths))))
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            hand.choose(NONE) if hand.drawing else hand.sharpen_knots()
        elif key == Qt.Key.Key_Escape and (hand.drawing or hand.chosen):
            hand.choose(NONE, drawing_on=False)
        else:
            return False
        return True

    def _step(self, way: int, whole: bool) -> None:
        """Choose the next knot, or the next path with all of its knots."""
        paths, chosen = self.in_hand.paths, sorted(self.in_hand.chosen)
        if not paths:
            return
        if whole:
            number = ((chosen[-1][0] if chosen else -1) + way) % len(paths)
            self.in_hand.choose(drawing.all_of(paths, (number,)))
            return
        every = sorted(drawing.all_of(paths, range(len(paths))))
        at = every.index(chosen[-1]) if chosen else -1
        self.in_hand.choose(frozenset({every[(at + way) % len(every)]}))

    def _insert(self) -> None:
        """Lay a knot half-way to the next, or beyond an open end, or the first in the middle of the tile."""
        paths, chosen = self.in_hand.paths, sorted(self.in_hand.chosen)
        if not chosen:
            self.in_hand.take(drawing.begun(paths, 0.5, 0.5), "Draw a knot")
            return
        p, k = chosen[-1]
        path = paths[p]
        if k < len(path) - 1:
            u, v = ((path[k][i] + path[k + 1][i]) / 2 for i in range(2))
            found = drawing.added(paths, p, k, u, v)
        else:
            before = path[k - 1] if k else (path[k][0] - 0.1, path[k][1])
            found = drawing.added(paths, p, k, 2 * path[k][0] - before[0], 2 * path[k][1] - before[1])
        self.in_hand.take(found, "Add a knot")


def seen_lines(corners: np.ndarray, across: float, down: float) -> list[tuple[int, QPolygonF]]:
    """Each path's number and a line in tiles through as many of its corners as can be told apart.

    across, down : how many pixels a tile is wide and high
    """
    run = np.cumsum(
        np.hypot(np.diff(corners["u"], prepend=0) * across, np.diff(corners["v"], prepend=0) * down)
    )
    starts = starts_of(corners)
    kept = np.diff(np.floor(run / APART), prepend=-1) != 0
    kept[starts[:-1]] = kept[starts[1:] - 1] = True
    lines = []
    for first, last in pairwise(starts.tolist()):
        seen = corners[first:last][kept[first:last]]
        places = zip(seen["u"].tolist(), seen["v"].tolist(), strict=True)
        lines.append((int(corners["path"][first]), QPolygonF([QPointF(u, v) for u, v in places])))
    return lines
