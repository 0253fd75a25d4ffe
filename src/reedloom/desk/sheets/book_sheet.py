"""The swatch book: shipped and own weaves and motifs as pictures; found, opened, hung, kept."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QRectF, QSettings, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QListView,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from reedloom.data import FOLDER
from reedloom.desk.creel.offered import plain_folders
from reedloom.desk.look.choices import make_choice
from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.lists import is_chosen
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import Words, set_tip, shown
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.sheets.book_model import ENTRY_ROLE, PICTURE, BookModel
from reedloom.weave.book import Entry, user_book

CELL = QSize(PICTURE + 18, PICTURE + 52)
EMPTY = "Nothing here has these words."
HINT = "Enter opens a weave · drag onto the board, or Ctrl+Enter, hangs it there as a motif"


def _place_of(path: Path) -> str:
    """Where a file is, as short as it can be said."""
    if path.is_relative_to(FOLDER):
        return "It came with Reed Loom; it opens as a copy."
    return f"~/{path.relative_to(Path.home())}" if path.is_relative_to(Path.home()) else str(path)


class Swatch(QStyledItemDelegate):
    """Draws an entry: its picture, its general name, and the particular one."""

    def __init__(self, model: BookModel, parent: QWidget) -> None:
        super().__init__(parent)
        self.model = model

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return CELL

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        t = theme()
        entry: Entry = index.data(ENTRY_ROLE)
        chosen = is_chosen(option)
        whole: QRect = option.rect
        box = QRectF(whole.left() + 9, whole.top() + 6, PICTURE, PICTURE)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if entry.motif:  # a second edge behind it, as on the board
            painter.setPen(QPen(t.colour("line"), 1.2))
            painter.setBrush(t.colour("raised"))
            painter.drawRect(box.translated(4, -4))
        painter.fillRect(box, t.colour("slot"))
        image, trouble = self.model.picture(entry), self.model.trouble(entry)
        if trouble:
            painter.setPen(t.colour("warning"))
            painter.setFont(small_font())
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(box.adjusted(6, 6, -6, -6), int(flags), shown(trouble))
        elif image is not None:
            paint_fitting(painter, box, image)
        if chosen:
            painter.setPen(QPen(t.colour("accent"), 2.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(-2.5, -2.5, 2.5, 2.5))
        first = entry.general or ("Motif" if entry.motif else "")
        self._line(painter, whole, box.bottom() + 5, first, "dim", False)
        self._line(painter, whole, box.bottom() + 20, entry.title, "text", chosen)
        painter.restore()

    def _line(self, painter: QPainter, whole: QRect, top: float, text: str, colour: str, bold: bool) -> None:
        font = small_font(bold, 12)
        painter.setFont(font)
        painter.setPen(theme().colour(colour))
        room = QRectF(whole.left() + 4, top, whole.width() - 8, 17)
        cut = painter.fontMetrics().elidedText(shown(text), Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, int(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop), cut)


class BookSheet(QDialog):
    """A window beside the workbench; what is dragged from it hangs on the board."""

    open_asked = Signal(object)
    """A weave's path is to be opened, on its dial sheet."""
    hang_asked = Signal(object)
    """What a file holds is to hang on the board."""
    keep_asked = Signal(object)
    """The present weave, or the selected motif, is to be kept in a folder."""

    def __init__(self, workplace: Workplace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workplace = workplace
        self.setWindowTitle("Swatch book")
        self.setModal(False)
        self.resize(1000, 680)
        self.model = BookModel(workplace, self._folders(), self)
        self.model.looked.connect(self._tell)
        self._build()

    # -- folders --------------------------------------------------------------------------------------

    def _own(self) -> list[Path]:
        stored = QSettings().value("book/folders", [])
        names = [stored] if isinstance(stored, str) else stored if isinstance(stored, list) else []
        return [Path(name) for name in names]

    def _folders(self) -> list[Path]:
        return [*plain_folders(), *self._own()]

    def _fill_folders(self) -> None:
        before = self.folder.currentData()
        self.folder.clear()
        self.folder.addItem("All of the book", None)
        self.folder.addItem("What came with Reed Loom", str(FOLDER / "weaves"))
        self.folder.addItem("My own", str(user_book()))
        for path in self._own():
            self.folder.addItem(path.name, str(path))
        self.folder.setCurrentIndex(max(0, self.folder.findData(before)))

    def add_folder(self) -> None:
        """Have another folder in the book."""
        text = QFileDialog.getExistingDirectory(self, "A folder of weaves", str(Path.home()))
        if text and Path(text) not in self.model.folders:
            QSettings().setValue("book/folders", [*map(str, self._own()), text])
            self.model.folders = self._folders()
            self._fill_folders()
            self.model.look()

    def leave_folder(self) -> None:
        """Have the chosen folder in the book no longer; its files stay."""
        chosen = self.folder.currentData()
        kept = [str(path) for path in self._own() if str(path) != chosen]
        QSettings().setValue("book/folders", kept)
        self.model.folders = self._folders()
        self._fill_folders()
        self._search()
        self.model.look()

    # -- building -------------------------------------------------------------------------------------

    def _build(self) -> None:
        self.line = QLineEdit(placeholderText="Search names, purposes and tags")
        self.line.setAccessibleName("Search the swatch book")
        self.line.setClearButtonEnabled(True)
        self.folder: QComboBox = make_choice("Which folders are shown")
        self._fill_folders()
        self.add, self.leave = QPushButton("Add a folder…"), QPushButton("Leave this folder out")
        top = QHBoxLayout()
        top.addWidget(self.line, 1)
        for part in (self.folder, self.add, self.leave):
            top.addWidget(part)
        self.list = QListView()
        self.list.setModel(self.model)
        self.list.setItemDelegate(Swatch(self.model, self.list))
        self.list.setViewMode(QListView.ViewMode.IconMode)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setMovement(QListView.Movement.Static)
        self.list.setUniformItemSizes(True)
        self.list.setGridSize(CELL)
        self.list.setDragEnabled(True)
        self.list.setSpacing(2)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setAccessibleName("Weaves and motifs")
        self.list.verticalScrollBar().valueChanged.connect(lambda _: self.model.thumbnails.stop.give_way())
        self.told = Words(HINT)
        self.told.setProperty("role", "dim")
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(36)
        self.opener, self.hanger, self.keeper = (
            QPushButton("Open"),
            QPushButton("Hang on the board"),
            QPushButton("Keep the present weave here…"),
        )
        set_tip(self.opener, "Open the weave on its dial sheet (Enter)")
        set_tip(self.hanger, "Hang it on the present board as a motif (Ctrl+Enter)")
        foot = QHBoxLayout()
        for button in (self.opener, self.hanger):
            foot.addWidget(button)
        foot.addStretch()
        foot.addWidget(self.keeper)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(8)
        column.addLayout(top)
        column.addWidget(self.list, 1)
        column.addWidget(self.told)
        column.addLayout(foot)
        for button in (self.add, self.leave, self.opener, self.hanger, self.keeper):
            button.setAutoDefault(False)
        self.add.clicked.connect(self.add_folder)
        self.leave.clicked.connect(self.leave_folder)
        self.opener.clicked.connect(self._open)
        self.hanger.clicked.connect(self._hang)
        self.keeper.clicked.connect(lambda: self.keep_asked.emit(self._keep_folder()))
        self.line.textChanged.connect(lambda _: self._search())
        self.folder.activated.connect(lambda _: self._search())
        self.list.doubleClicked.connect(lambda _: self._open())
        self.list.selectionModel().selectionChanged.connect(lambda *_: self._tell())
        self.model.modelReset.connect(self._tell)
        self._search()
        self.line.setFocus()

    def _keep_folder(self) -> Path:
        chosen = self.folder.currentData()
        shipped = str(FOLDER / "weaves")
        return Path(chosen) if chosen and chosen != shipped else user_book()

    def _search(self) -> None:
        chosen = self.folder.currentData()
        self.model.search(self.line.text(), Path(chosen) if chosen else None)
        self.leave.setVisible(bool(chosen) and Path(chosen) in self._own())

    @property
    def entry(self) -> Entry | None:
        """What is chosen."""
        index = self.list.currentIndex()
        return index.data(ENTRY_ROLE) if index.isValid() else None

    def _tell(self) -> None:
        entry = self.entry
        sound = entry is not None and not self.model.trouble(entry)
        for button in (self.opener, self.hanger):
            button.setEnabled(sound)
        if entry is not None:
            text = f"{entry.name}. {self.model.trouble(entry) or entry.purpose}\n{_place_of(entry.path)}"
        else:
            text = HINT if self.model.shown or not self.line.text() else EMPTY
        self.told.setText(text)

    # -- what is done ---------------------------------------------------------------------------------

    def _open(self) -> None:
        entry = self.entry
        if entry is not None and not self.model.trouble(entry):
            self.open_asked.emit(entry.path)

    def _hang(self) -> None:
        entry = self.entry
        if entry is not None and not self.model.trouble(entry):
            self.hang_asked.emit(entry.path)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self._hang()
            elif self.entry is None and self.model.shown:
                self.list.setCurrentIndex(self.model.index(0))
                self.list.setFocus()
            else:
                self._open()
        elif key == Qt.Key.Key_Down and self.line.hasFocus() and self.model.shown:
            self.list.setCurrentIndex(self.model.index(0))
            self.list.setFocus()
        else:
            super().keyPressEvent(event)

    def close_down(self) -> None:
        """End the threads."""
        self.model.close()
