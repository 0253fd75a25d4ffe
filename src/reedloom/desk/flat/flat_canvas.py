"""Paints one or two pictures as repeated tiles, with pan, zoom, seam marks and a wipe."""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from reedloom.desk.flat.handle_marks import FlatHandles
from reedloom.desk.flat.path_hands import PathHands
from reedloom.desk.look.arrows import ARROWS
from reedloom.desk.look.hints import paint_hint
from reedloom.desk.look.keys import CTRL_ARROWS, take_keys
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.wipe import Wipe
from reedloom.desk.settings.tone_marks import paint_histogram
from reedloom.preview.encodings import Tones, measure_tones

LINE_STEPS = 96
"""Places taken along a line."""
EMPTY = ("Nothing to show yet.", "Hang a node, or select one and press 1 to look at it.")


class Shown(Struct, frozen=True, eq=False, dict=True):
    """A picture with its name, and the map whose tones the histogram tells."""

    title: str
    image: QImage
    array: np.ndarray

    @cached_property
    def tones(self) -> Tones:
        """Measured when first asked for, as few pictures of a drag are."""
        return measure_tones(self.array)


class FlatCanvas(QWidget):
    """Shows tiles; knows nothing of weaves."""

    pointed = Signal(object)
    """The place under the pointer as (u, v), or None."""
    picked = Signal(object)
    """The places picked: one, or many along a line."""

    def __init__(self, handles: FlatHandles | None = None, path_hands: PathHands | None = None) -> None:
        super().__init__()
        self.handles = handles
        self.path_hands = path_hands
        if path_hands is not None:
            path_hands.to_widget, path_hands.to_tile = self._to_widget, self._to_tile
            path_hands.span = self._tiles_in_sight
        self.first: Shown | None = None
        self.second: Shown | None = None
        self.repeat = 1
        self.seam = False
        self.histogram = False
        self.wipe = Wipe()
        self.message: tuple[str, ...] = EMPTY
        self._zoom: float | None = None
        self._middle = QPointF(0.5, 0.5)
        self._drag: QPointF | None = None
        self._laid: dict[tuple[int, int, int], QPixmap] = {}
        self.picking: str = ""
        """"point" or "line" while the next click or drag picks; else empty."""
        self._line: tuple[QPointF, QPointF] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(160, 160)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Flat view")
        take_keys(self, *CTRL_ARROWS)

    def sizeHint(self) -> QSize:
        return QSize(360, 360)

    def show_pictures(self, first: Shown | None, second: Shown | None) -> None:
        """Show one picture, or two with a wipe between them."""
        self.first, self.second = first, second
        self.update()

    # -- where things are -----------------------------------------------------------------------------

    @property
    def aspect(self) -> float:
        """The tile's height in widths, as the picture has it."""
        return self.first.image.height() / self.first.image.width() if self.first is not None else 1.0

    @property
    def zoom(self) -> float:
        """Screen pixels across one tile."""
        if self._zoom is None:
            # While paths are drawn, what lies beyond the tile's edge is seen too.
            share = 0.94 if self._on_paths is None else 0.76
            return share * min(self.width(), self.height() / self.aspect) / self.repeat
        return self._zoom

    @property
    def _on_paths(self) -> PathHands | None:
        """The hands on drawn paths, while there are some to be seen."""
        hands = self.path_hands
        return hands if hands is not None and hands.is_active else None

    def _tiles_in_sight(self) -> tuple[int, int, int, int]:
        """From which tile to before which there is anything on the widget, across and down."""
        low, high = self._to_tile(QPointF(0, 0)), self._to_tile(QPointF(self.width(), self.height()))
        left, top, right, bottom = (math.floor(x) for x in (low.x(), low.y(), high.x(), high.y()))
        return left, right + 1, top, bottom + 1

    def _pixels(self, tiles: QPointF) -> QPointF:
        """A way in tiles as one on the screen."""
        return QPointF(tiles.x() * self.zoom, tiles.y() * self.zoom * self.aspect)

    def _tiles(self, pixels: QPointF) -> QPointF:
        """A way on the screen as one in tiles."""
        return QPointF(pixels.x() / self.zoom, pixels.y() / (self.zoom * self.aspect))

    def fit(self) -> None:
        """Show all repeats."""
        self._zoom = None
        middle = sum(self._span()) / 2
        self._middle = QPointF(middle, middle)
        self.update()

    def show_actual(self) -> None:
        """One sample for each pixel of the screen."""
        if self.first is not None:
            self._zoom = self.first.image.width() / self.devicePixelRatioF()
            self.update()

    def _origin(self) -> QPointF:
        """Where the corner of the tile at (0, 0) is on the widget."""
        return QPointF(self.width() / 2, self.height() / 2) - self._pixels(self._middle)

    def _to_widget(self, u: float, v: float) -> QPointF:
        return self._origin() + self._pixels(QPointF(u, v))

    def _to_tile(self, point: QPointF) -> QPointF:
        return self._tiles(point - self._origin())

    def place_at(self, point: QPointF) -> tuple[float, float] | None:
        """The tile place under a point of the widget, if a tile is there."""
        away = self._to_tile(point)
        low, high = self._span()
        if low <= away.x() < high and low <= away.y() < high:
            return away.x() % 1.0, away.y() % 1.0
        return None

    def _span(self) -> tuple[float, float]:
        """From where to where tiles are repeated, with the first tile in their midst."""
        before = (self.repeat - 1) // 2
        return -before, self.repeat - before

    # -- painting -------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), t.colour("slot"))
        if self.first is None:
            self._paint_message(painter)
            return
        low, high = self._span()
        start = self._origin() + self._pixels(QPointF(low, low))
        area = QRectF(start, start + self._pixels(QPointF(high - low, high - low)))
        if self._on_paths is not None:
            painter.setOpacity(0.45)
            self._paint_tiles(painter, self.first.image, QRectF(self.rect()), start)
            painter.setOpacity(1.0)
        self._paint_tiles(painter, self.first.image, area, start)
        if self._on_paths is not None:
            painter.setPen(QPen(t.colour("dim"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(area)
        if self.second is not None:
            right = area & self.wipe.right_part(self.width(), self.height())
            if not right.isEmpty():
                painter.save()
                painter.setClipRect(right)
                self._paint_tiles(painter, self.second.image, area, start)
                painter.restore()
            self.wipe.paint(painter, self.width(), self.height())
        if self.seam:
            self._paint_seam(painter, area)
        if self.histogram:
            self._paint_histogram(painter)
        if self.handles is not None:
            self.handles.paint(painter, self._to_widget)
        if self._on_paths is not None:
            self._on_paths.paint(painter, self.aspect)
        if self.picking:
            self._paint_picking(painter)

    def _paint_tiles(self, painter: QPainter, image: QImage, area: QRectF, start: QPointF) -> None:
        scale, tile = self.zoom / image.width(), self._pixels(QPointF(1, 1))
        size = image.size()
        if scale < 0.75:
            # A picture shrunk by the painter alone would sparkle; a smooth copy of that size does not.
            pixels = tile * self.devicePixelRatioF()
            size = QSize(max(1, round(pixels.x())), max(1, round(pixels.y())))
        shown = self._tile_of(image, size)
        brush = QBrush(shown)
        to_tile = QTransform().translate(start.x(), start.y())
        brush.setTransform(to_tile.scale(tile.x() / shown.width(), tile.y() / shown.height()))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 4)
        painter.fillRect(area, brush)

    def _tile_of(self, image: QImage, size: QSize) -> QPixmap:
        """A picture as it is laid side by side, kept for the next time that it is painted."""
        key = image.cacheKey(), size.width(), size.height()
        if key not in self._laid:
            smooth = Qt.TransformationMode.SmoothTransformation
            tile = QPixmap.fromImage(image.scaled(size, Qt.AspectRatioMode.IgnoreAspectRatio, smooth))
            self._laid = dict([*self._laid.items()][-1:]) | {key: tile}  # A's, and B's beside it
        return self._laid[key]

    def _paint_message(self, painter: QPainter) -> None:
        middle = self.rect().center()
        for number, line in enumerate(self.message):
            painter.setFont(small_font(bold=number == 0, pixels=14 if number == 0 else 12))
            painter.setPen(theme().colour("text" if number == 0 else "dim"))
            box = QRectF(12, middle.y() - 26 + number * 24, self.width() - 24, 44)
            painter.drawText(
                box,
                int(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap),
                line,
            )

    def _paint_seam(self, painter: QPainter, area: QRectF) -> None:
        """Small corner marks where tiles meet: they point at the seam without covering it."""
        painter.setPen(QPen(theme().colour("accent"), 1.6))
        low, high = self._span()
        arm = min(12.0, self.zoom / 6)
        origin = self._origin()
        for column in range(int(low), int(high) + 1):
            for row in range(int(low), int(high) + 1):
                at = origin + self._pixels(QPointF(column, row))
                painter.drawLine(at - QPointF(arm, 0), at + QPointF(arm, 0))
                painter.drawLine(at - QPointF(0, arm), at + QPointF(0, arm))

    def _paint_picking(self, painter: QPainter) -> None:
        text = "Draw a line over the colours" if self.picking == "line" else "Click on a colour"
        paint_hint(painter, text, QPointF(self.width() / 2, 20))
        if self._line is not None:
            painter.setPen(QPen(theme().colour("accent"), 2))
            painter.drawLine(*self._line)

    def _paint_histogram(self, painter: QPainter) -> None:
        assert self.first is not None
        t = theme()
        box = QRectF(10, self.height() - 84, min(220, self.width() - 20), 74)
        ground = t.colour("panel")
        ground.setAlpha(225)
        painter.fillRect(box, ground)
        inner = box.adjusted(8, 6, -8, -22)
        paint_histogram(painter, inner, self.first.tones, t.colour("text"))
        painter.setFont(small_font())
        painter.setPen(t.colour("text"))
        tones = self.first.tones
        text = f"{tones.low:.3g} to {tones.high:.3g}"
        beyond = tones.below + tones.above
        if beyond > 0:
            text += f" · {beyond:.1%} beyond"
        painter.drawText(QRectF(inner.left(), inner.bottom() + 3, inner.width(), 16), 0, text)

    # -- hands ----------------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom_at(1.0015 ** event.angleDelta().y(), event.position())

    def _zoom_at(self, factor: float, at: QPointF) -> None:
        place = self._to_tile(at)
        self._zoom = min(max(self.zoom * factor, 24.0), 40000.0)
        self._middle = place - self._tiles(at - QPointF(self.width() / 2, self.height() / 2))
        self.update()

    def start_picking(self, along_line: bool) -> None:
        """Let the next click, or the next line drawn, pick places; Esc leaves it."""
        self.picking = "line" if along_line else "point"
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setFocus()
        self.update()

    def _end_picking(self) -> None:
        line, self._line, kind, self.picking = self._line, None, self.picking, ""
        self.update()
        if line is None:
            return
        steps = LINE_STEPS if kind == "line" else 1
        points = [line[0] + (line[1] - line[0]) * (i / max(1, steps - 1)) for i in range(steps)]
        places = [self.place_at(p) for p in points]
        found = [p for p in places if p is not None]
        if found:
            self.picked.emit(found)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        at = event.position()
        if self.picking:
            self._line = (at, at)
            return
        if self.handles is not None and self.handles.take(at, self._to_widget):
            self.update()
            return
        hands = self._on_paths if event.button() == Qt.MouseButton.LeftButton else None
        if hands is not None and hands.press(at, event.modifiers()):
            self.update()
            return
        self.wipe.held = self.second is not None and self.wipe.is_near(at.x(), self.width())
        self._drag = at

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self.picking:
            if self._line is not None:
                self._line = (self._line[0], at)
                self.update()
            return
        if self._drag_handle(at, done=False):
            return
        if self.path_hands is not None and self.path_hands.move(at, event.modifiers()):
            self.update()
            return
        if self._drag is not None and self.wipe.held:
            self.wipe.drag_to(at.x(), self.width())
            self.update()
        elif self._drag is not None:
            self._zoom = self.zoom
            self._middle -= self._tiles(at - self._drag)
            self._drag = at
            self.update()
        near = self.second is not None and self.wipe.is_near(at.x(), self.width())
        self.setCursor(Qt.CursorShape.SplitHCursor if near else Qt.CursorShape.CrossCursor)
        self.pointed.emit(self.place_at(at))

    def _drag_handle(self, at: QPointF, done: bool) -> bool:
        """Move the handle that is held, if one is."""
        if self.handles is None or self.handles.held is None:
            return False
        away = self._to_tile(at)
        self.handles.drag(away.x(), away.y(), done)
        self.update()
        return True

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None
        if self._drag_handle(event.position(), done=True):
            return
        if self.path_hands is not None and self.path_hands.release(event.position()):
            self.update()
            return
        if self.picking:
            self._end_picking()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        hands = self._on_paths
        if hands is None or not hands.double_click(event.position()):
            self.mousePressEvent(event)

    def leaveEvent(self, event: object) -> None:
        self.pointed.emit(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.picking:
            self.picking, self._line = "", None
            self.update()
        elif self._on_paths is not None and self._on_paths.key(event):
            self.update()
        elif event.key() in ARROWS:
            dx, dy = ARROWS[event.key()]
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and dx and self.second is not None:
                self.wipe.step(0.05 * dx)
            else:
                self._zoom = self.zoom
                self._middle += self._tiles(QPointF(dx, dy) * 40)
            self.update()
        elif event.text() in {"+", "-"}:
            self._zoom_at(1.25 if event.text() == "+" else 0.8, QPointF(self.width() / 2, self.height() / 2))
        else:
            super().keyPressEvent(event)
