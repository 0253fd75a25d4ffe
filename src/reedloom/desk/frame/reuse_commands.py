"""What the commands do that have to do with dials, colourways, the dial sheet and trying out."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QPointF, Qt
from PySide6.QtWidgets import QInputDialog

from reedloom.data import FOLDER
from reedloom.delivery.names import plain_name
from reedloom.desk.frame.commands import COMMANDS
from reedloom.desk.frame.docking import SHARES
from reedloom.desk.look.words import ask
from reedloom.errors import ReedError
from reedloom.weave.book import as_piece, look_for_newer, motif_document, user_book
from reedloom.weave.document import Document
from reedloom.weave.edits import BringPiece, MoveHome, PullMotif
from reedloom.weave.fileformat import save_document
from reedloom.weave.motifs import used_motif
from reedloom.weave.pieces import place_piece

if TYPE_CHECKING:
    from reedloom.desk.frame.window import Window
    from reedloom.desk.sheets.book_sheet import BookSheet

OF_THE_BOARD = {command.method for command in COMMANDS if command.menu == "Board" or command.board} | {
    "duplicate", "duplicate_tied", "pin_a", "pin_b", "try_values", "copy_value", "paste_value", "make_dial",
    "write_formula", "let_go", "large_view", "view_apart", "settings_apart", "focus_board", "focus_settings",
    "focus_creel",
}  # fmt: skip
"""Commands that do nothing on the dial sheet, where the board is out of sight."""


class ReuseCommands(QObject):
    """Commands of the window for those who make a surface to be used, and those who use it."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self.window_, self.workplace = window, window.workplace
        self.book: BookSheet | None = None

    def copy_value(self) -> None:
        """Put the value that has the keyboard on the clipboard."""
        self.window_.settings.reuse_focused("copy")

    def paste_value(self) -> None:
        """Give the value on the clipboard to the parameter that has the keyboard."""
        self.window_.settings.reuse_focused("paste")

    def make_dial(self) -> None:
        """Make a dial of the value that has the keyboard."""
        self.window_.settings.reuse_focused("dial")

    def write_formula(self) -> None:
        """Write a formula for the value that has the keyboard."""
        self.window_.settings.reuse_focused("formula")

    def let_go(self) -> None:
        """Let the value that has the keyboard follow nothing any more."""
        self.window_.settings.reuse_focused("free")

    def keep_colourway(self) -> None:
        """Keep the dials as they are turned under a name."""
        if self.workplace.document.dials:
            self.window_.colourways.keep_new()
        else:
            self.workplace.message.emit("There are no dials yet; make one in the settings first.", True)

    def try_out(self) -> None:
        """Show a grid of results over dials or arrangements."""
        if not self.workplace.document.graph.ends:
            self.workplace.message.emit("Tie something to the map rail first; there is nothing to see.", True)
            return
        from reedloom.desk.sheets.try_sheet import TrySheet  # not needed before the window is there

        sheet = TrySheet(self.workplace, self.window_)
        sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        sheet.open()

    def next_colourway(self) -> None:
        """Put the next colourway on."""
        self.window_.colourways.step(1)

    def dial_sheet(self, on: bool) -> None:
        """Show only the view, the dials, the colourways and the maps; or the board again."""
        for name in ("large_view", "view_apart", "settings_apart"):
            if on:
                self.window_.actions_[name].setChecked(False)
        for name, action in self.window_.actions_.items():
            if name in OF_THE_BOARD:
                action.setEnabled(not on)
        for tool in self.window_.views.place_buttons.values():
            tool.setVisible(not on)
        self.window_.rail.locked = on
        self.window_.rail.refresh()
        if on:
            self.workplace.select(())
            self.workplace.go(())
            self.window_.pages.setCurrentWidget(self.window_.sheet)
            self.window_.sheet.take([self.window_.views, self.window_.rail])
            return
        self.window_.column.insertWidget(0, self.window_.views)
        self.window_.middle.addWidget(self.window_.rail)
        self.window_.column.setSizes(list(SHARES))
        self.window_.views.show()
        self.window_.pages.setCurrentWidget(self.window_.central)
        self.window_.board.setFocus()

    def focus_dials(self) -> None:
        """Give the keyboard to the first dial."""
        if self.window_.on_sheet:
            self.window_.sheet.dials.focus_first()
            return
        self.window_.panels.show_panel("dials")
        self.window_.dials.focus_first()

    def focus_colourways(self) -> None:
        """Give the keyboard to the colourways."""
        if self.window_.on_sheet:
            self.window_.sheet.colourways.focus_first()
            return
        self.window_.panels.show_panel("colourways")
        self.window_.colourways.focus_first()

    # -- the swatch book ------------------------------------------------------------------------------

    def swatch_book(self) -> None:
        """Show shipped and own weaves and motifs as pictures."""
        from reedloom.desk.sheets.book_sheet import BookSheet  # not needed before the window is there

        if self.book is None:
            self.book = BookSheet(self.workplace, self.window_)
            self.book.open_asked.connect(self.open_from_book)
            self.book.hang_asked.connect(self.hang_from_book)
            self.book.keep_asked.connect(self.keep_in_folder)
        self.book.model.look()
        self.book.show()
        self.book.raise_()
        self.book.activateWindow()

    def open_from_book(self, path: Path) -> None:
        """Open a weave of the book on its dial sheet; a shipped one as a copy."""
        documents = self.window_.documents
        shipped = path.is_relative_to(FOLDER)
        if documents.may_leave() and documents.open_now(path, as_copy=shipped):
            self.window_.actions_["dial_sheet"].setChecked(bool(self.workplace.document.dials))
            if self.book is not None:
                self.book.hide()

    def hang_from_book(self, path: Path, place: QPointF | None = None) -> None:
        """Hang what a file of the book holds on the board, as a motif."""
        w, board = self.workplace, self.window_.board
        self.window_.actions_["dial_sheet"].setChecked(False)
        try:
            piece = as_piece(path, w.session.base_kinds)
        except ReedError as error:
            w.message.emit(str(error), True)
            return
        at = board.free_place(place or board.pointer_place())
        use = next(iter(piece.graph.nodes.values()))
        shift = (round(at.x()) - use.x, round(at.y()) - use.y)
        edit, names = place_piece(w.graph, piece.graph, shift, label=f"Hang {path.stem}")
        if w.submit(BringPiece(w.session.motif, edit, piece)):
            w.select(names.values())
            board.ensure_seen(next(iter(names.values())))
            board.setFocus()

    def keep_in_book(self) -> None:
        """Keep the selected motif, or the whole weave, in the user's own folder of the book."""
        self.keep_in_folder(user_book())

    def keep_in_folder(self, folder: Path) -> None:
        """Keep the selected motif, or the whole weave, in a folder of the book."""
        w = self.workplace
        node = w.selected_node
        key = used_motif(w.graph.nodes[node].kind) if node is not None else ""
        if key in w.document.motifs:
            document, what = motif_document(w.document, key, w.session.base_kinds), "motif"
        else:
            document, what = replace(w.document, lit=w.lit_state), "weave"
        suggested = f"{document.general}, {document.name}" if document.general else document.name
        text, done = QInputDialog.getText(
            self.window_, f"Keep the {what} in the swatch book",
            "Name; a general one may stand first, as in “Stone, shoreline pebbles”:", text=suggested,
        )  # fmt: skip
        if not done or not text.strip():
            return
        general, _, particular = text.strip().partition(",")
        if not particular.strip():
            general, particular = "", general
        document = _named(document, key, general.strip(), particular.strip())
        path = folder / f"{plain_name(particular).replace('_', '-')}.reed"
        answers = {"stay": "Do not keep it", "go": "Replace it"}
        question = f"{path.name} is in the book already."
        if path.exists() and ask(self.window_, "There is one", question, answers, stay="stay") == "stay":
            return
        try:
            folder.mkdir(parents=True, exist_ok=True)
            save_document(MoveHome(str(folder)).apply(document, w.kinds), path, w.session.base_kinds)
        except (ReedError, OSError) as error:
            w.message.emit(str(error), True)
            return
        w.message.emit(f"Kept in the swatch book as {path}", False)
        if self.book is not None:
            self.book.model.look()

    def pull_motif(self) -> None:
        """See whether the book has a newer version of the selected motif, and take it if wanted."""
        w = self.workplace
        node = w.selected_node
        key = used_motif(w.graph.nodes[node].kind) if node is not None else w.session.motif
        if key not in w.document.motifs:
            w.message.emit("Select the card of a motif first.", True)
            return
        try:
            newer = look_for_newer(w.document, key, w.session.base_kinds)
        except ReedError as error:
            w.message.emit(str(error), True)
            return
        if newer is None:
            w.message.emit("The swatch book has no newer version of this motif.", False)
            return
        told = "\n".join(f"· {change}" for change in newer.changes[:14])
        lost = "\n\nIt was changed here too; those changes would be lost." if newer.own else ""
        answers = {"take": "Take it", "stay": "Leave it as it is"}
        title = "A newer version is in the book"
        if ask(self.window_, title, f"What would change:\n{told}{lost}", answers, stay="stay") == "take":
            w.submit(PullMotif(key, newer.piece, newer.key))

    def close_down(self) -> None:
        """End the threads of the book."""
        if self.book is not None:
            self.book.close_down()


def _named(document: Document, motif: str, general: str, particular: str) -> Document:
    """A document of the book under another name, and its motif too if it keeps one."""
    document = replace(document, general=general, name=particular)
    if motif not in document.motifs:
        return document
    named = replace(document.motifs[motif], general=general, title=particular)
    return replace(document, motifs=document.motifs | {motif: named})
