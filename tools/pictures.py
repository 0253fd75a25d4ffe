"""Renders docs/screenshots/ from the demo data, off screen, at 1280x800."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
for place in ("XDG_CONFIG_HOME", "REEDLOOM_STATE", "REEDLOOM_BOOK"):
    os.environ[place] = tempfile.mkdtemp(prefix="reedloom-pictures-")

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QWidget

from reedloom.data import shipped_weave
from reedloom.desk.frame.app import make_application
from reedloom.desk.frame.window import Window
from reedloom.desk.sheets.deliver_dialog import DeliverDialog
from reedloom.desk.sheets.try_sheet import TrySheet
from reedloom.kinds.catalogue import built_in_kinds
from reedloom.lit.state import VIEWPOINTS
from reedloom.weave.document import End
from reedloom.weave.edits import Disconnect, PackMotif

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


class Photographer:
    """A window, and what it takes to bring it into a state and keep its picture."""

    def __init__(self) -> None:
        self.window = Window()
        self.window.resize(1280, 800)
        self.window.show()
        self.workplace = self.window.workplace

    def wait(self) -> None:
        """Until nothing is computed any more."""
        for _ in range(600):
            loop = QEventLoop()
            QTimer.singleShot(100, loop.quit)
            loop.exec()
            if not self.workplace.busy:
                break
        loop = QEventLoop()
        QTimer.singleShot(200, loop.quit)
        loop.exec()

    def wait_for_light(self) -> None:
        """Until the lit view shows its finest frame."""
        canvas = self.window.views.lit.canvas
        self.wait()
        canvas.fine = False
        canvas.moved.emit(canvas.state)
        for _ in range(600):
            self.wait()
            if canvas.fine:
                break

    def demo(self) -> None:
        """Open the demo weave."""
        self.open("lakebed-clay")

    def open(self, name: str) -> None:
        """Open a shipped weave."""
        self.window.documents.open_now(shipped_weave(name), as_copy=True)
        self.wait()

    def node(self, name: str) -> str:
        """The id of the demo's node of that name."""
        return next(n.id for n in self.workplace.document.graph.nodes.values() if n.name == name)

    def node_here(self, name: str) -> str:
        """The id of the node of that name on the board as it stands."""
        return next(n.id for n in self.workplace.graph.nodes.values() if n.name == name)

    def take(self, name: str, focus: QWidget | None = None) -> None:
        """Keep the window's picture, with the board or another part of it under the keyboard."""
        (focus or self.window.board).setFocus()
        self.wait()
        self.window.grab().save(str(FOLDER / f"{name}.png"))
        print(FOLDER / f"{name}.png")


def empty(p: Photographer) -> None:
    p.take("empty")


def creel(p: Photographer) -> None:
    p.window.creel.open_family("noise")
    p.take("creel", focus=p.window.creel.flyout.rows)
    p.window.creel.flyout.close_up()


def workbench(p: Photographer) -> None:
    p.demo()
    p.window.views.show_view("lit")
    p.workplace.select({p.node("Crack width")})
    p.window.views.lit.canvas.change(light_set="low_sun", yaw=70.0, distance=3.3)
    p.wait_for_light()
    p.take("workbench")
    p.window.views.show_view("flat")


def finder(p: Photographer) -> None:
    p.workplace.select(())
    p.window.finder.open_with(
        "so", built_in_kinds(), p.window.board.mapTo(p.window.central, p.window.board.rect().center())
    )
    p.take("finder", p.window.finder.line)
    p.window.finder.close_quietly()


def commands(p: Photographer) -> None:
    p.window.actions_["find_command"].trigger()
    p.window.help.finder.line.setText("mo")
    p.take("commands", p.window.help.finder.line)
    p.window.help.finder.close_quietly()


def compare(p: Photographer) -> None:
    p.demo()
    p.workplace.pin("A", End(node=p.node("Height"), port="map"))
    p.workplace.pin("B", End(node=p.node("Base colour"), port="map"))
    p.workplace.select({p.node("Curled rim")})
    p.window.board.fit_selection()
    p.window.flat.repeat.setCurrentIndex(1)
    p.window.flat.repeat.activated.emit(1)
    for name in ("seam", "histogram"):
        p.window.flat.buttons[name].setChecked(True)
    p.take("compare")
    p.workplace.unpin()
    p.window.flat.repeat.setCurrentIndex(0)
    p.window.flat.repeat.activated.emit(0)
    for name in ("seam", "histogram"):
        p.window.flat.buttons[name].setChecked(False)


def linen(p: Photographer) -> None:
    p.demo()
    p.window.actions_["use_linen"].setChecked(True)
    p.workplace.select({p.node("Clay colours")})
    p.window.board.fit_selection()
    p.take("linen")
    p.window.actions_["use_linen"].setChecked(False)


def lit(p: Photographer) -> None:
    p.demo()
    p.window.views.show_view("both")
    p.window.actions_["large_view"].setChecked(True)
    p.workplace.select({p.node("Crack width")})
    p.window.views.lit.canvas.change(object="sheet", repeats=1)
    p.window.views.lit.canvas.look_from(VIEWPOINTS["sheet"]["Raked"])
    p.wait_for_light()
    p.take("lit")
    p.window.actions_["large_view"].setChecked(False)
    p.window.views.show_view("flat")


def stamps(p: Photographer) -> None:
    p.open("shoreline-pebbles")
    p.window.views.show_view("both")
    stones = p.node("Stones on stones")
    p.workplace.select({stones})
    p.window.board.fit_selection()
    p.window.views.lit.canvas.change(object="sheet", light_set="soft_window", repeats=1)
    p.window.views.lit.canvas.look_from(VIEWPOINTS["sheet"]["Close"])
    p.wait_for_light()
    p.take("stamps")


def materials(p: Photographer) -> None:
    p.open("beaten-bronze")
    mixed = p.node("Verdigris over bronze")
    p.workplace.select({mixed})
    p.window.board.fit_selection()
    p.window.views.show_view("lit")
    p.window.views.lit.canvas.change(object="ball", light_set="soft_window", repeats=2)
    p.window.views.lit.canvas.look_from(VIEWPOINTS["ball"]["Whole"])
    p.wait_for_light()
    p.take("materials")
    p.window.views.show_view("flat")


def wide(p: Photographer) -> None:
    p.open("hull-planks")
    p.window.views.show_view("both")
    p.workplace.select({p.node("Strakes")})
    p.window.board.fit_selection()
    p.window.views.lit.canvas.change(object="sheet", light_set="low_sun", repeats=1)
    p.window.views.lit.canvas.look_from(VIEWPOINTS["sheet"]["Close"])
    p.wait_for_light()
    p.take("wide")
    p.window.views.show_view("flat")


def paths(p: Photographer) -> None:
    p.open("lily-disc")
    p.window.views.show_view("lit")
    p.workplace.select({p.node("Fine fibres drawn")})
    p.wait_for_light()
    p.take("paths")
    p.window.views.show_view("flat")


def drawing(p: Photographer) -> None:
    p.open("net-cord-and-knots")
    p.window.views.show_view("both")
    p.window.actions_["large_view"].setChecked(True)
    p.workplace.select({p.node("Net as tied")})
    p.workplace.paths_in_hand.choose(frozenset({(1, 7)}))
    p.window.views.lit.canvas.change(distance=1.9)
    p.wait_for_light()
    p.take("drawing", focus=p.window.flat.canvas)
    p.window.actions_["large_view"].setChecked(False)
    p.window.views.show_view("flat")


def outline(p: Photographer) -> None:
    p.open("shoreline-pebbles")
    stone = p.node("Rounded stone")
    p.workplace.submit(Disconnect(End(node=stone, port="place")))
    p.workplace.select({stone})
    p.workplace.pin("A", End(node=stone, port="profile"))
    p.window.board.fit_selection()
    p.take("outline")
    p.workplace.unpin()
    p.workplace.session.mark_saved()


def deliver(p: Photographer) -> None:
    dialog = DeliverDialog(p.workplace, Path("/home/heronmere/maps"), p.window)
    dialog.show()
    p.wait()
    dialog.grab().save(str(FOLDER / "deliver.png"))
    dialog.close()


def dial_sheet(p: Photographer) -> None:
    p.open("beaten-bronze")
    p.window.views.show_view("lit")
    p.window.actions_["dial_sheet"].setChecked(True)
    p.wait_for_light()
    p.take("dial_sheet", focus=p.window.sheet.dials.rows["age"].editor)
    p.window.actions_["dial_sheet"].setChecked(False)


def colourways(p: Photographer) -> None:
    p.open("slip-glazed-jar")
    p.window.views.show_view("lit")
    p.window.panels.show_panel("colourways")
    p.window.column.setSizes([400, 360])
    p.window.colourways.put_on("honey")
    p.wait_for_light()
    p.wait()
    p.take("colourways")
    p.window.panels.show_panel("settings")
    p.window.column.setSizes([490, 270])
    p.window.views.show_view("flat")
    p.workplace.session.mark_saved()


def motif(p: Photographer) -> None:
    p.demo()
    names = (
        "Broad bend",
        "Broad bend across",
        "Ragged bend",
        "Bend right",
        "Bend down",
        "Bend finely",
        "Plates",
    )
    nodes = tuple(p.node(name) for name in names)
    p.workplace.submit(PackMotif("", nodes, "Bent plates", "bent_plates", "bent_plates_1"))
    p.window.motif_commands.go_into("bent_plates_1")
    p.workplace.select({p.node_here("Plates")})
    p.wait()
    p.take("motif")
    p.window.motif_commands.go_out()
    p.workplace.session.mark_saved()


def try_out(p: Photographer) -> None:
    p.open("shoreline-pebbles")
    sheet = TrySheet(p.workplace, p.window)
    for axis, dial in ((sheet.across, "tide"), (sheet.down, "silt")):
        axis.dial.setCurrentIndex(axis.dial.findData(dial))
        axis._fit()
    sheet.look.setCurrentIndex(sheet.look.findData("lit"))
    sheet.resize(1280, 800)
    sheet.show()
    while "results" not in sheet.state.text() or "Making" in sheet.state.text():
        p.wait()
    sheet.grid.setFocus()
    sheet.grid.choose(13)
    for _ in range(10):
        p.wait()
    sheet.grab().save(str(FOLDER / "try_out.png"))
    sheet.close()


def swatch_book(p: Photographer) -> None:
    p.window.reuse.swatch_book()
    book = p.window.reuse.book
    assert book is not None
    book.resize(1000, 560)
    while len(book.model.images) < len(book.model.shown) or not book.model.shown:
        p.wait()
    book.list.setCurrentIndex(book.model.index(1))
    p.wait()
    book.grab().save(str(FOLDER / "swatch_book.png"))
    book.hide()


SHOTS: tuple[Callable[[Photographer], None], ...] = (
    empty,
    creel,
    workbench,
    finder,
    commands,
    compare,
    linen,
    lit,
    stamps,
    materials,
    wide,
    paths,
    drawing,
    outline,
    deliver,
    dial_sheet,
    colourways,
    motif,
    try_out,
    swatch_book,
)


def main() -> None:
    """Take all pictures, or those named."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    application = make_application()
    photographer = Photographer()
    for shot in SHOTS:
        if len(sys.argv) < 2 or shot.__name__ in sys.argv[1:]:
            shot(photographer)
    photographer.workplace.session.mark_saved()
    photographer.window.close()
    application.quit()


if __name__ == "__main__":
    main()
