"""The map rail: a slot for each PBR map, with its live picture and what its values do."""

from __future__ import annotations

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
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QScrollArea, QToolButton, QWidget

from reedloom.desk.board.card import paint_range_bar
from reedloom.desk.board.hanging import tie_to_rail
from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import set_tip
from reedloom.desk.screen.workplace import Workplace
from reedloom.kernels.colours import srgb_from_linear
from reedloom.kit.channels import CHANNELS, Channel
from reedloom.weave.document import End
from reedloom.weave.edits import Untie

PICTURE = 54.0
LEAST_SLOT = 84
"""Pixels across a slot at least."""


class Slot(QWidget):
    """One map of the rail."""

    shown = Signal(str)

    def __init__(self, workplace: Workplace, channel: Channel) -> None:
        super().__init__()
        self.workplace, self.channel = workplace, channel
        self.wanted = False
        self.setMinimumSize(QSize(LEAST_SLOT, 92))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Map slot {channel.label}")
        self.setMouseTracking(True)

    @property
    def end(self) -> End | None:
        """What is tied here."""
        return self.workplace.graph.ends.get(self.channel.id)

    def refresh(self) -> None:
        """Show the newest state, in the tooltip too."""
        end = self.end
        look = self.workplace.looks.get(end) if end else None
        if end is None:
            text = f"{self.channel.label}: nothing tied; the material uses {self._fallback_text()}."
            text += " Pull a thread here to make this map."
        else:
            text = f"{self.channel.label}: from {end}."
            if look is not None:
                text += f" Values {look.tones.low:.3g} to {look.tones.high:.3g}"
                text += (
                    f", {look.tones.below + look.tones.above:.1%} beyond 0 to 1." if self._clips() else "."
                )
        set_tip(self, text)
        self.update()

    def _clips(self) -> bool:
        look = self.workplace.looks.get(self.end) if self.end else None
        return look is not None and (look.tones.below > 0 or look.tones.above > 0)

    def _fallback_text(self) -> str:
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
        look = self.workplace.looks.get(end) if end else None
        if self.hasFocus() or self.wanted:
            painter.setPen(QPen(t.colour("accent"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(3, 5, -3, -3), 5, 5)
        painter.setPen(QPen(t.colour("accent" if self.wanted else "line"), 1.2))
        painter.setBrush(t.colour("ground"))
        painter.drawRoundedRect(QRectF(middle - 8, -5, 16, 10), 3, 3)
        if end is None:
            self._paint_fallback(painter, box)
        else:
            painter.fillRect(box, t.colour("slot"))
            if look is not None and end.node not in self.workplace.failures:
                paint_fitting(painter, box, look.image)
                bar = QRectF(box.right() + 3, box.top(), 8, PICTURE)
                painter.fillRect(bar, t.colour("slot"))
                paint_range_bar(painter, bar, look.tones)
            elif end.node in self.workplace.failures:
                painter.setPen(t.colour("warning"))
                painter.setFont(small_font())
                painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), "waits")
        painter.setFont(small_font())
        painter.setPen(t.colour("text" if end else "dim"))
        font = small_font()
        while (
            QFontMetricsF(font).horizontalAdvance(self.channel.label) > self.width() - 2
            and font.pixelSize() > 8
        ):
            font.setPixelSize(font.pixelSize() - 1)
        painter.setFont(font)
        place = QRectF(0, box.bottom() + 4, self.width(), 16)
        painter.drawText(place, int(Qt.AlignmentFlag.AlignCenter), self.channel.label)

    def _paint_fallback(self, painter: QPainter, box: QRectF) -> None:
        """An untied slot shows, hatched, what the material uses instead."""
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
            self.shown.emit(self.channel.id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.tie_selected()
        elif event.key() == Qt.Key.Key_Delete and self.end is not None:
            self.workplace.submit(Untie(self.channel.id))
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
        end = End(node=node, port=port)
        self.workplace.submit(tie_to_rail(w.graph, w.kinds, end, self.channel.id))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = QMenu(self)
        tie = menu.addAction("Tie the selected node here", self.tie_selected)
        tie.setEnabled(self.workplace.selected_node is not None)
        untie = menu.addAction("Untie", lambda: self.workplace.submit(Untie(self.channel.id)))
        untie.setEnabled(self.end is not None)
        menu.addAction("Look at this map", lambda: self.shown.emit(self.channel.id))
        menu.exec(event.globalPos())


class MapRail(QWidget):
    """All slots in a row under the board; the rarer ones only while tied or asked for."""

    shown = Signal(str)

    def __init__(self, workplace: Workplace) -> None:
        super().__init__()
        self.workplace = workplace
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.slots: dict[str, Slot] = {}
        row = QWidget()
        row.setObjectName("rail")
        slots = QHBoxLayout(row)
        slots.setContentsMargins(6, 0, 0, 4)
        slots.setSpacing(0)
        for channel in CHANNELS.values():
            slot = Slot(workplace, channel)
            slot.shown.connect(self.shown)
            slots.addWidget(slot)
            self.slots[channel.id] = slot
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
        set_tip(self.more, "Show the rarer maps too: coat, sheen, film, light below the surface")
        self.more.toggled.connect(lambda _: self.refresh())
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 4, 0)
        layout.setSpacing(2)
        layout.addWidget(self.area, 1)
        layout.addWidget(self.more)
        for signal in (workplace.document_changed, workplace.looks_changed):
            signal.connect(lambda _: self.refresh())
        workplace.document_replaced.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the newest state of every slot."""
        ties = self.workplace.graph.ends
        for name, slot in self.slots.items():
            slot.setVisible(self.more.isChecked() or CHANNELS[name].everyday or name in ties)
            slot.refresh()
        shown = sum(not slot.isHidden() for slot in self.slots.values())
        crowded = shown * LEAST_SLOT > self.area.viewport().width()
        self.setFixedHeight(98 + (self.area.horizontalScrollBar().sizeHint().height() if crowded else 0))

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
