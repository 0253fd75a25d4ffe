"""The finder: type a few letters, press Enter, and the node hangs on the board."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPoint, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QImage, QPainter
from PySide6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem, QWidget

from reedloom.desk.look.floating_search import THING_ROLE, FloatingSearch
from reedloom.desk.look.lists import is_chosen, paint_chosen
from reedloom.desk.look.swatch import swatch_pixmap
from reedloom.desk.look.theme import small_font, theme
from reedloom.kinds.search import find_kinds
from reedloom.kit.kind import Kind


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
        kind: Kind = index.data(THING_ROLE)
        chosen = is_chosen(option)
        box: QRect = option.rect.adjusted(3, 2, -3, -2)
        if chosen:
            paint_chosen(painter, box)
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


class Finder(FloatingSearch):
    """A floating search over kinds; `chosen` carries the kind's id."""

    chosen = Signal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(
            parent,
            find=lambda text: find_kinds(text, self._among),
            take=lambda kind: self.chosen.emit(kind.id),
            asks="What to hang? A name, or what it should do",
            hint="Enter hangs it · arrows choose · Esc closes",
            nothing="Nothing of that name; try what it should do, such as “soften”.",
        )
        self._among: Sequence[Kind] = ()
        self.line.setAccessibleName("Find a node kind")
        self.rows.setItemDelegate(KindRow(self.rows))
        self.resize(380, 348)

    def open_with(self, text: str, among: Sequence[Kind], at: QPoint) -> None:
        """Show the finder near a point of its parent, over some kinds."""
        self._among = among
        self.open_at(text, at)
