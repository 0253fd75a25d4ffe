"""The list behind the swatch book: entries of watched folders, and their pictures as they come."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from functools import partial
from pathlib import Path
from time import monotonic, sleep

from PySide6.QtCore import (
    QAbstractListModel,
    QFileSystemWatcher,
    QMimeData,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    Qt,
    QTimer,
    QUrl,
    Signal,
)
from PySide6.QtGui import QGuiApplication, QImage

from reedloom.delivery.thumbnails import (
    SIDES,
    note_failure,
    surface_pixels,
    thumbnail_path,
    write_thumbnail,
)
from reedloom.desk.look.fitting import fitted
from reedloom.desk.screen import kept_pictures
from reedloom.desk.screen.latest import LatestOnly
from reedloom.desk.screen.workplace import Workplace, to_image
from reedloom.errors import Cancelled, ReedError
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import Kinds
from reedloom.loom.worker import Worker
from reedloom.weave.book import Entry, scan
from reedloom.weave.fileformat import load_document

ENTRY_ROLE = Qt.ItemDataRole.UserRole
SWATCH = "application/x-reed-loom-swatch"
"""The kind of data that is dragged onto the board: the path of a file of the book."""
SIZE = "large"
PICTURE = 124
"""Pixels along the longer side of a picture."""
SETTLE = 300
"""Milliseconds after a folder changed before it is looked at again."""
MOMENT = 0.12
"""Seconds after a step of a scrolled list in which no picture is made: longer than to the next step."""


class Yielding(Stop):
    """A stop at which what is computed waits while the window has much to paint.

    Two threads of Python take turns thousands of times a second, which is felt in a list that is scrolled.
    """

    def __init__(self) -> None:
        super().__init__()
        self._until = 0.0

    def give_way(self) -> None:
        """Wait for a moment from now on."""
        self._until = monotonic() + MOMENT

    def check(self) -> None:
        """Raise `Cancelled` if the end was asked for, once the moment is over."""
        while not self.is_set() and monotonic() < self._until:
            sleep(MOMENT / 10)
        super().check()


class Thumbnails(QObject):
    """Pictures of files, from where the desktop keeps them, or made one after the other."""

    made = Signal(str, QImage, str)
    """A path, its picture, and why there is none."""

    def __init__(self, kinds: Kinds, parent: QObject) -> None:
        super().__init__(parent)
        self._kinds = kinds
        ratio = max(screen.devicePixelRatio() for screen in QGuiApplication.screens())
        # As they are painted: to shrink them each time takes nearly half of a frame.
        self._side = round(PICTURE * ratio)
        self._worker: Worker | None = None
        self.stop = Yielding()
        self._asked: set[tuple[str, tuple[int, int]]] = set()

    def ask(self, entry: Entry) -> None:
        """Have a picture of a file, once for each state of it."""
        mark = (str(entry.path), entry.stamp)
        if mark in self._asked:
            return
        self._asked.add(mark)
        if self._worker is None:
            self._worker = Worker("thumbnails")
        self._worker.add_errand(partial(self._find, entry))

    def close(self) -> None:
        """End the thread."""
        self.stop.set()
        if self._worker is not None:
            self._worker.close()
            self._worker = None

    def _find(self, entry: Entry) -> None:
        """In the worker."""
        kept = kept_pictures.thumbnail(entry.path)
        if kept is not None:
            self.made.emit(str(entry.path), fitted(kept, self._side), "")
            return
        try:
            pixels = surface_pixels(
                load_document(entry.path, self._kinds), self._kinds, SIDES[SIZE], self.stop
            )
        except Cancelled:
            return
        except ReedError as error:
            note_failure(entry.path)
            self.made.emit(str(entry.path), QImage(), str(error))
            return
        with suppress(OSError):  # else it is made again the next time
            write_thumbnail(pixels, entry.path, thumbnail_path(entry.path, SIZE))
        self.made.emit(str(entry.path), fitted(to_image(pixels), self._side), "")


class BookModel(QAbstractListModel):
    """What the folders of the book hold, as far as it fits what is searched for."""

    looked = Signal()
    """The folders were looked at."""

    def __init__(self, workplace: Workplace, folders: Iterable[Path], parent: QObject) -> None:
        super().__init__(parent)
        self.folders = list(folders)
        self.entries: list[Entry] = []
        self.shown: list[Entry] = []
        self.images: dict[str, QImage] = {}
        self.troubles: dict[str, str] = {}
        self._words: list[str] = []
        self._only: Path | None = None
        self._known: dict[Path, Entry] = {}
        self.thumbnails = Thumbnails(workplace.session.base_kinds, self)
        self.thumbnails.made.connect(self._take_picture)
        self._scanner = LatestOnly(self)
        self._scanner.done.connect(self._take_entries)
        self._watcher = QFileSystemWatcher(self)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self.look)
        self._watcher.directoryChanged.connect(lambda _: self._settle.start(SETTLE))
        self._watcher.fileChanged.connect(lambda _: self._settle.start(SETTLE))
        self.look()

    def close(self) -> None:
        """End the threads."""
        self._settle.stop()
        self._scanner.close()
        self.thumbnails.close()

    # -- looking --------------------------------------------------------------------------------------

    def look(self) -> None:
        """Look at the folders again, off the window's thread."""
        folders, known = tuple(self.folders), dict(self._known)

        def make() -> list[Entry]:
            return [entry for folder in folders for entry in scan(folder, known)]

        self._scanner.ask(make)

    def _take_entries(self, entries: object) -> None:
        assert isinstance(entries, list)
        unique = {entry.path: entry for entry in entries}
        self._known = unique
        self.entries = sorted(unique.values(), key=lambda e: (e.name.casefold(), e.path))
        wanted = {str(p) for p in (*self.folders, *(e.path.parent for e in self.entries)) if p.is_dir()}
        gone = set(self._watcher.directories()) - wanted
        if gone:
            self._watcher.removePaths(sorted(gone))
        new = wanted - set(self._watcher.directories())
        if new:
            self._watcher.addPaths(sorted(new))
        self._filter()
        self.looked.emit()

    def search(self, text: str, only: Path | None = None) -> None:
        """Show only what has all these words, in one of the folders if given."""
        self._words, self._only = text.split(), only
        self._filter()

    def _filter(self) -> None:
        found = [
            entry
            for entry in self.entries
            if entry.fits(self._words) and (self._only is None or entry.path.is_relative_to(self._only))
        ]
        if found != self.shown:
            self.beginResetModel()
            self.shown = found
            self.endResetModel()

    def _take_picture(self, path: str, image: QImage, trouble: str) -> None:
        if trouble:
            self.troubles[path] = trouble
            self.images.pop(path, None)
        else:
            self.images[path] = image
            self.troubles.pop(path, None)
        for row, entry in enumerate(self.shown):
            if str(entry.path) == path:
                index = self.index(row)
                self.dataChanged.emit(index, index)

    # -- the model ------------------------------------------------------------------------------------

    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.shown)

    def data(self, index: QModelIndex | QPersistentModelIndex, role: int = 0) -> object:
        if not index.isValid() or index.row() >= len(self.shown):
            return None
        entry = self.shown[index.row()]
        if role == ENTRY_ROLE:
            return entry
        if role in {Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole}:
            return entry.name
        return None

    def picture(self, entry: Entry) -> QImage | None:
        """The picture of an entry, asked for if it is not there yet."""
        if not entry.trouble:
            self.thumbnails.ask(entry)
        return self.images.get(str(entry.path))

    def trouble(self, entry: Entry) -> str:
        """Why an entry cannot be used; empty if it can."""
        return entry.trouble or self.troubles.get(str(entry.path), "")

    def flags(self, index: QModelIndex | QPersistentModelIndex) -> Qt.ItemFlag:
        plain = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return plain | Qt.ItemFlag.ItemIsDragEnabled if index.isValid() else plain

    def mimeTypes(self) -> list[str]:
        return [SWATCH, "text/uri-list"]

    def mimeData(self, indexes: Iterable[QModelIndex]) -> QMimeData:
        data = QMimeData()
        paths = [self.shown[index.row()].path for index in indexes]
        if paths:
            data.setData(SWATCH, str(paths[0]).encode(errors="surrogateescape"))
            data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        return data
