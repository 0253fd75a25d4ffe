"""The finder: type a few letters, press Enter, and the node hangs on the board."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QImage, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QFrame,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.look.lists import is_chosen
from reedloom.desk.look.swatch import swatch_pixmap
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import Words
from reedloom.kinds.search import find_kinds
from reedloom.kit.kind import Kind

HINT = "Enter hangs it · arrows choose · Esc closes"
NOTHING_FOUND = "Nothing of that name; try what it should do, such as “soften”."
KIND_ROLE = Qt.ItemDataRole.UserRole


class KindRow(QStyledItemDelegate):
    """Draws a kind in a list: a picture or its family's swatch, its label and its purpose."""

    picture_side = 22
    row_height = 44
    wraps = False
    """Whether the purpose may take several lines."""

    def picture_of(self, kind: Kind) -> QImage | None:
        """The kind's own picture, if there is one."""
        return None

    def head(self, box: QRect) -> QRect:
        """The part of a row's box that picture and words take."""
        return box

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        return QSize(200, self.row_height)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        t = theme()
        kind: Kind = index.data(KIND_ROLE)
        chosen = is_chosen(option)
        box: QRect = option.rect.adjusted(3, 2, -3, -2)
        if chosen:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.colour("line"))
            painter.drawRoundedRect(box, 5, 5)
        box = self.head(box)
        side = self.picture_side
        picture = QRect(box.left() + 6, box.center().y() - side // 2, side, side)
        image = self.picture_of(kind)
        if image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(picture, image)
        else:
            painter.drawPixmap(picture.center() - QPoint(11, 11), swatch_pixmap(kind.family, 22))
        text = box.adjusted(side + 18, 4, -8, -4)
        bold, plain = small_font(bold=True, pixels=13), small_font(pixels=12)
        painter.setFont(bold)
        painter.setPen(t.colour("text"))
        painter.drawText(text, int(Qt.AlignmentFlag.AlignTop), kind.label)
        painter.setFont(plain)
        painter.setPen(t.colour("text" if chosen else "dim"))
        rest = text.adjusted(0, QFontMetrics(bold).height() + 1, 0, 0)
        if self.wraps:
            painter.drawText(rest, int(Qt.TextFlag.TextWordWrap), kind.purpose)
        else:
            purpose = QFontMetrics(plain).elidedText(kind.purpose, Qt.TextElideMode.ElideRight, rest.width())
            painter.drawText(rest, int(Qt.AlignmentFlag.AlignTop), purpose)


class Finder(QFrame):
    """A floating search over kinds; `chosen` carries the kind's id."""

    chosen = Signal(str)
    closed = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("finder")
        self._ground = parent
        self._among: Sequence[Kind] = ()
        self.line = QLineEdit(placeholderText="What to hang? A name, or what it should do")
        self.line.setAccessibleName("Find a node kind")
        self.rows = QListWidget()
        self.rows.setItemDelegate(KindRow(self.rows))
        self.rows.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hint = Words(HINT)
        self.hint.setProperty("role", "dim")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 6)
        layout.setSpacing(6)
        for part in (self.line, self.rows, self.hint):
            layout.addWidget(part)
        self.line.textChanged.connect(self._search)
        self.line.installEventFilter(self)
        self.rows.itemClicked.connect(lambda _item: self._choose())
        self.resize(380, 348)
        self.hide()

    def open_with(self, text: str, among: Sequence[Kind], at: QPoint) -> None:
        """Show the finder near a point of its parent, over some kinds."""
        self._among = among
        parent = self._ground.rect()
        self.move(
            max(8, min(at.x(), parent.width() - self.width() - 8)),
            max(8, min(at.y(), parent.height() - self.height() - 8)),
        )
        self.line.setText(text)
        self._search(text)
        self.show()
        self.raise_()
        self.line.setFocus()

    def _search(self, text: str) -> None:
        self.rows.clear()
        for kind in find_kinds(text, self._among):
            item = QListWidgetItem()
            item.setData(KIND_ROLE, kind)
            self.rows.addItem(item)
        self.rows.setCurrentRow(0)
        self.hint.setText(HINT if self.rows.count() else NOTHING_FOUND)

    def _choose(self) -> None:
        item = self.rows.currentItem()
        if item is not None:
            kind: Kind = item.data(KIND_ROLE)
            self.close_quietly()
            self.chosen.emit(kind.id)

    def close_quietly(self) -> None:
        """Hide without choosing."""
        if self.isVisible():
            self.hide()
            self.closed.emit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress:
            assert isinstance(event, QKeyEvent)
            key = event.key()
            if key in {Qt.Key.Key_Down, Qt.Key.Key_Up}:
                step = 1 if key == Qt.Key.Key_Down else -1
                count = max(1, self.rows.count())
                self.rows.setCurrentRow((self.rows.currentRow() + step) % count)
                return True
            if key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
                self._choose()
                return True
            if key == Qt.Key.Key_Escape:
                self.close_quietly()
                return True
        elif event.type() == QEvent.Type.FocusOut:
            self.close_quietly()
        return super().eventFilter(watched, event)
