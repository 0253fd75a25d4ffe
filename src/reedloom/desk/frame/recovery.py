"""Keeps unsaved work safe from a crash, and finds what an ended program left.

Work is kept in the state folder, each window's under a name of its own beside a lock file, which the
system lets go of when the program ends, however it ends. The lock file holds the path of the weave's own
file. Writing is off the window's thread.
"""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from reedloom.desk.screen.workplace import Workplace
from reedloom.errors import FileError, ReedError
from reedloom.files import PART, clear_leftovers, explain, fresh, lock
from reedloom.kinds.catalogue import Kinds
from reedloom.logs import state_folder
from reedloom.loom.worker import Worker
from reedloom.weave.document import Document
from reedloom.weave.edits import MoveHome
from reedloom.weave.fileformat import PREVIOUS, load_document, save_document

DELAY = 1000
"""Milliseconds from a change, however many follow, until it is written; no more than 2 s are ever lost."""
LOCK, BROKEN = ".lock", ".broken"


def recovery_folder() -> Path:
    """Where unsaved work is kept until it is saved or thrown away."""
    return state_folder() / "recovery"


class Kept(Struct, frozen=True):
    """Work that an ended program left, held by this one.

    Attributes
    ----------
    origin : Path or None
        The weave's own file, if it had one.
    trouble : str
        Why it cannot be read; else empty.
    """

    file: Path
    handle: int
    origin: Path | None
    document: Document | None
    trouble: str = ""

    def let_go(self) -> None:
        """Leave it for the next start."""
        os.close(self.handle)

    def throw_away(self) -> None:
        """Remove it for good."""
        _remove(self.file)
        os.close(self.handle)


class Keeper(QObject):
    """Writes a window's unsaved work beside, at most `DELAY` after it changed."""

    failed = Signal(str)
    """Why work could not be kept; told each time."""

    def __init__(self, workplace: Workplace) -> None:
        super().__init__(workplace)
        self.workplace = workplace
        self._file: Path | None = None
        self._handle: int | None = None
        self._worker = Worker("recovery", on_trouble=lambda error: self.failed.emit(str(error)))
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(DELAY)
        self._timer.timeout.connect(self.keep)
        workplace.document_changed.connect(lambda _: self.soon())

    def soon(self) -> None:
        """Keep the work within the delay; more changes do not put it off."""
        if not self._timer.isActive():
            self._timer.start()

    def keep(self) -> None:
        """Write unsaved work beside, what is being dragged included."""
        session, path = self.workplace.session, self.workplace.path
        if session.is_saved and session.document is session.recorded:
            self._worker.ask(self._remove)
            return
        document = replace(session.document, lit=self.workplace.lit_state)
        self._worker.ask(lambda: self._write(document, session.kinds, path))

    def wait(self) -> None:
        """Until all that was asked for is done."""
        self._timer.stop()
        self._worker.wait()

    def drop(self) -> None:
        """Forget what was kept, once it is saved or thrown away."""
        self._timer.stop()
        self._worker.ask(self._remove)
        self._worker.wait()

    def take_over(self, kept: Kept) -> None:
        """Go on with work that another program left, in its own file: there is no moment without it."""
        self.drop()
        self._file, self._handle = kept.file, kept.handle

    def close(self) -> None:
        """Forget what was kept, and end."""
        self._timer.stop()
        self._worker.close(self._remove)

    # -- in the worker --------------------------------------------------------------------------------

    def _write(self, document: Document, kinds: Kinds, path: Path | None) -> None:
        folder = recovery_folder()
        try:
            if self._file is None:
                folder.mkdir(parents=True, exist_ok=True)
                held, self._handle = fresh(folder, "", LOCK)
                self._file = held.with_suffix(".reed")
            # Kept elsewhere than the weave's own file, so that its pictures are named from the root.
            moved = MoveHome(str(folder)).apply(document, kinds)
            self._file.with_suffix(LOCK).write_bytes(b"" if path is None else os.fsencode(path))
            save_document(moved, self._file, kinds)
        except (ReedError, OSError) as error:
            told = explain(error, folder, "write to") if isinstance(error, OSError) else error
            self.failed.emit(str(told))

    def _remove(self) -> None:
        if self._file is not None:
            _remove(self._file)
        if self._handle is not None:
            os.close(self._handle)
        self._file = self._handle = None


def left_behind() -> list[Kept]:
    """Kept work whose program has ended, oldest first; this program holds it from now on."""
    folder = recovery_folder()
    found: list[tuple[float, Path]] = []
    with suppress(OSError):
        whole = (f for f in folder.iterdir() if f.suffix == ".reed" and not f.name.startswith("."))
        found = [(_changed(file), file) for file in whole]
    kept = [_held(file) for _, file in sorted(found)]
    _clear_locks(folder)
    return [one for one in kept if one is not None]


def set_aside(kept: Kept) -> Path:
    """Put work that cannot be read where it does not ask again, and may still be looked at."""
    aside = kept.file.with_name(kept.file.name + BROKEN)
    with suppress(OSError):
        kept.file.replace(aside)
    kept.throw_away()
    return aside


def _changed(file: Path) -> float:
    try:
        return file.lstat().st_mtime
    except OSError:
        return 0.0


def _held(file: Path) -> Kept | None:
    """What a file holds, if nobody else has it."""
    held = file.with_suffix(LOCK)
    with suppress(OSError):
        held.touch(0o600, exist_ok=True)
    handle = lock(held)
    if handle is None:
        return None
    origin = None
    with suppress(OSError):
        text = held.read_bytes()[:4096]
        origin = Path(os.fsdecode(text)) if text and b"\0" not in text else None
    try:
        return Kept(file, handle, origin, load_document(file))
    except FileError as error:
        return Kept(file, handle, origin, None, str(error))


def _clear_locks(folder: Path) -> None:
    """Remove what programs that ended before they kept anything, or while they did, have left."""
    clear_leftovers(folder, "", LOCK, unless=lambda path: path.with_suffix(".reed").exists())
    with suppress(OSError):
        for start in {f.name.rpartition("-")[0] + "-" for f in folder.iterdir() if f.suffix == PART}:
            clear_leftovers(folder, start, PART)


def _remove(file: Path) -> None:
    for path in (file, file.with_name(file.name + PREVIOUS), file.with_suffix(LOCK)):
        with suppress(OSError):
            path.unlink(missing_ok=True)
