"""Opening, saving, recent files, and the recovery of unsaved work after a crash."""

from __future__ import annotations

import hashlib
import os
from contextlib import suppress
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QSettings, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from reedloom.desk.frame.recovery import Keeper, Kept, left_behind, set_aside
from reedloom.desk.look.words import ask, tell
from reedloom.desk.screen.workplace import Workplace
from reedloom.errors import ProtectedError, ReedError
from reedloom.files import lock
from reedloom.logs import state_folder
from reedloom.weave.document import Document
from reedloom.weave.edits import MoveHome, SetDocument
from reedloom.weave.fileformat import load_document, save_document

RECENT_LIMIT = 10
FILTER = "Weaves (*.reed)"


Stamp = tuple[int, int, int]
"""What tells a file's present content from that of another time."""


class Documents(QObject):
    """The flows between the session and files; asks before anything is lost."""

    recent_changed = Signal()
    saved = Signal()

    def __init__(self, workplace: Workplace, window: QWidget) -> None:
        super().__init__(window)
        self.workplace, self.window_ = workplace, window
        self.keeper = Keeper(workplace)
        self.keeper.failed.connect(
            lambda why: workplace.message.emit(f"Unsaved work cannot be kept safe: {why}", True)
        )
        self._lock: int | None = None
        self._mark = Path()
        self._stamp: Stamp | None = None

    # -- opening --------------------------------------------------------------------------------------

    def new(self) -> None:
        """Begin an empty weave."""
        if self.may_leave():
            self._replace(Document(), None)

    def open(self, path: Path | None = None) -> None:
        """Open a file, asked for if none is given."""
        if not self.may_leave():
            return
        if path is None:
            text, _ = QFileDialog.getOpenFileName(self.window_, "Open a weave", str(self._folder()), FILTER)
            if not text:
                return
            path = Path(text)
        self.open_now(path)

    def open_now(self, path: Path, as_copy: bool = False) -> bool:
        """Open a file without asking; what cannot be opened is explained and changes nothing."""
        try:
            document = load_document(path, self.workplace.session.base_kinds)
        except ReedError as error:
            self.explain("The weave was not opened", str(error))
            return False
        if not as_copy and path.absolute() != self.workplace.path and _is_open(path):
            answers = {"copy": "Open a copy", "too": "Open it here too", "stay": "Leave it"}
            text = f"{path.name} is open in another window, where it may be changed and saved."
            answer = ask(self.window_, "The weave is open already", text, answers, stay="stay")
            if answer == "stay":
                return False
            as_copy = answer == "copy"
        self._replace(document, None if as_copy else path.absolute())
        if not as_copy:
            self._remember(path)
        return True

    def _replace(self, document: Document, path: Path | None) -> None:
        self.keeper.drop()
        self.workplace.replace_document(document, path)
        self._hold(path)

    def _hold(self, path: Path | None) -> None:
        """Be the window that a file is open in, and remember what the file is like."""
        if self._lock is not None:
            with suppress(OSError):
                self._mark.unlink(missing_ok=True)
            os.close(self._lock)
        self._lock, self._stamp = None, None
        if path is not None:
            self._mark = _open_mark(path)
            self._lock, self._stamp = _lock_open(self._mark), _stamp(path)

    # -- saving ---------------------------------------------------------------------------------------

    def save(self) -> bool:
        """Save to the weave's file, asked for if it has none."""
        return self.save_as() if self.workplace.path is None else self._write(self.workplace.path)

    def save_as(self) -> bool:
        """Save to another file."""
        name = self.workplace.document.name.lower().replace(" ", "-").replace("/", "-")
        start = self.workplace.path or self._folder() / f"{name}.reed"
        text, _ = QFileDialog.getSaveFileName(self.window_, "Save the weave", str(start), FILTER)
        if not text:
            return False
        path = Path(text)
        path = path if path.suffix == ".reed" else path.with_name(path.name + ".reed")
        if path.absolute() != self.workplace.path and _is_open(path):
            text = f"{path.name} is open in another window, which would not know of it."
            answers = {"stay": "Do not save", "go": "Replace it"}
            if ask(self.window_, "The file is open already", text, answers, stay="stay") == "stay":
                return False
        return self._write(path)

    def _may_write(self, path: Path) -> bool:
        """Whether the weave's own file is still as this window left it; asks if it is not."""
        now = _stamp(path)
        if path.absolute() != self.workplace.path or now is None or now == self._stamp:
            return True
        text = f"{path.name} was changed by another program since it was opened or saved here."
        answers = {"stay": "Do not save", "go": "Replace it"}
        return ask(self.window_, "The file has changed", text, answers, stay="stay") == "go"

    def _write(self, path: Path, force: bool = False) -> bool:
        if not force and not self._may_write(path):
            return False
        session = self.workplace.session
        home = MoveHome(str(path.absolute().parent))
        document = replace(home.apply(session.recorded, session.kinds), lit=self.workplace.lit_state)
        if document.name == "Untitled":
            document = replace(document, name=path.stem.replace("-", " ").replace("_", " ").capitalize())
        try:
            save_document(document, path, session.kinds, force)
        except ProtectedError:
            text = f"{path.name} is write-protected. Save all the same? It stays protected."
            answers = {"stay": "Do not save", "go": "Save all the same"}
            answer = ask(self.window_, "The file is write-protected", text, answers, stay="stay")
            return answer == "go" and self._write(path, force=True)
        except ReedError as error:
            self.explain("The weave was not saved", str(error))
            return False
        session.amend(home)
        session.amend(SetDocument(name=document.name, lit=document.lit))
        session.mark_saved()
        self.workplace.path = path.absolute()
        self._hold(path.absolute())
        self._remember(path)
        self.keeper.drop()
        self.saved.emit()
        self.workplace.message.emit(f"Saved as {path}", False)
        return True

    def may_leave(self) -> bool:
        """Whether the present weave may be left; asks if it has unsaved changes."""
        if self.workplace.session.is_saved:
            return True
        answer = ask(
            self.window_,
            "Unsaved changes",
            f"“{self.workplace.document.name}” has changes that are not saved.",
            {"save": "Save", "drop": "Leave without saving", "stay": "Stay"},
            stay="stay",
        )
        return self.save() if answer == "save" else answer == "drop"

    def explain(self, title: str, text: str) -> None:
        """Say in a small window what went wrong."""
        tell(self.window_, title, text)

    # -- recent files ---------------------------------------------------------------------------------

    def recent(self) -> list[Path]:
        """The files opened or saved last that are still there."""
        stored = QSettings().value("recent", [])
        names = [stored] if isinstance(stored, str) else stored if isinstance(stored, list) else []
        return [path for path in map(Path, names) if _stamp(path) is not None][:RECENT_LIMIT]

    def _remember(self, path: Path) -> None:
        path = path.absolute()
        names = [str(p) for p in [path, *(p for p in self.recent() if p != path)]]
        QSettings().setValue("recent", names[:RECENT_LIMIT])
        self.recent_changed.emit()

    def _folder(self) -> Path:
        if self.workplace.path is not None:
            return self.workplace.path.parent
        recent = self.recent()
        return recent[0].parent if recent else Path.home()

    # -- recovery -------------------------------------------------------------------------------------

    def offer_recovery(self) -> None:
        """Ask about work that an ended program left unsaved."""
        found = left_behind()
        while found:
            kept = found.pop(0)
            if kept.document is None:
                aside = set_aside(kept)
                self.explain("Unsaved work cannot be read", f"{kept.trouble} It was put aside as '{aside}'.")
                continue
            answer = self._ask_about(kept)
            if answer == "take" and self.recover(kept):
                break
            if answer == "drop":
                kept.throw_away()
            else:
                kept.let_go()
        for kept in found:
            kept.let_go()

    def _ask_about(self, kept: Kept) -> str:
        of = f" changes to {kept.origin.name}" if kept.origin else " a new weave"
        answers = {"take": "Take it up", "later": "Ask me next time", "drop": "Throw it away"}
        text = f"Reed Loom ended without saving{of}. Take it up again?"
        return ask(self.window_, "Unsaved work was found", text, answers, stay="later")

    def recover(self, kept: Kept) -> bool:
        """Open kept work as unsaved changes to the file it came from."""
        if kept.document is None or not self.may_leave():
            return False
        self.keeper.take_over(kept)
        self.workplace.replace_document(kept.document, kept.origin)
        self._hold(kept.origin)
        self.workplace.session.mark_unsaved()
        self.saved.emit()
        self.workplace.message.emit("Unsaved work was taken up again; save it to keep it.", False)
        return True

    def close_down(self) -> None:
        """Forget kept work and let go of the weave's file; the window closes."""
        self.keeper.close()
        self._hold(None)


def _stamp(path: Path) -> Stamp | None:
    try:
        state = path.stat()
    except (OSError, ValueError):
        return None
    return (state.st_ino, state.st_size, state.st_mtime_ns)


def _open_mark(path: Path) -> Path:
    """The file whose lock says that a weave's file is open in a window."""
    name = hashlib.blake2b(os.fsencode(os.path.realpath(path)), digest_size=12).hexdigest()
    return state_folder() / "open" / name


def _lock_open(mark: Path) -> int | None:
    with suppress(OSError):
        mark.parent.mkdir(parents=True, exist_ok=True)
        mark.touch(0o600)
    return lock(mark)


def _is_open(path: Path) -> bool:
    """Whether a window of this or another program holds a file."""
    mark = _open_mark(path)
    if not mark.exists():
        return False
    handle = lock(mark)
    if handle is None:
        return True
    with suppress(OSError):
        mark.unlink()  # of a program that ended
    os.close(handle)
    return False
