"""The flat view with its title, its strip of choices and the value under the pointer."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from reedloom.desk.flat.flat_canvas import EMPTY, FlatCanvas, Shown
from reedloom.desk.flat.handle_marks import FlatHandles
from reedloom.desk.flat.path_hands import PathHands
from reedloom.desk.flat.path_strip import PathStrip
from reedloom.desk.look.buttons import VIEW_ICON, tool_button
from reedloom.desk.look.choices import make_choice
from reedloom.desk.look.theme import icon
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.latest import LatestOnly
from reedloom.desk.screen.workplace import PEEK, UNFORESEEN, Workplace, to_image
from reedloom.kit.channels import CHANNELS
from reedloom.kit.values import convert
from reedloom.preview.encodings import (
    CHANNEL_CHOICES,
    LOOKS,
    colour_from_bytes,
    rgb_picture,
    shaded_material,
)
from reedloom.weave.document import End
from reedloom.weave.graph import downstream

SHADED = "shaded"
POINT_HINT = "Point at the picture to read its values"
SHADED_MAPS = ("base_colour", "normal", "ambient_occlusion")


AT_ONCE = 600_000
"""Samples up to which a picture is made in the window's thread, without a detour."""


class Plan(Struct, frozen=True):
    """A picture yet to be made, and how large it is."""

    samples: int
    make: Callable[[], Shown]

    def make_with_tones(self) -> Shown:
        """The picture, with its tones measured now: off the window's thread."""
        made = self.make()
        _ = made.tones
        return made


class ElidedLabel(Words):
    """A label that gives way to its neighbours, and shows all of itself in its tooltip."""

    def minimumSizeHint(self) -> QSize:
        return QSize(40, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.setPen(self.palette().color(self.foregroundRole()))
        painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignVCenter), text)


class FlatPanel(QWidget):
    """Decides what the canvas shows: pins A and B, or a map of the material."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        in_hand = workplace.paths_in_hand
        self.canvas = FlatCanvas(FlatHandles(workplace), PathHands(in_hand))
        self.path_strip = PathStrip(in_hand)
        self._painter = LatestOnly(self)
        self._painter.done.connect(self._show)
        self._painter.failed.connect(lambda _: workplace.message.emit(UNFORESEEN, True))
        self.title = ElidedLabel()
        self.title.setProperty("role", "heading")
        self.value = Words(POINT_HINT)
        self.value.setProperty("role", "dim")
        self.map_choice = make_choice("Which map of the material to show")
        self.channel = make_choice("Which channel of a colour map to show")
        self.channel.addItems(["All channels", "Red", "Green", "Blue"])
        self.look = make_choice("How to show the map")
        self.look.addItems([look[:1].upper() + look[1:] for look in LOOKS])
        self.compare = make_choice("How to compare pin A and pin B")
        self.compare.addItems(["Wipe", "Difference"])
        self.repeat = make_choice("How often to repeat the tile")
        self.repeat.addItems(["1×1", "2×2", "3×3"])
        self._lay_out()
        in_hand.changed.connect(self._on_hand)
        self.map_choice.activated.connect(lambda _: self._choose_map())
        for combo in (self.channel, self.look, self.compare):
            combo.activated.connect(lambda _: self.refresh())
        self.repeat.activated.connect(self._set_repeat)
        self.canvas.pointed.connect(self._show_value)
        self.canvas.picked.connect(self._take_colours)
        self._picker: Callable[[list[tuple[float, ...]]], None] | None = None
        workplace.extra_ends.append(self.ends)
        workplace.view_ready.connect(lambda _: self.refresh())
        workplace.pins_changed.connect(self.refresh_choices)
        workplace.document_changed.connect(self._on_change)
        workplace.selection_changed.connect(self._on_hand)
        workplace.document_replaced.connect(self.refresh_choices)
        self.refresh_choices()
        self._on_hand()

    def _lay_out(self) -> None:
        buttons = (
            ("seam", "Mark where tiles meet", lambda on: self._set_flag("seam", on), True),
            ("histogram", "Show the spread of tones", lambda on: self._set_flag("histogram", on), True),
            ("fit", "Show the whole tile", lambda _: self.canvas.fit(), False),
            ("actual", "One sample for each pixel", lambda _: self.canvas.show_actual(), False),
            ("picture", "Save the picture as PNG", lambda _: self._save_picture(), False),
        )
        self.buttons: dict[str, QToolButton] = {}
        head = QHBoxLayout()
        head.setContentsMargins(12, 6, 6, 0)
        head.setSpacing(0)
        head.addWidget(self.title, 1)
        for name, tip, action, holds in buttons:
            button = tool_button(name, tip, VIEW_ICON)
            button.setCheckable(holds)
            (button.toggled if holds else button.clicked).connect(action)
            head.addWidget(button)
            self.buttons[name] = button
        strip = QHBoxLayout()
        strip.setContentsMargins(10, 2, 10, 4)
        strip.setSpacing(5)
        for combo in (self.map_choice, self.compare, self.channel, self.look):
            strip.addWidget(combo)
        strip.addStretch()
        strip.addWidget(self.repeat)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addLayout(strip)
        layout.addWidget(self.path_strip)
        layout.addWidget(self.canvas, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 3, 12, 3)
        foot.addWidget(self.value)
        layout.addLayout(foot)

    def refresh_icons(self) -> None:
        """Draw the icons in the theme's colours again."""
        for name, button in self.buttons.items():
            button.setIcon(icon(name))

    # -- what is shown --------------------------------------------------------------------------------

    @property
    def pins(self) -> dict[str, End]:
        """The pins that hold something, by letter."""
        return {name: end for name, end in self.workplace.pins.items() if end is not None}

    def ends(self) -> Iterable[End]:
        """The outputs the material's picture needs; none while pins are shown."""
        ties = self.workplace.document.graph.ends
        if self.pins or not ties:
            return ()
        chosen = self.map_choice.currentData()
        wanted = SHADED_MAPS if chosen in {SHADED, None} else (chosen,)
        return tuple(ties[c] for c in wanted if c in ties)

    def shows_paths(self) -> bool:
        """Whether the drawn paths of the selected node have to do with what is shown."""
        node = self.workplace.selected_node
        shown = {end.node for end in self.pins.values()} or {end.node for end in self.ends()}
        seen = {self.workplace.on_board(node) for node in shown}
        if self.workplace.paths_in_hand.parameter is None:
            return False
        return node is not None and not seen.isdisjoint(downstream(self.workplace.graph, [node]))

    def _on_hand(self) -> None:
        """Other paths are in hand, or other knots of them, or the view shows something else."""
        if self.canvas.path_hands is not None:
            self.canvas.path_hands.is_active = self.shows_paths()
        self.path_strip.setVisible(self.workplace.paths_in_hand.parameter is not None)
        self.canvas.message = self._why_empty()
        self.canvas.update()

    def show_map(self, channel: str) -> None:
        """Show one map of the material."""
        self.workplace.unpin()
        index = self.map_choice.findData(channel)
        if index >= 0:
            self.map_choice.setCurrentIndex(index)
            self._choose_map()

    def _choose_map(self) -> None:
        self.workplace.request()
        self.refresh()

    def _on_change(self, change: object) -> None:
        if getattr(change, "ends", None):
            self.refresh_choices()

    def refresh_choices(self) -> None:
        """Offer what there is to show."""
        ties = self.workplace.document.graph.ends
        before = self.map_choice.currentData()
        self.map_choice.clear()
        if any(c in ties for c in SHADED_MAPS):
            self.map_choice.addItem("In light", SHADED)
        for channel in CHANNELS.values():
            if channel.id in ties:
                self.map_choice.addItem(channel.label, channel.id)
        self.map_choice.setCurrentIndex(max(0, self.map_choice.findData(before)))
        self.map_choice.setVisible(not self.pins and self.map_choice.count() > 0)
        self.compare.setVisible(len(self.pins) == 2)
        self.refresh()

    def refresh(self) -> None:
        """Paint the newest results: small ones at once, large ones off the window's thread."""
        self._on_hand()
        plans = [self._pinned(name, end) for name, end in self.pins.items()]
        if len(plans) == 2 and self.compare.currentIndex() == 1:
            plans = [self._difference()]
        if not self.pins:
            plans = [self._material()]
        ready = [plan for plan in plans if plan is not None]
        self.canvas.message = self._why_empty()
        if ready and max(plan.samples for plan in ready) > AT_ONCE:
            self._painter.ask(lambda: [plan.make_with_tones() for plan in ready])
        else:
            self._painter.drop()
            self._show([plan.make() for plan in ready])

    def _show(self, pictures: list[Shown]) -> None:
        first, second = (*pictures, None, None)[:2]
        self.canvas.show_pictures(first, second)
        self.canvas.repaint()  # before cards and all else that changes with it
        titles = " | ".join(p.title for p in pictures)
        self.title.setText(
            f"Pin {titles}" if self.pins and pictures and PEEK not in self.pins else titles or "Flat view"
        )
        set_tip(self.title, self.title.text())

    def close_down(self) -> None:
        """End the painting thread."""
        self._painter.close()

    def _why_empty(self) -> tuple[str, ...]:
        for end in self.pins.values():
            reason = self.workplace.failures.get(end.node)
            if reason:
                return ("This cannot be shown.", reason)
        for end in self.ends():
            reason = self.workplace.failures.get(end.node)
            if reason:
                return ("The material cannot be shown.", reason)
        if self.workplace.paths_in_hand.parameter is not None and not self.pins:
            return ("Nothing to show yet.", "Press Draw above to draw paths here.")
        return ("Computing…",) if self.workplace.document.graph.ends or self.pins else EMPTY

    def _choices(self) -> tuple[str, str]:
        return LOOKS[self.look.currentIndex()], CHANNEL_CHOICES[self.channel.currentIndex()]

    def _shown(self, title: str, array: np.ndarray, plain: bool) -> Plan:
        look, channel = self._choices()
        surface = self.workplace.document.surface
        relief = surface.depth / surface.width

        def make() -> Shown:
            rgb = rgb_picture(array, plain=plain, look=look, channel=channel, relief=relief)
            return Shown(f"{title} · {_size(array)}", to_image(rgb), array)

        return Plan(array.shape[0] * array.shape[1], make)

    def _pinned(self, name: str, end: End) -> Plan | None:
        array = self.workplace.view_arrays.get(end)
        flat = self.workplace.flat
        if array is None or not flat.holds(end) or end.node in self.workplace.failures:
            return None
        title = f"{name}: {self.workplace.title_of(end.node)}"
        found = flat.nodes.get(end.node) or flat.uses.get(end.node)
        if found is not None and len(found.kind.outputs) > 1:
            title += f", {found.kind.output(end.port).label.lower()}"
        return self._shown(title, array, flat.output(end).plain)

    def _difference(self) -> Plan | None:
        arrays = [self.workplace.view_arrays.get(end) for end in self.pins.values()]
        if any(a is None for a in arrays):
            return None
        first, second = (a for a in arrays if a is not None)
        if first.shape != second.shape:
            first, second = (
                a if a.ndim == 2 else a[..., :2].mean(axis=2, dtype=np.float32) for a in (first, second)
            )
        if first.shape != second.shape:
            return None
        return self._shown("Difference of A and B", np.abs(first - second), plain=True)

    def _material(self) -> Plan | None:
        w = self.workplace
        chosen = self.map_choice.currentData()
        if chosen is None:
            return None
        wanted = SHADED_MAPS if chosen == SHADED else (chosen,)
        tied = w.document.graph.ends
        ties = {c: tied[c] for c in wanted if c in tied}
        arrays = {
            c: w.view_arrays[e] for c, e in ties.items() if e in w.view_arrays and e.node not in w.failures
        }
        if len(arrays) < len(ties) or not arrays or len({a.shape[:2] for a in arrays.values()}) > 1:
            return None
        if chosen != SHADED:
            channel = CHANNELS[chosen]
            array = convert(arrays[chosen], channel.data)
            return self._shown(f"Material: {channel.label}", array, not channel.srgb)
        base = arrays.get("base_colour", next(iter(arrays.values())))

        def make() -> Shown:
            title = f"Material: in light from the upper left · {_size(base)}"
            return Shown(title, to_image(shaded_material(arrays)), base)

        return Plan(base.shape[0] * base.shape[1], make)

    # -- choices --------------------------------------------------------------------------------------

    def _set_repeat(self, index: int) -> None:
        self.canvas.repeat = index + 1
        self.canvas.fit()

    def _set_flag(self, name: str, on: bool) -> None:
        setattr(self.canvas, name, on)
        self.canvas.update()

    def _show_value(self, place: tuple[float, float] | None) -> None:
        """The place under the pointer, and the values there."""
        if place is None:
            self.value.setText(POINT_HINT)
            return
        parts = [f"u {place[0]:.4f}  v {place[1]:.4f}"]
        ends = list(self.pins.items()) or [("", end) for end in list(self.ends())[:1]]
        for name, end in ends:
            array = self.workplace.view_arrays.get(end)
            if array is not None:
                height, width = array.shape[:2]
                sample = np.atleast_1d(
                    array[min(int(place[1] * height), height - 1), min(int(place[0] * width), width - 1)]
                )
                parts.append((name + " " if name else "") + "  ".join(f"{float(v):.4f}" for v in sample))
        self.value.setText("   ·   ".join(parts))

    def start_picking(self, along_line: bool, take: Callable[[list[tuple[float, ...]]], None]) -> None:
        """Let the maker pick colours from what is shown, and hand them to `take` in linear light."""
        if self.canvas.first is None:
            self.workplace.message.emit("There is no picture to pick from; show one in the flat view.", True)
            return
        self._picker = take
        self.canvas.start_picking(along_line)

    def _take_colours(self, places: list[tuple[float, float]]) -> None:
        picker, self._picker = self._picker, None
        if picker is None or self.canvas.first is None:
            return
        image = self.canvas.first.image
        colours: list[tuple[float, ...]] = []
        for u, v in places:
            seen = image.pixelColor(
                min(int(u * image.width()), image.width() - 1),
                min(int(v * image.height()), image.height() - 1),
            )
            colours.append(colour_from_bytes(seen.red(), seen.green(), seen.blue()))
        picker(colours)

    def _save_picture(self) -> None:
        if self.canvas.first is None:
            self.workplace.message.emit("There is no picture to save yet.", True)
            return
        path, _ = QFileDialog.getSaveFileName(self, "Save the picture", "picture.png", "PNG pictures (*.png)")
        if path:
            target = Path(path).with_suffix(".png")
            if self.canvas.first.image.save(str(target)):
                self.workplace.message.emit(f"Saved the picture as '{target}'.", False)
            else:
                self.workplace.message.emit(f"Cannot write '{target}'; choose another folder.", True)


def _size(array: np.ndarray) -> str:
    return f"{array.shape[1]} × {array.shape[0]}"
