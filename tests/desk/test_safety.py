"""Nothing is lost, and nothing of a weave is taken for more than it is, in the real window."""

from __future__ import annotations

import ctypes
import os
import stat
import subprocess
import sys
import textwrap
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import msgspec
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QFileDialog,
    QLabel,
    QMessageBox,
    QToolTip,
    QWidget,
)
from pytestqt.qtbot import QtBot

import reedloom as rl
from conftest import Hands, answer_with
from reedloom.data import shipped_weave
from reedloom.desk.frame import recovery
from reedloom.desk.frame.recovery import left_behind, recovery_folder
from reedloom.desk.sheets.deliver_dialog import DeliverDialog
from reedloom.weave.document import (
    Bay,
    Colourway,
    Dial,
    End,
    Graph,
    Inlet,
    Motif,
    Node,
    Note,
    Outlet,
    Viewpoint,
)
from reedloom.weave.edits import AddNode, RemoveNodes, Tie
from reedloom.weave.fileformat import load_document, save_document

ENDED = """
import os, sys
from pathlib import Path
from reedloom.desk.frame.app import make_application
from reedloom.desk.frame.window import Window
from reedloom.weave.edits import AddNode
application = make_application()
window = Window()
w = window.workplace
if len(sys.argv) > 1:
    window.documents.open_now(Path(sys.argv[1]))
w.submit(AddNode("left", "disc"))
window.documents.keeper.keep()
window.documents.keeper.wait()
os.kill(os.getpid(), 9)
"""


def end_with_unsaved_work(*file: Path) -> None:
    """Another program that hangs a disc and is killed before it saves."""
    subprocess.run([sys.executable, "-c", ENDED, *map(str, file)], check=False, capture_output=True)


@contextmanager
def opened(folder: Path) -> Iterator[list[str]]:
    """The names of the files in a folder that anything opens meanwhile, as the system tells it."""
    libc = ctypes.CDLL(None, use_errno=True)
    watch = libc.inotify_init1(os.O_NONBLOCK)
    assert watch >= 0 and libc.inotify_add_watch(watch, os.fsencode(folder), 0x20) >= 0  # IN_OPEN
    found: list[str] = []
    try:
        yield found
    finally:
        try:
            data = os.read(watch, 1 << 16)
        except BlockingIOError:
            data = b""
        os.close(watch)
        while data:
            length = int.from_bytes(data[12:16], sys.byteorder)
            found.append(data[16 : 16 + length].rstrip(b"\0").decode())
            data = data[16 + length :]


def all_tagged(value: Any, tag: str) -> Any:
    """A part of a document with every text in it made a tag."""
    if isinstance(value, str):
        return tag
    if isinstance(value, msgspec.Struct):
        kept = {"id", "kind", "type", "data", "object", "light_set", "tone_mapping", "format", "normal_y"}
        names = [n for n in value.__struct_fields__ if n not in kept]
        return replace(value, **{n: all_tagged(getattr(value, n), tag) for n in names})
    if isinstance(value, dict):
        return {key: all_tagged(held, tag) for key, held in value.items()}
    return value


def tagged_weave(tag: str) -> Any:
    """A weave whose every text is a tag: names, titles, notes, files, kinds, ids of what may have any."""
    weave = rl.Weave()
    for kind in ("gradient_noise", "blur", "picture", "formula"):
        weave.add(kind)
    weave.connect("gradient_noise_1", "blur_1")
    weave.tie("blur_1", "height")
    weave.set("picture_1", file=tag)
    document = weave.document
    nodes = {key: replace(node, name=tag) for key, node in document.graph.nodes.items()}
    nodes[tag.replace(".", ",")] = replace(
        nodes["blur_1"], id=tag.replace(".", ","), kind=tag, parameters={tag: tag}
    )
    graph = replace(
        document.graph,
        nodes=nodes,
        bays={tag: Bay(id=tag, title=tag, width=900.0, height=900.0)},
        notes={tag: Note(id=tag, text=tag)},
    )
    notch = tag.replace(".", ",")
    inner = Graph(
        nodes={notch: Node(id=notch, kind="inlet.grey", name=tag)}, ends={tag: End(node=notch, port="value")}
    )
    parts = {
        "dials": {tag: all_tagged(Dial(), tag)},
        "colourways": {tag: all_tagged(Colourway(), tag)},
        "viewpoints": {tag: Viewpoint()},
        "motifs": {notch: replace(all_tagged(Motif(), tag), synonyms=(tag,), inlets={notch: Inlet(label=tag)},
                                  outlets={tag: Outlet(label=tag)}, graph=inner)},
    }  # fmt: skip
    return replace(document, name=tag, graph=graph, extras={tag: tag}, **parts)


def rest_on_everything(widget: QWidget) -> None:
    """Show every tooltip there is, of widgets, actions and items of lists."""
    for part in (widget, *widget.findChildren(QWidget)):
        texts = [part.toolTip(), *(action.toolTip() for action in part.actions())]
        if isinstance(part, QAbstractItemView) and part.model() is not None:
            model = part.model()
            texts += [
                str(model.index(row, 0).data(Qt.ItemDataRole.ToolTipRole) or "")
                for row in range(model.rowCount())
            ]
        for text in filter(None, texts):
            QToolTip.showText(widget.mapToGlobal(widget.rect().center()), text, widget)
            for tip in QApplication.topLevelWidgets():
                tip.grab() if tip.isVisible() and isinstance(tip, QLabel) else None


def test_no_text_of_a_weave_is_taken_for_markup(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    secret = tmp_path / "kept" / "secret.png"
    secret.parent.mkdir()
    secret.write_bytes(b"\x89PNG")
    tag, window = f"<img src='file://{secret}'> & <b>", hands.window
    file = tmp_path / "tagged.reed"
    save_document(tagged_weave(tag), file)
    odd = tmp_path / "<img src=kept&secret.png>.reed"
    odd.write_bytes(file.read_bytes())
    refused = tmp_path / "refused.reed"
    refused.write_text(file.read_text().replace('"parameters": {', f'"parameters": {{"{tag}": 1, ', 1))
    said: list[str] = []

    def look(box: QMessageBox) -> int:
        box.show()
        QApplication.processEvents()
        box.grab()
        box.close()
        said.append(box.text())
        return 0

    monkeypatch.setattr(QMessageBox, "exec", look)
    with opened(secret.parent) as found:
        assert window.documents.open_now(odd) and window.documents.open_now(file)
        assert not window.documents.open_now(refused) and tag[:20] in said[0]
        hands.wait_until_done()
        for node_id in hands.workplace.graph.nodes:
            hands.workplace.select({node_id})
            hands.wait_until_done()
            rest_on_everything(window)
            window.grab()
        hands.workplace.message.emit(tag, True)
        DeliverDialog(hands.workplace, tmp_path, window).grab()
        rest_on_everything(window)
        window.grab()
    assert found == []
    with opened(secret.parent) as found:  # the watch itself can see
        QToolTip.showText(window.pos(), tag, window)
        QApplication.processEvents()
        secret.read_bytes()
    assert found


def test_at_most_two_seconds_are_lost_however_busy_the_hands(hands: Hands, qtbot: QtBot) -> None:
    disc = hands.hang("disc")
    keeper = hands.window.documents.keeper
    waited = 0
    while not list(recovery_folder().glob("[!.]*.reed")):  # a change more often than the delay
        hands.set_number("radius", f"0.{100 + waited}")
        qtbot.wait(recovery.DELAY // 8)
        waited += 1
        assert waited < 40, "the changes put the keeping off"
    keeper.wait()
    (kept,) = recovery_folder().glob("[!.]*.reed")
    assert disc in load_document(kept).graph.nodes
    assert left_behind() == []  # its program still runs


def test_work_of_a_killed_program_is_taken_up_without_a_moment_in_which_it_is_nowhere(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    file = tmp_path / "mat.reed"
    save_document(rl.Weave().document, file)
    end_with_unsaved_work(file)
    (kept,) = recovery_folder().glob("[!.]*.reed")
    # As on a full disk: nothing can be written from here on.
    full_disk = pytest.MonkeyPatch()
    full_disk.setattr(recovery, "save_document", lambda *a: pytest.fail("the old copy is enough"))
    asked = answer_with(monkeypatch, "Take it up")
    hands.window.documents.offer_recovery()
    assert "mat.reed" in asked[0] and "left" in hands.workplace.graph.nodes
    assert hands.workplace.path == file and not hands.workplace.session.is_saved
    assert kept.exists() and left_behind() == []
    full_disk.undo()
    hands.press("save")
    assert not kept.exists() and not list(recovery_folder().iterdir())
    assert "left" in load_document(file).graph.nodes


def test_bad_files_among_kept_work_hide_nothing(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    end_with_unsaved_work()
    folder = recovery_folder()
    (whole,) = folder.glob("[!.]*.reed")
    (folder / "00000000.reed").write_bytes(whole.read_bytes()[:300])
    (folder / "11111111.reed").symlink_to(folder / "nowhere")
    for bad in ("00000000.reed", "11111111.reed"):  # older ones are asked about first
        os.utime(folder / bad, (0, 0), follow_symlinks=False)
    (folder / f".{whole.name}-12345678.part").write_bytes(b"half")
    (folder / "22222222.lock").touch()
    said: list[str] = []
    answers = iter(["OK", "OK", "Take it up"])

    def answer(box: QMessageBox) -> int:
        said.append(box.text())
        label = next(answers)
        chosen = next(b for b in box.buttons() if b.text() == label)
        monkeypatch.setattr(QMessageBox, "clickedButton", lambda _: chosen)
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answer)
    hands.window.documents.offer_recovery()
    assert "left" in hands.workplace.graph.nodes
    assert sum("put aside" in text for text in said) == 2
    names = {path.name for path in folder.iterdir()}
    assert not {f".{whole.name}-12345678.part", "22222222.lock"} & names
    hands.window.documents.offer_recovery()  # what was put aside does not ask again
    assert len(said) == 3


def test_what_cannot_be_kept_is_told_every_time(hands: Hands, tmp_path: Path) -> None:
    (tmp_path / "state").mkdir(exist_ok=True)
    recovery_folder().write_text("a file in the folder's place")
    told: list[str] = []
    hands.workplace.message.connect(lambda text, warning: told.append(text) if warning else None)
    hands.hang("disc")
    for _ in range(2):
        hands.window.documents.keeper.keep()
        hands.window.documents.keeper.wait()
        QApplication.processEvents()
    assert len([t for t in told if "cannot be kept safe" in t]) == 2


def test_the_second_window_on_a_file_is_asked(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, tmp_path: Path, qtbot: QtBot
) -> None:
    from reedloom.desk.frame.window import Window

    file = tmp_path / "mat.reed"
    save_document(load_document(shipped_weave("lakebed-clay")), file)
    assert hands.window.documents.open_now(file)
    second = Window()
    qtbot.addWidget(second, before_close_func=lambda w: w.workplace.session.mark_saved())
    asked = answer_with(monkeypatch, "Leave it")
    assert not second.documents.open_now(file) and "another window" in asked[0]
    answer_with(monkeypatch, "Open a copy")
    assert second.documents.open_now(file) and second.workplace.path is None
    answer_with(monkeypatch, "Open it here too")
    assert second.documents.open_now(file) and second.workplace.path == file
    second.workplace.submit(an_edit())
    assert second.documents.save()
    asked = answer_with(monkeypatch, "Do not save")
    hands.workplace.submit(an_edit())
    assert not hands.window.documents.save() and "changed by another program" in asked[0]
    answer_with(monkeypatch, "Replace it")
    assert hands.window.documents.save()


def an_edit() -> Any:
    """Some edit."""
    return AddNode("more", "disc")


def test_a_protected_file_is_saved_only_if_its_owner_says_so(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    file = tmp_path / "mat.reed"
    save_document(rl.Weave().document, file)
    file.chmod(0o444)
    before = file.read_bytes()
    assert hands.window.documents.open_now(file)
    hands.hang("disc")
    asked = answer_with(monkeypatch, "Do not save")
    assert not hands.window.documents.save() and file.read_bytes() == before
    assert "write-protected" in asked[0]
    answer_with(monkeypatch, "Save all the same")
    assert hands.window.documents.save() and file.read_bytes() != before
    assert stat.S_IMODE(file.stat().st_mode) == 0o444


def test_a_file_that_is_none_of_ours_is_refused_in_a_sentence(
    hands: Hands, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    os.mkfifo(tmp_path / "pipe.reed")
    with (tmp_path / "sparse.reed").open("wb") as file:
        file.truncate(2**40)
    (tmp_path / "folder.reed").mkdir()
    said = answer_with(monkeypatch, "OK")
    for path in (*sorted(tmp_path.glob("*.reed")), Path("/dev/zero"), tmp_path / ("x" * 300), Path("a\0b")):
        assert not hands.window.documents.open_now(path)
    assert len(said) == 6 and all(text.endswith(".") for text in said)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "pipe.reed"), ""))
    hands.hang("disc")
    assert not hands.window.documents.save_as()
    assert stat.S_ISFIFO((tmp_path / "pipe.reed").stat().st_mode)


def test_sources_make_labels_and_tooltips_only_where_they_are_plain() -> None:
    import reedloom.desk

    root = Path(reedloom.desk.__path__[0])
    for path in root.rglob("*.py"):
        text = textwrap.dedent(path.read_text())
        if path.name != "words.py" or path.parent.name != "look":
            for word in (
                "QLabel",
                ".setToolTip(",
                "QMessageBox",
                "setWhatsThis",
                "QErrorMessage",
                "setStatusTip",
            ):
                assert word not in text.replace("super().setToolTip(", ""), f"{path.name}: {word}"


def test_a_folder_that_cannot_be_looked_into_is_said_in_the_dialog(hands: Hands, tmp_path: Path) -> None:
    node = hands.hang("disc")
    hands.workplace.submit(Tie(End(node=node, port="profile"), "height"))
    dialog = DeliverDialog(hands.workplace, tmp_path, hands.window)
    assert dialog.go.isEnabled()
    for folder in (str(tmp_path / ("x" * 300)), "~nobody-has-this-name", "a\0b"):
        dialog.folder.setText(folder)
        assert not dialog.go.isEnabled() or "\0" in folder
        assert dialog.warning.text().startswith("Cannot ") or "\0" in folder
    dialog.folder.setText(str(tmp_path))
    order = dialog.plan()
    order.files[0].mkdir()  # after it was looked at
    dialog._start()
    hands.bot.waitUntil(lambda: dialog.stop is None, timeout=10_000)
    assert "a folder of that name is there" in dialog.warning.text()


def test_small_pictures_of_deleted_nodes_go(hands: Hands) -> None:
    node = hands.hang("disc")
    hands.wait_until_done()
    assert any(end.node == node for end in hands.workplace.looks)
    hands.workplace.submit(RemoveNodes((node,)))
    hands.wait_until_done()
    assert not hands.workplace.looks and not hands.workplace.view_arrays
