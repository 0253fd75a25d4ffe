"""The creel: a weave swatch for each family; opened, its kinds with pictures by the engine."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QObject, QPoint, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent
from PySide6.QtWidgets import (
    QFrame,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.finder import KIND_ROLE, KindRow
from reedloom.desk.swatch import swatch_icon
from reedloom.desk.workplace import Workplace, to_image
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import kinds
from reedloom.kinds.declare import Kind
from reedloom.kinds.families import FAMILIES
from reedloom.loom.pictures import rgb_picture
from reedloom.loom.run import evaluate_ends
from reedloom.loom.samples import sample_weave

PICTURE = 64
WIDE = 336


class PictureRow(KindRow):
    """Draws a kind with the picture that the engine made of it."""

    picture_side = PICTURE
    row_height = PICTURE + 12
    wraps = True

    def __init__(self, creel: Creel) -> None:
        super().__init__(creel)
        self.creel = creel

    def picture_of(self, kind: Kind) -> QImage | None:
        return self.creel.pictures.get(kind.id)


class Creel(QWidget):
    """The narrow column of families, and the panel that flies out of it."""

    chosen = Signal(str)
    _picture_made = Signal(str, QImage)

    def __init__(self, workplace: Workplace, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("creel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workplace = workplace
        self.pictures: dict[str, QImage] = {}
        self.buttons: dict[str, QToolButton] = {}
        self.setFixedWidth(52)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 8, 6, 8)
        layout.setSpacing(5)
        present = {kind.family for kind in kinds()}
        for family in FAMILIES.values():
            if family.id in present:
                button = QToolButton()
                button.setIcon(swatch_icon(family.id, 26))
                button.setIconSize(QSize(26, 26))
                button.setFixedSize(40, 38)
                button.setProperty("quiet", "true")
                button.setCheckable(True)
                button.setToolTip(f"{family.label}: {family.purpose}")
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
        shown = [kind for kind in kinds() if kind.family == family]
        for kind in shown:
            if kind.id not in self.pictures:
                self.workplace.background.add_errand(partial(self._make_picture, kind.id))
        self.flyout.show_family(family, shown, self.buttons[family])

    def _make_picture(self, kind_id: str, stop: Stop) -> None:
        """In the worker: the kind's sample, computed by the engine."""
        document, end = sample_weave(kind_id)
        array = evaluate_ends(document, [end], PICTURE * 2, stop=stop).results[end]
        plain = document.node(end.node).declaration.output(end.port).plain
        self._picture_made.emit(kind_id, to_image(rgb_picture(array, plain=plain)))

    def _take_picture(self, kind_id: str, image: QImage) -> None:
        self.pictures[kind_id] = image
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
        self.title = QLabel()
        self.title.setProperty("role", "title")
        self.about = QLabel()
        self.about.setProperty("role", "dim")
        self.rows = QListWidget()
        self.rows.setItemDelegate(PictureRow(creel))
        self.rows.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.rows.setAccessibleName("Kinds of the family")
        self.rows.itemClicked.connect(self._choose)
        self.rows.installEventFilter(self)
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
        self.about.setText(FAMILIES[family].purpose)
        self.rows.clear()
        for kind in shown:
            item = QListWidgetItem()
            item.setData(KIND_ROLE, kind)
            item.setToolTip(kind.purpose)
            self.rows.addItem(item)
        self.rows.setCurrentRow(0)
        corner = beside.mapTo(self.ground, QPoint(beside.width() + 10, -6))
        height = min(74 + len(shown) * (PICTURE + 14), self.ground.height() - 60)
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

    def _choose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            kind: Kind = item.data(KIND_ROLE)
            self.close_up()
            self.creel.chosen.emit(kind.id)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress:
            assert isinstance(event, QKeyEvent)
            if event.key() in {Qt.Key.Key_Escape, Qt.Key.Key_Left}:
                button = self.creel.buttons[self.family]
                self.close_up()
                button.setFocus()
                return True
            if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
                self._choose(self.rows.currentItem())
                return True
        elif event.type() == QEvent.Type.FocusOut and self.isVisible():
            self.close_up()
        return super().eventFilter(watched, event)
