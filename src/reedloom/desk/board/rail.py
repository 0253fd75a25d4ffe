"""The map rail: a slot for each PBR map, with its live picture and what its values do."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QFrame, QHBoxLayout, QInputDialog, QMenu, QScrollArea, QToolButton, QWidget

from reedloom.desk.board.face import paint_range_bar
from reedloom.desk.board.hanging import slot_edit
from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.keys import take_keys
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import set_tip, shown
from reedloom.desk.screen.scopes import present_owner
from reedloom.desk.screen.workplace import Look, Workplace
from reedloom.kernels.colours import srgb_from_linear
from reedloom.kit.channels import CHANNELS, Channel
from reedloom.weave.document import End, Motif
from reedloom.weave.edits import RemoveNotch, RenameNotch, Untie
from reedloom.weave.session import Change

PICTURE = 54.0
LEAST_SLOT = 84
"""Pixels across a slot at least."""


CUT = " (red in the bar): files of whole numbers cannot hold that and cut it. Levels or Normalise helps."


class Slot(QWidget):
    """One map of the rail; within a motif, one of its outlets, or the place for another one."""

    shown = Signal(str)

    def __init__(self, workplace: Workplace, slot_id: str, label: str, channel: Channel | None) -> None:
        super().__init__()
        self.workplace, self.id, self.label, self.channel = workplace, slot_id, label, channel
        self.wanted = False
        self._painted: tuple[object, ...] = ()
        self.is_locked: Callable[[], bool] = lambda: False
        self.setMinimumSize(QSize(LEAST_SLOT, 92))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"{'Map slot' if channel else 'Outlet'} {label}")
        self.setMouseTracking(True)
        if channel is None:
            take_keys(self, "F2")

    @property
    def end(self) -> End | None:
        """What is tied here."""
        return self.workplace.graph.ends.get(self.id)

    @property
    def look(self) -> Look | None:
        """How that looks, if it is known."""
        end = self.end
        return self.workplace.looks.get(self.workplace.at(end)) if end else None

    def refresh(self) -> None:
        """Show the newest state, in the tooltip too, if it is another than is shown."""
        end, look = self.end, self.look
        state = (end, look and look.ref, self._failed(), self.is_locked())
        if state == self._painted:
            return
        self._painted = state
        if self.channel is None and end is None:
            text = (
                "Pull a thread here: it comes out of the motif." if not self.id else "Nothing is tied here."
            )
        elif end is None:
            text = f"{self.label}: nothing tied; the material uses {self._fallback_text()}."
            text += " Pull a thread here to make this map."
        else:
            text = f"{self.label}: from {end}."
            if look is not None:
                text += f" Values {look.tones.low:.3g} to {look.tones.high:.3g}"
                beyond = look.tones.below + look.tones.above
                text += f", {beyond:.1%} beyond 0 to 1{CUT}" if self._clips() else "."
        set_tip(self, text)
        self.update()

    def _failed(self) -> bool:
        """Whether what is tied here could not be computed."""
        end = self.end
        return end is not None and self.workplace.flat_id(end.node) in self.workplace.failures

    def _clips(self) -> bool:
        look = self.look
        return look is not None and (look.tones.below > 0 or look.tones.above > 0)

    def _fallback_text(self) -> str:
        assert self.channel is not None
        values = self.channel.fallback
        if self.channel.id == "normal":
            return "a level surface"
        return f"{values[0]:g}" if len(set(values)) == 1 else ", ".join(f"{v:g}" for v in values)

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        middle = self.width() / 2
        box = QRectF(middle - PICTURE / 2 - 5, 12, PICTURE, PICTURE)
        end = self.end
        look = self.look
        if self.hasFocus() or self.wanted:
            painter.setPen(QPen(t.colour("accent"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(3, 5, -3, -3), 5, 5)
        if not self.is_locked():
            painter.setPen(QPen(t.colour("accent" if self.wanted else "line"), 1.2))
            painter.setBrush(t.colour("ground"))
            painter.drawRoundedRect(QRectF(middle - 8, -5, 16, 10), 3, 3)
        if end is None:
            self._paint_fallback(painter, box)
        else:
            painter.fillRect(box, t.colour("slot"))
            failed = self._failed()
            if look is not None and not failed:
                paint_fitting(painter, box, look.image)
                bar = QRectF(box.right() + 3, box.top(), 8, PICTURE)
                painter.fillRect(bar, t.colour("slot"))
                paint_range_bar(painter, bar, look.tones)
            elif failed:
                painter.setPen(t.colour("warning"))
                painter.setFont(small_font())
                painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), "waits")
        painter.setFont(small_font())
        painter.setPen(t.colour("text" if end else "dim"))
        font = small_font()
        while QFontMetricsF(font).horizontalAdvance(self.label) > self.width() - 2 and font.pixelSize() > 8:
            font.setPixelSize(font.pixelSize() - 1)
        painter.setFont(font)
        place = QRectF(0, box.bottom() + 4, self.width(), 16)
        painter.drawText(place, int(Qt.AlignmentFlag.AlignCenter), shown(self.label))

    def _paint_fallback(self, painter: QPainter, box: QRectF) -> None:
        """An untied slot shows, hatched, what the material uses instead."""
        if self.channel is None:
            painter.setPen(QPen(theme().colour("line"), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), "" if self.id else "+")
            return
        values = np.array(
            self.channel.fallback if len(self.channel.fallback) == 3 else self.channel.fallback * 3
        )
        shown = srgb_from_linear(values) if self.channel.srgb else values
        painter.setPen(QPen(theme().colour("line"), 1, Qt.PenStyle.DashLine))
        ground = QColor.fromRgbF(*(float(v) for v in shown))
        ground.setAlphaF(0.35)
        painter.setBrush(ground)
        painter.drawRect(box)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.shown.emit(self.id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.is_locked():
            if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space}:
                self.shown.emit(self.id)
            else:
                super().keyPressEvent(event)
        elif event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.tie_selected()
        elif event.key() == Qt.Key.Key_Delete and self.end is not None:
            self.workplace.submit(Untie(self.id))
        elif event.key() == Qt.Key.Key_F2 and self.channel is None and self.id:
            self.rename()
        else:
            super().keyPressEvent(event)

    def tie_selected(self) -> None:
        """Tie the selected node's first output here."""
        node = self.workplace.selected_node
        if node is None:
            self.workplace.message.emit("Select one node on the board, then tie it to the map.", True)
            return
        w = self.workplace
        port = w.kinds.of(w.graph.nodes[node]).outputs[0].name
        w.submit(slot_edit(w, End(node=node, port=port), self.id))

    def rename(self) -> None:
        """Ask for another name of an outlet."""
        text, done = QInputDialog.getText(self.window(), "Outlet", "Name of the outlet:", text=self.label)
        if done and text.strip():
            self.workplace.submit(RenameNotch(self.workplace.session.motif, "outlets", self.id, text.strip()))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self.is_locked():
            return
        menu = QMenu(self)
        tie = menu.addAction("Tie the selected node here", self.tie_selected)
        tie.setEnabled(self.workplace.selected_node is not None)
        untie = menu.addAction("Untie", lambda: self.workplace.submit(Untie(self.id)))
        untie.setEnabled(self.end is not None)
        if self.channel is not None:
            menu.addAction("Look at this map", lambda: self.shown.emit(self.id))
        elif self.id:
            motif = self.workplace.session.motif
            menu.addAction("Rename…", self.rename)
            gone = RemoveNotch(motif, "outlets", self.id)
            menu.addAction("Take this outlet away", lambda: self.workplace.submit(gone))
        menu.exec(event.globalPos())


class MapRail(QWidget):
    """All slots in a row under the board; the rarer ones only while tied or asked for."""

    shown = Signal(str)

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.locked = False
        """Whether slots are only looked at, as on the dial sheet."""
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.slots: dict[str, Slot] = {}
        row = QWidget()
        row.setObjectName("rail")
        self._row = QHBoxLayout(row)
        self._row.setContentsMargins(6, 0, 0, 4)
        self._row.setSpacing(0)
        self.area = QScrollArea()
        self.area.setWidget(row)
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.more = QToolButton()
        self.more.setText("More\nmaps")
        self.more.setProperty("quiet", "true")
        self.more.setCheckable(True)
        set_tip(self.more, "Show the rarer maps too: coat, sheen, film, light below, displacement")
        self.more.toggled.connect(lambda _: self.refresh())
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 4, 0)
        layout.setSpacing(2)
        layout.addWidget(self.area, 1)
        layout.addWidget(self.more)
        workplace.document_changed.connect(self._on_change)
        workplace.looks_changed.connect(self._on_looks)
        for place_signal in (workplace.document_replaced, workplace.place_changed):
            place_signal.connect(self.refresh)
        self.refresh()

    def _wanted(self) -> list[tuple[str, str, Channel | None]]:
        """Id, name and channel of each slot: the maps, or a motif's outlets and a place for another."""
        owner = present_owner(self.workplace)
        if isinstance(owner, Motif):
            outlets = [(key, outlet.label or key, None) for key, outlet in owner.outlets.items()]
            return [*outlets, ("", "New outlet", None)]
        return [(channel.id, channel.label, channel) for channel in CHANNELS.values()]

    def _match(self) -> None:
        """Have the slots that are wanted, and no others."""
        wanted = self._wanted()
        if [(s.id, s.label, s.channel) for s in self.slots.values()] == wanted:
            return
        for old in self.slots.values():
            self._row.removeWidget(old)
            old.hide()
            old.deleteLater()
        self.slots = {}
        for slot_id, label, channel in wanted:
            slot = Slot(self.workplace, slot_id, label, channel)
            slot.shown.connect(self.shown)
            slot.is_locked = lambda: self.locked
            self._row.addWidget(slot)
            self.slots[slot_id] = slot

    def refresh(self) -> None:
        """Show the newest state of every slot."""
        self._match()
        ties = self.workplace.graph.ends
        for name, slot in self.slots.items():
            everyday = slot.channel is None or slot.channel.everyday
            offered = (self.more.isChecked() or everyday) and not self.locked
            slot.setVisible(offered or name in ties)
            slot.refresh()
        self.more.setVisible(not self.workplace.session.motif and not self.locked)
        shown = sum(not slot.isHidden() for slot in self.slots.values())
        crowded = shown * LEAST_SLOT > self.area.viewport().width()
        self.setFixedHeight(98 + (self.area.horizontalScrollBar().sizeHint().height() if crowded else 0))

    def _on_change(self, change: Change) -> None:
        """A dragged value changes no slot before its result is there."""
        if change.recorded or change.ends:
            self.refresh()

    def _on_looks(self, ends: set[End]) -> None:
        ties, at = self.workplace.graph.ends, self.workplace.at
        for name, end in ties.items():
            if name in self.slots and at(end) in ends:
                self.slots[name].refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.refresh()

    def channel_at(self, place: QPoint) -> str | None:
        """The map whose slot lies under a place on the screen."""
        for channel, slot in self.slots.items():
            seen = slot.visibleRegion().boundingRect()
            if not seen.isEmpty() and seen.adjusted(0, -14, 0, 0).contains(slot.mapFromGlobal(place)):
                return channel
        return None

    def place_of(self, channel: str) -> QPoint | None:
        """Where on the screen a thread to this map arrives; at the rail's end if it is scrolled away."""
        slot = self.slots.get(channel)
        if slot is None:
            return None
        view = self.area.viewport()
        x = view.mapFromGlobal(slot.mapToGlobal(QPoint(slot.width() // 2, 0))).x()
        return view.mapToGlobal(QPoint(min(max(x, 0), view.width()), 0))

    def mark_wanted(self, channel: str | None) -> None:
        """Show which slot a pulled thread would be tied to."""
        for name, slot in self.slots.items():
            if slot.wanted != (name == channel):
                slot.wanted = name == channel
                slot.update()
