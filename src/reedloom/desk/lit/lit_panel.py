"""The lit view: the material, or pinned maps, on an object; its slim strip of choices and view points."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QRectF, QTimer
from PySide6.QtGui import QImage, QPainter, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QMenu,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.lit.lit_canvas import EMPTY, LitCanvas
from reedloom.desk.lit.worker import LitRequest, LitWorker
from reedloom.desk.look.buttons import VIEW_ICON, tool_button
from reedloom.desk.look.choices import make_choice
from reedloom.desk.look.theme import icon, small_font, theme
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.workplace import UNFORESEEN, Workplace
from reedloom.desk.settings.slider import NumberField
from reedloom.errors import FileError
from reedloom.files import whole_file
from reedloom.kit.channels import CHANNELS
from reedloom.kit.data import COLOUR
from reedloom.kit.parameters import Float, Number
from reedloom.kit.values import convert
from reedloom.lit.lights import LIGHT_SETS
from reedloom.lit.state import OBJECTS, TONE_MAPPINGS, VIEWPOINTS, Box, look_from, sound, viewpoint_of
from reedloom.weave.document import End, LitState
from reedloom.weave.edits import KeepViewpoint
from reedloom.weave.session import Change

HINT = "Drag to turn · Shift to move · Ctrl turns the light · Alt moves the lamp"
DEPTH = Float("depth", 1.0, (0.0, 4.0), (0.0, 16.0), help="Times the weave's own depth; 1 is true.")
MIDDLE = Float(
    "middle", 0.5, (0.0, 1.0), (0.0, 1.0), help="The height that stays at the object's own surface."
)
EXPOSURE = Float("exposure", 0.0, (-4.0, 4.0), (-12.0, 12.0), help="In stops: each doubles the light.")
SLACK = 60
"""Milliseconds of rest after the window changes size before a frame is drawn for it."""
RELIEF = ("height", "normal")
"""What of the material stays while a single map is on the object."""
BARE_ROUGHNESS = 0.85


class LitPanel(QWidget):
    """The canvas with its slim strip of choices."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.canvas = LitCanvas()
        self.worker = LitWorker()
        self.reason = ""
        self._save_to: Path | None = None
        self._ask_soon = QTimer(self)
        self._ask_soon.setSingleShot(True)
        self._ask_soon.timeout.connect(self._ask)
        self.object = make_choice("The object", OBJECTS)
        self.light = make_choice("The light set", {k: s.label for k, s in LIGHT_SETS.items()})
        self.repeats = make_choice("Tiles across the object", {str(n): f"{n}×" for n in (1, 2, 3, 4, 6, 8)})
        self.tone = make_choice("The tone mapping", TONE_MAPPINGS)
        self.depth_field, self.middle_field = self._field(DEPTH), self._field(MIDDLE)
        self.exposure_field = self._field(EXPOSURE)
        self.buttons: dict[str, QToolButton] = {}
        self.hint = Words(HINT)
        self.hint.setProperty("role", "dim")
        self.hint.setFont(small_font())
        self.hint.setMinimumWidth(10)
        self._lay_out()
        self._connect()
        self._show_state()

    def _field(self, parameter: Number) -> NumberField:
        field = NumberField(parameter)
        field.setFixedWidth(50)
        set_tip(field, parameter.help)
        field.changed.connect(lambda value: self.canvas.change(**{parameter.name: value}))
        field.refused.connect(lambda text: self.workplace.message.emit(text, True))
        return field

    def _button(self, name: str, tip: str) -> QToolButton:
        self.buttons[name] = tool_button(name, tip, VIEW_ICON)
        return self.buttons[name]

    def _lay_out(self) -> None:
        viewpoints = self._button("viewpoint", "View points: shipped ones, and your own")
        viewpoints.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.viewpoint_menu = QMenu(viewpoints)
        viewpoints.setMenu(self.viewpoint_menu)
        region = self._button("region", "Refine only a part: draw a box over it; Esc ends it")
        region.setCheckable(True)
        picture = self._button("picture", "Save the picture as PNG")
        choices = [self.object, self.light, self.repeats, None, viewpoints, region, picture]
        numbers = ["Depth", self.depth_field, "Middle", self.middle_field, "Exposure", self.exposure_field]
        strips: tuple[list[Any], ...] = (choices, [*numbers, None, self.tone])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        for parts in strips:
            strip = QHBoxLayout()
            strip.setSpacing(5)
            strip.setContentsMargins(10, 2, 6, 2)
            for part in parts:
                if part is None:
                    strip.addStretch()
                else:
                    strip.addWidget(Words(part) if isinstance(part, str) else part)
            layout.addLayout(strip)
        layout.addWidget(self.canvas, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 3, 12, 3)
        foot.addWidget(self.hint)
        layout.addLayout(foot)

    def _connect(self) -> None:
        choices: tuple[tuple[QComboBox, Callable[[str], object]], ...] = (
            (self.object, self._choose_object),
            (self.light, lambda v: self.canvas.change(light_set=v, key=None)),
            (self.repeats, lambda v: self.canvas.change(repeats=int(v))),
            (self.tone, lambda v: self.canvas.change(tone_mapping=v)),
        )
        for combo, act in choices:
            combo.activated.connect(lambda i, c=combo, a=act: a(c.itemData(i)))
        self.buttons["region"].toggled.connect(self._choose_region)
        self.buttons["picture"].clicked.connect(self._save_picture)
        self.viewpoint_menu.aboutToShow.connect(self._fill_viewpoints)
        self.canvas.moved.connect(self._keep_state)
        self.canvas.region_changed.connect(self._on_region)
        self.worker.drawn.connect(self._take_frames)
        self.worker.failed.connect(self._take_failure)
        self.worker.refused.connect(lambda text: self.workplace.message.emit(text, True))
        self.worker.troubled.connect(lambda: self.workplace.message.emit(UNFORESEEN, True))
        w = self.workplace
        w.extra_ends.append(self.ends)
        w.idle_changed.connect(self._on_idle)
        w.view_ready.connect(lambda _: self._ask_soon.start(0))
        w.pins_changed.connect(lambda: self._ask_soon.start(0))
        w.document_changed.connect(self._on_change)
        w.document_replaced.connect(self._on_other_document)

    def refresh_icons(self) -> None:
        """Draw the icons in the theme's colours again."""
        for name, button in self.buttons.items():
            button.setIcon(icon(name))

    # -- the state ------------------------------------------------------------------------------------

    def _on_other_document(self) -> None:
        """Take up the view as the weave was saved with it."""
        self._forget()
        self.canvas.set_region(QRectF())
        self.canvas.state = sound(self.workplace.document.lit)
        self._show_state()

    def _keep_state(self, state: LitState) -> None:
        self.workplace.lit_state = state
        self._show_state()
        self._ask_soon.start(0)

    def _show_state(self) -> None:
        state = self.canvas.state
        shown = (
            (self.object, state.object),
            (self.light, state.light_set),
            (self.repeats, str(state.repeats)),
            (self.tone, state.tone_mapping),
        )
        for combo, value in shown:
            combo.setCurrentIndex(combo.findData(value))
        fields = (
            (self.depth_field, state.depth),
            (self.middle_field, state.middle),
            (self.exposure_field, state.exposure),
        )
        for field, number in fields:
            if not field.hasFocus():
                field.show_value(number)

    def _choose_object(self, name: str) -> None:
        """Another object; one that lies is looked at from higher up, as long as nobody turned it."""
        state = self.canvas.state
        if viewpoint_of(state) == VIEWPOINTS[state.object]["Whole"]:
            state = look_from(state, VIEWPOINTS[name]["Whole"])
        self.canvas.state = state
        self.canvas.change(object=name)

    def _fill_viewpoints(self) -> None:
        menu, kept = self.viewpoint_menu, self.workplace.document.viewpoints
        menu.clear()
        for group in (VIEWPOINTS[self.canvas.state.object], kept):
            for name, viewpoint in group.items():
                menu.addAction(name, partial(self.canvas.look_from, viewpoint))
            menu.addSeparator()
        menu.addAction("Keep this view point…", self.keep_viewpoint)
        if kept:
            forget = menu.addMenu("Forget")
            for name in kept:
                forget.addAction(name, partial(self._forget_viewpoint, name))

    def keep_viewpoint(self) -> None:
        """Keep where the view looks from under a name, with the weave."""
        name, taken = QInputDialog.getText(self, "Keep this view point", "Its name")
        if taken and name.strip():
            self.workplace.submit(KeepViewpoint(name.strip(), viewpoint_of(self.canvas.state)))

    def _forget_viewpoint(self, name: str) -> None:
        self.workplace.submit(KeepViewpoint(name, None, "Forget view point"))

    def _choose_region(self, on: bool) -> None:
        self.canvas.drawing_region = on
        if not on:
            self.canvas.set_region(QRectF())

    def _on_region(self) -> None:
        if self.canvas.region.isEmpty():
            self.buttons["region"].setChecked(False)
        self._ask_soon.start(0)

    # -- what is shown --------------------------------------------------------------------------------

    def _on_change(self, change: Change) -> None:
        if change.computed:
            self.worker.interrupt()
        if change.ends:
            self._ask_soon.start(0)

    def _on_idle(self, idle: bool) -> None:
        """A frame that was left for a change that changed nothing here is taken up again."""
        if idle and self.worker.interrupted:
            self._ask_soon.start(SLACK)

    def _forget(self) -> None:
        self.canvas.message = self.reason or EMPTY
        self.canvas.show_frames([], False)

    @property
    def _pins(self) -> dict[str, End]:
        return {name: end for name, end in self.workplace.pins.items() if end is not None}

    def ends(self) -> Iterable[End]:
        """All of the material while the view is seen; of pinned maps, only the relief below them."""
        if not self.isVisible():
            return ()
        ties = self.workplace.document.graph.ends
        return tuple(end for channel, end in ties.items() if not self._pins or channel in RELIEF)

    def _maps(self) -> dict[str, np.ndarray]:
        """The newest maps, all of one size."""
        w = self.workplace
        found = {
            c: convert(w.view_arrays[end], CHANNELS[c].data)
            for c, end in w.document.graph.ends.items()
            if end in w.view_arrays and end.node not in w.failures
        }
        sizes = {m.shape[:2] for m in found.values()}
        return found if len(sizes) == 1 else {}

    def _materials(self) -> tuple[dict[str, np.ndarray], ...]:
        """The material; or each pinned map as the colour of a dull surface with the material's relief."""
        w, maps = self.workplace, self._maps()
        if not self._pins:
            return (maps,) if maps else ()
        made = []
        for end in self._pins.values():
            array = w.view_arrays.get(end)
            if array is None or end.node in w.failures:
                return ()
            if end in w.view_materials:
                made.append(dict(w.view_materials[end]))
                continue
            relief = {c: m for c, m in maps.items() if c in RELIEF and m.shape[:2] == array.shape[:2]}
            rough = np.full(array.shape[:2], BARE_ROUGHNESS, np.float32)
            made.append({**relief, "base_colour": _as_colour(array), "roughness": rough})
        return tuple(made)

    def _title(self) -> str:
        if not self._pins:
            return "Material"
        return " | ".join(f"{n}: {self.workplace.title_of(e.node)}" for n, e in self._pins.items())

    def _ask(self) -> None:
        if not self.isVisible() or self.reason:
            return
        materials = self._materials()
        if not materials:
            if not self.workplace.document.graph.ends and not self._pins:
                self._forget()
            return
        ratio = self.canvas.devicePixelRatioF()
        size = (max(8, round(self.canvas.width() * ratio)), max(8, round(self.canvas.height() * ratio)))
        surface = self.workplace.document.surface
        ground = theme().colour("slot")
        rows, columns = next(iter(materials[0].values())).shape[:2]
        self.canvas.caption = f"{self._title()} · {columns} × {rows}"
        self.worker.ask(
            LitRequest(
                self.canvas.state,
                materials,
                size,
                (surface.width, surface.depth),
                surface.aspect,
                (ground.redF(), ground.greenF(), ground.blueF()),
                self._region_in(size),
                passing=columns < self.workplace.full_size[0],
            )
        )

    def _region_in(self, size: tuple[int, int]) -> Box | None:
        box = self.canvas.region
        if box.isEmpty():
            return None
        (w, h), right, bottom = size, box.right(), box.bottom()
        return int(box.x() * w), int(box.y() * h), min(w, round(right * w)), min(h, round(bottom * h))

    def _take_frames(self, images: list[QImage], fine: bool) -> None:
        if self.workplace.document.graph.ends or self._pins:
            self.canvas.show_frames(images, fine)
            if fine and self._save_to is not None:
                path, self._save_to = self._save_to, None
                self._write_picture(path)

    def _take_failure(self, reason: str) -> None:
        self.reason = reason
        self._forget()

    # -- saving the picture -----------------------------------------------------------------------------

    def _save_picture(self) -> None:
        """Save what is shown as PNG, as soon as it is fine."""
        if not self.canvas.frames:
            self.workplace.message.emit("There is no picture to save yet.", True)
            return
        text, _ = QFileDialog.getSaveFileName(self, "Save the picture", "picture.png", "PNG pictures (*.png)")
        if not text:
            return
        path = Path(text).with_suffix(".png")
        if self.canvas.fine:
            self._write_picture(path)
        else:
            self._save_to = path
            self.workplace.message.emit("The picture will be saved as soon as it is fine.", False)

    def _write_picture(self, path: Path) -> None:
        image = QImage(self.canvas.frames[0].size(), QImage.Format.Format_RGB888)
        painter = QPainter(image)
        self.canvas.paint_picture(painter, QRectF(image.rect()))
        painter.end()
        try:
            with whole_file(path, "save") as part:
                if not image.save(str(part), "PNG"):  # type: ignore[call-overload]
                    raise FileError(f"Cannot write '{path}'; choose another folder or free some space.")
        except FileError as error:
            self.workplace.message.emit(str(error), True)
            return
        self.workplace.message.emit(f"Saved the picture as '{path}'.", False)

    # -- the window -------------------------------------------------------------------------------------

    def showEvent(self, event: object) -> None:
        self.workplace.request()
        self._ask_soon.start(SLACK)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._ask_soon.start(SLACK)

    def close_down(self) -> None:
        """End the drawing thread."""
        self._ask_soon.stop()
        self.worker.close()


def _as_colour(array: np.ndarray) -> np.ndarray:
    """Any map as a colour: grey in all three, a vector as red and green."""
    if array.ndim == 2 or array.shape[2] == 3:
        return convert(array, COLOUR)
    return np.concatenate([array, np.zeros((*array.shape[:2], 1), np.float32)], axis=2)
