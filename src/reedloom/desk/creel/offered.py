"""What can be hung besides the kinds of the program: the weave's motifs, and what the swatch book has."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject
from PySide6.QtGui import QImage

from reedloom.data import FOLDER
from reedloom.delivery.thumbnails import surface_pixels
from reedloom.desk.screen import kept_pictures
from reedloom.desk.screen.latest import LatestOnly
from reedloom.desk.screen.workplace import to_image
from reedloom.errors import ReedError
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.kind import Kind
from reedloom.weave.book import Entry, scan, user_book
from reedloom.weave.fileformat import load_document
from reedloom.weave.motifs import FAMILY

BOOK = "book:"
"""How the ids of what the swatch book offers begin; no kind of a node has such an id."""
SIDE = 128


def book_file(kind_id: str) -> Path | None:
    """The file of the swatch book that an id stands for, if it does."""
    return Path(kind_id.removeprefix(BOOK)) if kind_id.startswith(BOOK) else None


def as_kind(entry: Entry) -> Kind:
    """An entry of the swatch book, as lists of kinds show it."""
    what = "A motif" if entry.motif else "A weave"
    return Kind(
        id=f"{BOOK}{entry.path}",
        label=entry.name,
        family=FAMILY,
        version=1,
        purpose=entry.purpose or f"{what} of the swatch book.",
        inputs=(),
        outputs=(),
        parameters=(),
        compute=_refuse,
        synonyms=(*entry.tags, "swatch book"),
    )


def _refuse(context: Any, **values: Any) -> Any:
    raise ReedError("it is in the swatch book.")


def book_picture(path: Path, kinds: Kinds, stop: Stop) -> QImage | None:
    """The picture of a file of the book: as the desktop keeps it, or made now."""
    kept = kept_pictures.thumbnail(path)
    if kept is not None:
        return kept
    try:
        return to_image(surface_pixels(load_document(path, kinds), kinds, SIDE, stop))
    except ReedError:
        return None  # the book itself says why


def plain_folders() -> tuple[Path, ...]:
    """The folders that are always in the book: what came with Reed Loom, and the user's own."""
    return FOLDER / "weaves", user_book()


class BookShelf(QObject):
    """What the swatch book has, looked at off the window's thread; what was there last is known at once."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.kinds: tuple[Kind, ...] = ()
        self._known: dict[Path, Entry] = {}
        self._scanner = LatestOnly(self)
        self._scanner.done.connect(self._take)

    def look(self) -> None:
        """Look at the folders again."""
        known, folders = dict(self._known), plain_folders()
        self._scanner.ask(lambda: [entry for folder in folders for entry in scan(folder, known)])

    def _take(self, entries: object) -> None:
        assert isinstance(entries, list)
        self._known = {entry.path: entry for entry in entries}
        self.kinds = tuple(as_kind(entry) for entry in self._known.values() if not entry.trouble)

    def close(self) -> None:
        """End the thread."""
        self._scanner.close()
