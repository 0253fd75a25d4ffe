"""Opening, saving, recent files, and the recovery of unsaved work after a crash."""

from __future__ import annotations

import contextlib
import os
import uuid
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QSettings, QTimer, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from reedloom.desk.screen.workplace import Workplace
from reedloom.errors import ReedError
from reedloom.logs import state_folder
from reedloom.weave.document import Document
from reedloom.weave.edits import MoveHome, SetDocument
from reedloom.weave.fileformat import load_document, save_document

RECENT_LIMIT = 10
RECOVERY_DELAY = 1500
"""Milliseconds after a change until it is safe from a crash."""
FILTER = "Weaves (*.reed)"


def recovery_folder() -> Path:
    """Where unsaved work is kept until it is saved or thrown away."""
    return state_folder() / "recovery"


class Documents(QObject):
    """The flows between the session and files; asks before anything is lost."""

    recent_changed = Signal()
    saved = Signal()

    def __init__(self, workplace: Workplace, window: QWidget) -> None:
        super().__init__(window)
        self.workplace, self.window_ = workplace, window
        self._recovery = recovery_folder() / f"{os.getpid()}-{uuid.uuid4().hex[:8]}.reed"
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(RECOVERY_DELAY)
        self._timer.timeout.connect(self._keep_recovery)
        workplace.document_changed.connect(lambda change: change.recorded and self._timer.start())

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
            document = load_document(path, self.workplace.kinds)
        except ReedError as error:
            self.explain("The weave was not opened", str(error))
            return False
        self._replace(document, None if as_copy else path.absolute())
        if not as_copy:
            self._remember(path)
        return True

    def _replace(self, document: Document, path: Path | None) -> None:
        self.drop_recovery()
        self.workplace.replace_document(document, path)

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
        return self._write(path if path.suffix == ".reed" else path.with_name(path.name + ".reed"))

    def _write(self, path: Path) -> bool:
        session = self.workplace.session
        home = MoveHome(str(path.absolute().parent))
        document = replace(home.apply(session.recorded, session.kinds), lit=self.workplace.lit_state)
        if document.name == "Untitled":
            document = replace(document, name=path.stem.replace("-", " ").replace("_", " ").capitalize())
        try:
            save_document(document, path, session.kinds)
        except ReedError as error:
            self.explain("The weave was not saved", str(error))
            return False
        session.amend(home)
        session.amend(SetDocument(name=document.name, lit=document.lit))
        session.mark_saved()
        self.workplace.path = path.absolute()
        self._remember(path)
        self.drop_recovery()
        self.saved.emit()
        self.workplace.message.emit(f"Saved as {path}", False)
        return True

    def may_leave(self) -> bool:
        """Whether the present weave may be left; asks if it has unsaved changes."""
        if self.workplace.session.is_saved:
            return True
        box = QMessageBox(self.window_)
        box.setWindowTitle("Unsaved changes")
        box.setText(f"“{self.workplace.document.name}” has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.setEscapeButton(stay)
        box.exec()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is drop

    def explain(self, title: str, text: str) -> None:
        """Say in a small window what went wrong."""
        QMessageBox.warning(self.window_, title, text)

    # -- recent files ---------------------------------------------------------------------------------

    def recent(self) -> list[Path]:
        """The files opened or saved last that are still there."""
        stored = QSettings().value("recent", [])
        names = [stored] if isinstance(stored, str) else stored if isinstance(stored, list) else []
        return [path for path in map(Path, names) if path.exists()][:RECENT_LIMIT]

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

    def _keep_recovery(self) -> None:
        """Write unsaved work beside, where the next start finds it."""
        session = self.workplace.session
        if session.is_saved:
            self.drop_recovery()
            return
        try:
            self._recovery.parent.mkdir(parents=True, exist_ok=True)
            # Kept elsewhere than the weave's own file, so that its pictures are named from the root.
            kept = MoveHome(str(self._recovery.parent)).apply(session.recorded, session.kinds)
            save_document(replace(kept, lit=self.workplace.lit_state), self._recovery, session.kinds)
            self._recovery.with_suffix(".path").write_text(str(self.workplace.path or ""))
        except (ReedError, OSError) as error:
            self.workplace.message.emit(f"Unsaved work cannot be kept safe: {error}", True)

    def drop_recovery(self) -> None:
        """Forget what was kept, once it is saved or thrown away."""
        self._timer.stop()
        for suffix in (".reed", ".path", ".reed.previous"):
            with contextlib.suppress(OSError):
                self._recovery.with_suffix(suffix).unlink(missing_ok=True)

    def offer_recovery(self) -> None:
        """Ask about work that an ended program left unsaved."""
        for kept in orphans():
            origin = _origin(kept)
            box = QMessageBox(self.window_)
            box.setWindowTitle("Unsaved work was found")
            box.setText(
                "Reed Loom ended without saving"
                + (f" changes to {origin.name}." if origin else " a new weave.")
                + " Take it up again?"
            )
            take = box.addButton("Take it up", QMessageBox.ButtonRole.AcceptRole)
            later = box.addButton("Ask me next time", QMessageBox.ButtonRole.RejectRole)
            drop = box.addButton("Throw it away", QMessageBox.ButtonRole.DestructiveRole)
            box.setEscapeButton(later)
            box.exec()
            if box.clickedButton() is take and self.recover(kept):
                return
            if box.clickedButton() is drop:
                _forget(kept)

    def recover(self, kept: Path) -> bool:
        """Open kept work as unsaved changes to the file it came from."""
        origin = _origin(kept)
        if not self.open_now(kept, as_copy=True):
            return False
        self.workplace.path = origin
        self.workplace.session.mark_unsaved()
        self.saved.emit()
        self._keep_recovery()
        _forget(kept)
        self.workplace.message.emit("Unsaved work was taken up again; save it to keep it.", False)
        return True


def orphans() -> list[Path]:
    """Kept work whose program no longer runs, oldest first."""
    found = []
    for kept in sorted(recovery_folder().glob("*.reed"), key=lambda p: p.stat().st_mtime):
        pid = kept.name.partition("-")[0]
        if not (pid.isdigit() and Path(f"/proc/{pid}").exists()):
            found.append(kept)
    return found


def _origin(kept: Path) -> Path | None:
    try:
        text = kept.with_suffix(".path").read_text()
    except OSError:
        return None
    return Path(text) if text else None


def _forget(kept: Path) -> None:
    for path in (kept, kept.with_suffix(".path"), kept.with_name(kept.name + ".previous")):
        with contextlib.suppress(OSError):
            path.unlink(missing_ok=True)
