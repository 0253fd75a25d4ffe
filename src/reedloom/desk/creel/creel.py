"""The creel: a weave swatch for each family; opened, its kinds with pictures by the engine."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QFrame,
    QListWidget,
    QListWidgetItem,
    QStyleOptionViewItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.board.hanging import kinds_offered
from reedloom.desk.creel.finder import KindRow
from reedloom.desk.creel.offered import BookShelf, book_file, book_picture
from reedloom.desk.look.floating_search import THING_ROLE
from reedloom.desk.look.lists import is_chosen
from reedloom.desk.look.shortcuts import with_keys
from reedloom.desk.look.swatch import swatch_icon
from reedloom.desk.look.theme import theme
from reedloom.desk.look.words import Words, set_tip
from reedloom.desk.screen.workplace import Workplace, picture_of
from reedloom.kernels.jit import Stop
from reedloom.kit.families import FAMILIES
from reedloom.kit.kind import Kind
from reedloom.loom.run import evaluate_ends
from reedloom.preview.samples import choice_samples, sample_graph
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import Document
from reedloom.weave.motifs import FAMILY, MOTIF
from reedloom.weave.resolve import resolve

PICTURE = 64
EMPTY = "Select cards and pack them into a motif"
WIDE = 336
THUMB, THUMBS = 30, 6
"""Pixels across a small picture of a choice, and how many stand side by side."""


class PictureRow(KindRow):
    """Draws a kind with the picture that the engine made of it, and small ones of its foremost choice."""

    picture_side = PICTURE
    row_height = PICTURE + 12
    wraps = True

    def __init__(self, creel: Creel) -> None:
        super().__init__(creel)
        self.creel = creel
        self.marked = -1
        """Which choice of the current row the keyboard is on; -1 for the kind itself."""

    def picture_of(self, kind: Kind) -> QImage | None:
        return self.creel.pictures.get((kind.id, -1))

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        lines = -(-len(choice_samples(index.data(THING_ROLE))) // THUMBS)  # type: ignore[attr-defined]
        return QSize(200, self.row_height + lines * (THUMB + 4) + (4 if lines else 0))

    def head(self, box: QRect) -> QRect:
        return QRect(box.left(), box.top(), box.width(), self.row_height - 4)

    def thumb(self, row: QRect, number: int) -> QRect:
        """Where the picture of a choice is within a row's rectangle."""
        line, place = divmod(number, THUMBS)
        left = row.left() + PICTURE + 22 + place * (THUMB + 4)
        return QRect(left, row.top() + self.row_height + line * (THUMB + 4), THUMB, THUMB)

    def choice_at(self, row: QRect, kind: Kind, point: QPoint) -> int:
        """Which choice's picture lies under a point; -1 for none."""
        count = len(choice_samples(kind))
        return next((n for n in range(count) if self.thumb(row, n).contains(point)), -1)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        super().paint(painter, option, index)
        kind: Kind = index.data(THING_ROLE)
        chosen = is_chosen(option)
        for number in range(len(choice_samples(kind))):
            box = self.thumb(option.rect, number)
            image = self.creel.pictures.get((kind.id, number))
            painter.fillRect(box, theme().colour("slot"))
            if image is not None:
                painter.drawImage(box, image)
            if chosen and number == self.marked:
                painter.setPen(QPen(theme().colour("accent"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box)


class Creel(QWidget):
    """The narrow column of families, and the panel that flies out of it."""

    chosen = Signal(str, object)
    """A kind's id, and values it is hung with."""
    _picture_made = Signal(str, int, QImage)

    def __init__(self, workplace: Workplace, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("creel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workplace = workplace
        self.pictures: dict[tuple[str, int], QImage] = {}
        self.buttons: dict[str, QToolButton] = {}
        self.setFixedWidth(52)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 8, 6, 8)
        layout.setSpacing(5)
        self.shelf = BookShelf(self)
        for family in FAMILIES.values():
            button = QToolButton()
            button.setIcon(swatch_icon(family.id, 26))
            button.setIconSize(QSize(26, 26))
            button.setFixedSize(40, 38)
            button.setProperty("quiet", "true")
            button.setCheckable(True)
            set_tip(button, f"{family.label}: {family.purpose}")
            button.setAccessibleName(family.label)
            button.clicked.connect(lambda _checked, f=family.id: self.open_family(f))
            button.installEventFilter(self)
            layout.addWidget(button)
            self.buttons[family.id] = button
        layout.addStretch()
        self.flyout = _Flyout(self, parent)
        self._picture_made.connect(self._take_picture)

    def refresh_icons(self) -> None:
        """Paint the swatches in the theme's colours again."""
        for family, button in self.buttons.items():
            button.setIcon(swatch_icon(family, 26))

    def open_family(self, family: str) -> None:
        """Fly out a family's kinds, or close them if they are out."""
        if self.flyout.isVisible() and self.flyout.family == family:
            self.flyout.close_up()
            return
        for name, button in self.buttons.items():
            button.setChecked(name == family)
        shown = [kind for kind in kinds_offered(self.workplace) if kind.family == family]
        if family == FAMILY:
            shown += self.shelf.kinds
            self.shelf.look()
            self.pictures = {key: p for key, p in self.pictures.items() if not key[0].startswith(MOTIF)}
        for kind in shown:
            for number in range(-1, len(choice_samples(kind))):
                if (kind.id, number) not in self.pictures:
                    self.workplace.background.add_errand(partial(self._make_picture, kind, number))
        self.flyout.show_family(family, shown, self.buttons[family])

    def _make_picture(self, kind: Kind, number: int, stop: Stop) -> None:
        """In the worker: the kind's sample, or that of one choice, computed by the engine."""
        if (kind.id, number) in self.pictures:
            return
        kinds, values = self.workplace.kinds, choice_samples(kind)[number][1] if number >= 0 else None
        path = book_file(kind.id)
        if path is not None:
            image = book_picture(path, self.workplace.session.base_kinds, stop)
            if image is not None:
                self._picture_made.emit(kind.id, number, image)
            return
        graph, end = sample_graph(kind.id, kinds, values)
        flat = resolve(Document(graph=graph, motifs=self.workplace.document.motifs), kinds)
        side = PICTURE * (2 if number < 0 else 1)
        value = evaluate_ends(flat, [end], side, stop=stop).results.get(end)
        if value is not None:  # an inlet has no picture of its own, nor has a motif that fails
            self._picture_made.emit(kind.id, number, picture_of(flat, end, as_map(value, side, side)))

    def _take_picture(self, kind_id: str, number: int, image: QImage) -> None:
        self.pictures[kind_id, number] = image
        self.flyout.rows.viewport().update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress:
            assert isinstance(event, QKeyEvent) and isinstance(watched, QToolButton)
            order = list(self.buttons.values())
            if event.key() in {Qt.Key.Key_Down, Qt.Key.Key_Up} and watched in order:
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                order[(order.index(watched) + step) % len(order)].setFocus()
                return True
            if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Right}:
                order[order.index(watched)].click()
                return True
        return super().eventFilter(watched, event)


class _Flyout(QFrame):
    """The kinds of one family, over the board's left edge."""

    def __init__(self, creel: Creel, parent: QWidget) -> None:
        super().__init__(parent)
        self.creel, self.ground = creel, parent
        self.family = ""
        self.setObjectName("flyout")
        self.title = Words()
        self.title.setProperty("role", "title")
        self.about = Words()
        self.about.setProperty("role", "dim")
        self.rows = QListWidget()
        self.painter = PictureRow(creel)
        self.rows.setItemDelegate(self.painter)
        self.rows.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.rows.setAccessibleName("Kinds of the family")
        self.rows.currentRowChanged.connect(lambda _: self._mark(-1))
        self.rows.setMouseTracking(True)
        self.rows.installEventFilter(self)
        self.rows.viewport().installEventFilter(self)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 10, 8, 8)
        layout.setSpacing(4)
        for part in (self.title, self.about, self.rows):
            layout.addWidget(part)
        self.hide()

    def show_family(self, family: str, shown: list[Kind], beside: QWidget) -> None:
        """Fill the panel and show it beside a button."""
        self.family = family
        self.title.setText(FAMILIES[family].label)
        self.about.setText(FAMILIES[family].purpose if shown else f"{with_keys(EMPTY, 'pack_motif')}.")
        self.rows.clear()
        for kind in shown:
            item = QListWidgetItem()
            item.setData(THING_ROLE, kind)
            set_tip(item, kind.purpose)
            self.rows.addItem(item)
        self.rows.setCurrentRow(0)
        corner = beside.mapTo(self.ground, QPoint(beside.width() + 10, -6))
        tall = sum(self.rows.sizeHintForRow(row) + 4 for row in range(len(shown)))
        height = min(78 + tall, self.ground.height() - 40)
        top = max(8, min(corner.y(), self.ground.height() - height - 8))
        self.setGeometry(corner.x(), top, WIDE, height)
        self.show()
        self.raise_()
        self.rows.setFocus()

    def close_up(self) -> None:
        """Put the panel away."""
        self.hide()
        for button in self.creel.buttons.values():
            button.setChecked(False)

    def _mark(self, number: int) -> None:
        self.painter.marked = number
        self.rows.viewport().update()

    def _choose(self, item: QListWidgetItem | None, number: int = -1) -> None:
        if item is not None:
            kind: Kind = item.data(THING_ROLE)
            self.close_up()
            self.creel.chosen.emit(kind.id, choice_samples(kind)[number][1] if number >= 0 else {})

    def _under(self, point: QPoint) -> tuple[QListWidgetItem | None, int]:
        """The row under a point of the list, and which of its choices."""
        item = self.rows.itemAt(point)
        if item is None:
            return None, -1
        row = self.rows.visualItemRect(item)
        return item, self.painter.choice_at(row, item.data(THING_ROLE), point)

    def _show_name(self, point: QPoint) -> None:
        item, number = self._under(point)
        if item is not None:
            kind: Kind = item.data(THING_ROLE)
            set_tip(item, choice_samples(kind)[number][0] if number >= 0 else kind.purpose)

    def _step(self, by: int) -> None:
        item = self.rows.currentItem()
        if item is not None:
            count = len(choice_samples(item.data(THING_ROLE)))
            self._mark(min(max(self.painter.marked + by, -1), count - 1))

    def _close_to_button(self) -> None:
        button = self.creel.buttons[self.family]
        self.close_up()
        button.setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QMouseEvent) and watched is self.rows.viewport():
            if event.type() == QEvent.Type.MouseButtonRelease:
                self._choose(*self._under(event.position().toPoint()))
                return True
            if event.type() == QEvent.Type.MouseMove:
                self._show_name(event.position().toPoint())
        elif event.type() == QEvent.Type.KeyPress and watched is self.rows:
            assert isinstance(event, QKeyEvent)
            key = event.key()
            if key == Qt.Key.Key_Escape or (key == Qt.Key.Key_Left and self.painter.marked < 0):
                self._close_to_button()
                return True
            if key in {Qt.Key.Key_Left, Qt.Key.Key_Right}:
                self._step(1 if key == Qt.Key.Key_Right else -1)
                return True
            if key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
                self._choose(self.rows.currentItem(), self.painter.marked)
                return True
        elif event.type() == QEvent.Type.FocusOut and watched is self.rows and self.isVisible():
            self.close_up()
        return super().eventFilter(watched, event)
