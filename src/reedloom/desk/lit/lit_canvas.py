"""Shows lit frames and turns hands into another state: orbit, pan, zoom, light, lamp, region, wipe."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from reedloom.desk.look.arrows import ARROWS
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.wipe import Wipe
from reedloom.lit.lights import LIGHT_SETS
from reedloom.lit.state import DISTANCES, PITCHES, VIEWPOINTS, camera_of, look_from
from reedloom.weave.document import LitState, Viewpoint

EMPTY = "Tie an output to the map rail, such as height or base colour, to see it in light."
LEAST_REGION = 12
"""Pixels; a smaller box was a click."""


class LitCanvas(QWidget):
    """The picture under the hands; knows nothing of weaves."""

    moved = Signal(object)
    region_changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.state = LitState()
        self.frames: list[QImage] = []
        self.fine = False
        self.caption = ""
        self.message = EMPTY
        self.region = QRectF()
        """In shares of the widget; empty for all of it."""
        self.drawing_region = False
        self.wipe = Wipe()
        self._last: QPointF | None = None
        self._corner: QPointF | None = None
        self._sketch = QRectF()
        """The region while it is being drawn."""
        self.setMinimumSize(160, 160)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lit view")

    @property
    def frame(self) -> QImage | None:
        """The first material's picture."""
        return self.frames[0] if self.frames else None

    def sizeHint(self) -> QSize:
        return QSize(360, 360)

    def show_frames(self, frames: Sequence[QImage], fine: bool) -> None:
        """Show one picture, or two with a wipe between them."""
        self.frames, self.fine = list(frames), fine
        self.update()

    # -- painting -------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme().colour("slot"))
        if not self.frames:
            painter.setFont(small_font(pixels=13))
            painter.setPen(theme().colour("text"))
            box = self.rect().adjusted(24, 0, -24, 0)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), self.message)
            return
        self.paint_picture(painter, QRectF(self.rect()))
        if len(self.frames) == 2:
            self.wipe.paint(painter, self.width(), self.height())
        for part in (self.region, self._sketch):
            painter.setPen(QPen(theme().colour("accent"), 1, Qt.PenStyle.DashLine))
            if not part.isEmpty():
                painter.drawRect(self._scaled(part))
        self._paint_caption(painter)

    def paint_picture(self, painter: QPainter, area: QRectF) -> None:
        """What is shown, without marks: A, or A beside B."""
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(area, self.frames[0])
        if len(self.frames) == 2:
            painter.save()
            painter.setClipRect(self.wipe.right_part(round(area.width()), round(area.height())))
            painter.drawImage(area, self.frames[1])
            painter.restore()

    def _scaled(self, box: QRectF) -> QRectF:
        w, h = self.width(), self.height()
        return QRectF(box.x() * w, box.y() * h, box.width() * w, box.height() * h)

    def _paint_caption(self, painter: QPainter) -> None:
        painter.setFont(small_font())
        text = painter.fontMetrics().elidedText(
            self.caption, Qt.TextElideMode.ElideRight, max(10, self.width() - 24)
        )
        box = QRectF(8, self.height() - 26, painter.fontMetrics().horizontalAdvance(text) + 12, 18)
        painter.setPen(Qt.PenStyle.NoPen)
        ground = QColor(theme().colour("slot"))
        ground.setAlpha(190)
        painter.setBrush(ground)
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(theme().colour("text"))
        painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)

    # -- hands ----------------------------------------------------------------------------------------

    def change(self, **values: object) -> None:
        """Go to another state."""
        self.state = replace(self.state, **values)
        self.moved.emit(self.state)

    def look_from(self, viewpoint: Viewpoint) -> None:
        """Go to a view point."""
        self.state = look_from(self.state, viewpoint)
        self.moved.emit(self.state)

    def set_region(self, region: QRectF) -> None:
        """Refine only a part, in shares of the widget; an empty one stands for all of it."""
        if region != self.region:
            self.region = region
            self.region_changed.emit()
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        at = event.position()
        self.wipe.held = len(self.frames) == 2 and self.wipe.is_near(at.x(), self.width())
        if self.drawing_region:
            self._corner = at
        else:
            self._last = at

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._last = None
        self.wipe.held = False
        if self._corner is not None:
            box = QRectF(self._corner, event.position()).normalized()
            small = box.width() < LEAST_REGION or box.height() < LEAST_REGION
            self.set_region(QRectF() if small else self._shares(box))
            self._corner, self._sketch = None, QRectF()
            self.update()

    def _shares(self, box: QRectF) -> QRectF:
        w, h = max(1, self.width()), max(1, self.height())
        return QRectF(box.x() / w, box.y() / h, box.width() / w, box.height() / h) & QRectF(0, 0, 1, 1)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        near = len(self.frames) == 2 and self.wipe.is_near(at.x(), self.width())
        shape = Qt.CursorShape.SplitHCursor if near else Qt.CursorShape.ArrowCursor
        self.setCursor(Qt.CursorShape.CrossCursor if self.drawing_region else shape)
        if self._corner is not None:
            self._sketch = self._shares(QRectF(self._corner, at).normalized())
            self.update()
        elif self._last is not None and self.wipe.held:
            self.wipe.drag_to(at.x(), self.width())
            self.update()
        elif self._last is not None:
            step, self._last = at - self._last, at
            self._drag(step, event.buttons(), event.modifiers())

    def _drag(self, step: QPointF, buttons: Qt.MouseButton, modifiers: Qt.KeyboardModifier) -> None:
        if buttons & Qt.MouseButton.MiddleButton or modifiers & Qt.KeyboardModifier.ShiftModifier:
            self._pan(step)
        elif modifiers & Qt.KeyboardModifier.ControlModifier:
            self.change(turn=(self.state.turn + step.x() * 0.5) % 360)
        elif modifiers & Qt.KeyboardModifier.AltModifier:
            self._move_key(step)
        else:
            self._orbit(step.x() * 0.4, step.y() * 0.4)

    def _orbit(self, across: float, up: float) -> None:
        pitch = min(max(self.state.pitch + up, PITCHES[0]), PITCHES[1])
        self.change(yaw=(self.state.yaw + across) % 360, pitch=pitch)

    def _pan(self, step: QPointF) -> None:
        _, axes = camera_of(self.state)
        scale = self.state.distance * 0.72 / max(1, self.height())
        target = np.array(self.state.target) + (-axes[0] * step.x() + axes[1] * step.y()) * scale
        self.change(target=tuple(float(v) for v in np.clip(target, -2, 2)))

    def _move_key(self, step: QPointF) -> None:
        azimuth, elevation = self.state.key or LIGHT_SETS[self.state.light_set].key
        elevation = min(max(elevation - step.y() * 0.3, 1.0), 89.0)
        self.change(key=((azimuth + step.x() * 0.5) % 360, elevation))

    def _zoom(self, factor: float) -> None:
        self.change(distance=min(max(self.state.distance * factor, DISTANCES[0]), DISTANCES[1]))

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom(0.999 ** event.angleDelta().y())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in ARROWS:
            right, down = ARROWS[event.key()]
            modifiers = event.modifiers()
            if modifiers & Qt.KeyboardModifier.ControlModifier:
                self.change(turn=(self.state.turn + 10 * right) % 360)
            elif modifiers & Qt.KeyboardModifier.AltModifier:
                self._move_key(QPointF(12 * right, 10 * down))
            elif modifiers & Qt.KeyboardModifier.ShiftModifier and len(self.frames) == 2:
                self.wipe.step(0.05 * right)
                self.update()
            elif modifiers & Qt.KeyboardModifier.ShiftModifier:
                self._pan(QPointF(-20 * right, -20 * down))
            else:
                self._orbit(-8.0 * right, 6.0 * -down)
        elif event.text() in {"+", "-"}:
            self._zoom(0.9 if event.text() == "+" else 1.1)
        elif event.key() == Qt.Key.Key_Home:
            self.look_from(VIEWPOINTS[self.state.object]["Whole"])
        elif event.key() == Qt.Key.Key_Escape and not self.region.isEmpty():
            self.set_region(QRectF())
        else:
            super().keyPressEvent(event)
