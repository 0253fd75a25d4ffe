"""The lit view: the material on an object, turned, lit and looked at closely by hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.arrows import ARROWS
from reedloom.desk.choices import make_choice
from reedloom.desk.lit_worker import LitRequest, LitWorker
from reedloom.desk.settings.slider import NumberField
from reedloom.desk.theme import small_font, theme
from reedloom.desk.workplace import Workplace
from reedloom.kinds.declare import Float, Parameter
from reedloom.lit.lights import LIGHT_SETS
from reedloom.lit.state import OBJECTS, TONE_MAPPINGS, LitState, camera_of
from reedloom.loom.run import convert
from reedloom.weave.channels import CHANNELS
from reedloom.weave.document import End
from reedloom.weave.session import Change

HINT = "Drag to turn · Shift to move · Ctrl turns the light · Alt moves the lamp"
DEPTH = Float("depth", 1.0, (0.0, 4.0), (0.0, 16.0), help="Times the weave's own depth; 1 is true.")
EXPOSURE = Float("exposure", 0.0, (-4.0, 4.0), (-12.0, 12.0), help="In stops: each doubles the light.")
EMPTY = "Tie an output to the map rail, such as height or base colour, to see it in light."
SLACK = 60
"""Milliseconds of rest after the window changes size before a frame is drawn for it."""
NEAREST, FARTHEST = 1.3, 12.0


class LitCanvas(QWidget):
    """Shows frames and turns hands into another state."""

    moved = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.state = LitState()
        self.frame: QImage | None = None
        self.fine = False
        self.message = EMPTY
        self._last: QPointF | None = None
        self.setMinimumSize(160, 160)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lit view")

    def sizeHint(self) -> QSize:
        return QSize(360, 360)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme().colour("slot"))
        if self.frame is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(QRectF(self.rect()), self.frame)
        else:
            painter.setFont(small_font(pixels=13))
            painter.setPen(theme().colour("text"))
            box = self.rect().adjusted(24, 0, -24, 0)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), self.message)

    def change(self, **values: object) -> None:
        """Go to another state."""
        self.state = replace(self.state, **values)  # type: ignore[arg-type]
        self.moved.emit(self.state)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._last = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._last = None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._last is None:
            return
        step, self._last = event.position() - self._last, event.position()
        modifiers = event.modifiers()
        if event.buttons() & Qt.MouseButton.MiddleButton or modifiers & Qt.KeyboardModifier.ShiftModifier:
            self._pan(step)
        elif modifiers & Qt.KeyboardModifier.ControlModifier:
            self.change(turn=(self.state.turn + step.x() * 0.5) % 360)
        elif modifiers & Qt.KeyboardModifier.AltModifier:
            self._move_key(step)
        else:
            self._orbit(step.x() * 0.4, step.y() * 0.4)

    def _orbit(self, across: float, up: float) -> None:
        pitch = min(max(self.state.pitch + up, -85.0), 85.0)
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

    def wheelEvent(self, event: QWheelEvent) -> None:
        distance = self.state.distance * 0.999 ** event.angleDelta().y()
        self.change(distance=min(max(distance, NEAREST), FARTHEST))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in ARROWS:
            right, down = ARROWS[event.key()]
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self.change(turn=(self.state.turn + 10 * right) % 360)
            else:
                self._orbit(-8.0 * right, 6.0 * -down)
        elif event.text() in {"+", "-"}:
            factor = 0.9 if event.text() == "+" else 1.1
            self.change(distance=min(max(self.state.distance * factor, NEAREST), FARTHEST))
        elif event.key() == Qt.Key.Key_Home:
            fresh = LitState()
            self.change(
                yaw=fresh.yaw,
                pitch=fresh.pitch,
                distance=fresh.distance,
                target=fresh.target,
                turn=0.0,
                key=None,
            )
        else:
            super().keyPressEvent(event)


class LitPanel(QWidget):
    """The canvas with its slim strip of choices."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.canvas = LitCanvas()
        self.worker = LitWorker()
        self.reason = ""
        self._ask_soon = QTimer(self)
        self._ask_soon.setSingleShot(True)
        self._ask_soon.timeout.connect(self._ask)
        self.object = make_choice("The object", OBJECTS)
        self.light = make_choice("The light set", {k: s.label for k, s in LIGHT_SETS.items()})
        self.repeats = make_choice("Tiles across the object", {str(n): f"{n}×" for n in (1, 2, 3, 4)})
        self.tone = make_choice("The tone mapping", TONE_MAPPINGS)
        self.depth_field, self.exposure_field = self._field(DEPTH), self._field(EXPOSURE)
        self.hint = QLabel(HINT)
        self.hint.setProperty("role", "dim")
        self.hint.setFont(small_font())
        self.hint.setMinimumWidth(10)
        state = self.canvas.state
        shown = (
            (self.object, state.object),
            (self.light, state.light_set),
            (self.repeats, str(state.repeats)),
        )
        for combo, value in shown:
            combo.setCurrentIndex(combo.findData(value))
        self._lay_out()
        self._connect()

    def _field(self, parameter: Parameter) -> NumberField:
        field = NumberField(parameter)
        field.setFixedWidth(58)
        field.setToolTip(parameter.help)
        field.show_value(float(parameter.default))
        field.changed.connect(lambda value: self.canvas.change(**{parameter.name: value}))
        field.refused.connect(lambda text: self.workplace.message.emit(text, True))
        return field

    def _lay_out(self) -> None:
        strips = []
        fields: list[str | QWidget] = ["Depth", self.depth_field, "Exposure", self.exposure_field, self.tone]
        for parts in ([self.object, self.light, self.repeats], fields):
            strip = QHBoxLayout()
            strip.setSpacing(5)
            for part in parts:
                strip.addWidget(QLabel(part) if isinstance(part, str) else part)
            strip.addStretch()
            strips.append(strip)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        for strip in strips:
            strip.setContentsMargins(10, 2, 10, 2)
            layout.addLayout(strip)
        layout.addWidget(self.canvas, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 3, 12, 3)
        foot.addWidget(self.hint)
        layout.addLayout(foot)

    def _connect(self) -> None:
        choices: tuple[tuple[QComboBox, Callable[[str], object]], ...] = (
            (self.object, lambda v: self.canvas.change(object=v)),
            (self.light, lambda v: self.canvas.change(light_set=v, key=None)),
            (self.repeats, lambda v: self.canvas.change(repeats=int(v))),
            (self.tone, lambda v: self.canvas.change(tone_mapping=v)),
        )
        for combo, act in choices:
            combo.activated.connect(lambda i, c=combo, a=act: a(c.itemData(i)))
        self.canvas.moved.connect(lambda _: self._ask_soon.start(0))
        self.worker.drawn.connect(self._take_frame)
        self.worker.failed.connect(self._take_failure)
        self.workplace.extra_ends.append(self.ends)
        self.workplace.view_ready.connect(lambda _: self._ask_soon.start(0))
        self.workplace.document_changed.connect(self._on_change)
        self.workplace.document_replaced.connect(self._forget)

    def _on_change(self, change: Change) -> None:
        if change.computed or change.ties:
            self.worker.hush()
        if change.ties:
            self._ask_soon.start(0)

    def _forget(self) -> None:
        self.canvas.frame = None
        self.canvas.message = self.reason or EMPTY
        self.canvas.update()

    # -- what is shown --------------------------------------------------------------------------------

    def ends(self) -> Iterable[End]:
        """All of the material, while the view is seen."""
        return tuple(self.workplace.document.ties.values()) if self.isVisible() else ()

    def _maps(self) -> dict[str, np.ndarray]:
        """The newest maps, all of one size."""
        w = self.workplace
        found = {
            c: convert(w.view_arrays[end], CHANNELS[c].data)
            for c, end in w.document.ties.items()
            if end in w.view_arrays and end.node not in w.failures
        }
        sizes = {m.shape[:2] for m in found.values()}
        return found if len(sizes) == 1 else {}

    def _ask(self) -> None:
        maps = self._maps() if self.isVisible() and not self.reason else {}
        if not maps:
            if not self.workplace.document.ties:
                self._forget()
            return
        ratio = self.canvas.devicePixelRatioF()
        size = (max(8, round(self.canvas.width() * ratio)), max(8, round(self.canvas.height() * ratio)))
        surface = self.workplace.document.surface
        ground = theme().colour("slot")
        background = (ground.redF(), ground.greenF(), ground.blueF())
        passing = next(iter(maps.values())).shape[0] < self.workplace.view_size
        tile = (surface.width, surface.depth)
        self.worker.ask(LitRequest(self.canvas.state, maps, size, tile, background, passing))

    def _take_frame(self, image: QImage, fine: bool) -> None:
        if self.workplace.document.ties:
            self.canvas.frame, self.canvas.fine = image, fine
            self.canvas.update()

    def _take_failure(self, reason: str) -> None:
        self.reason = reason
        self._forget()

    def showEvent(self, event: object) -> None:
        self.workplace.request()
        self._ask_soon.start(SLACK)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._ask_soon.start(SLACK)

    def close_down(self) -> None:
        """End the drawing thread."""
        self._ask_soon.stop()
        self.worker.close()
