"""Dials, colourways, motifs, the try-out sheet and the swatch book: what each may cost."""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import reedloom as rl
from benchmarks.timing import Row, best_of, limited, once
from benchmarks.window import rest, seconds_to_pictures, settle
from reedloom.data import shipped_weave
from reedloom.kit.parameters import Number
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.weave.book import scan
from reedloom.weave.dials import driven_by
from reedloom.weave.edits import Batch, SetParameters, TurnDials
from reedloom.weave.resolve import resolve
from reedloom.weave.states import side_by_side


def rows() -> Iterator[Row]:
    """One row for each aim."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    yield from colourways()
    yield from motifs()
    yield from book()
    yield from in_the_window()


def colourways() -> Iterator[Row]:
    """Five states of the pebbles that differ only in colour, beside one."""
    weave = rl.open_weave(shipped_weave("shoreline-pebbles"))
    rock = weave.document.dials["rock"].default
    flats = {
        str(n): resolve(
            weave.document, weave.kinds, None,
            {"rock": tuple((s[0], *(c * (1 - 0.1 * n) for c in s[1:])) for s in rock)},
        )
        for n in range(5)
    }  # fmt: skip

    def make(count: int) -> None:
        some = side_by_side(dict(list(flats.items())[:count]))
        evaluate_ends(some, some.ends.values(), 1024, cache=Cache(), keep=False)

    one = best_of(lambda: make(1), 3)
    five = best_of(lambda: make(5), 3)
    yield Row("five colourways of the pebbles, 1024², beside one", five, "1.6 of one", 1.6 * one, 1.0)


def motifs() -> Iterator[Row]:
    """A part of the clay packed and used fifty times."""
    weave = rl.open_weave(shipped_weave("lakebed-clay"))
    nodes = ("gradient_noise_1", "gradient_noise_2", "gradient_noise_3", "bend_place_1", "bend_place_2",
             "bend_place_3", "cellular_noise_1")  # fmt: skip
    weave.pack(nodes, "Bent plates")
    for _ in range(49):
        weave.use("Bent plates")
    document, kinds = weave.document, weave.kinds
    yield limited("a motif of 7 nodes used 50 times: resolved", best_of(lambda: fresh(document, kinds)), 0.02)
    weave.session.go(("bent_plates_1",))
    start = time.perf_counter()
    for n in range(10):
        weave.session.preview(SetParameters("cellular_noise_1", {"jitter": 0.1 + n / 20}))
        resolve(weave.document, weave.kinds)
    yield limited("the same, a value within dragged: edited and resolved",
                  (time.perf_counter() - start) / 10, 0.04)  # fmt: skip


def fresh(document: Any, kinds: Any) -> None:
    """Resolve a document that was not resolved before."""
    resolve(document, kinds, None, {"plates": 7})


def book() -> Iterator[Row]:
    """A folder of 500 weaves, looked at for the first time and again."""
    with tempfile.TemporaryDirectory() as folder:
        for number in range(500):
            shutil.copy(shipped_weave("lakebed-clay"), Path(folder) / f"clay-{number}.reed")
        yield limited("swatch book, 500 weaves looked at", once(lambda: scan(Path(folder))), 2.0)
        known = {entry.path: entry for entry in scan(Path(folder))}
        yield limited("swatch book, 500 weaves looked at again", once(lambda: scan(Path(folder), known)), 0.1)


def in_the_window() -> Iterator[Row]:
    """A dial that drives twenty values, and the try-out sheet of the pebbles."""
    from reedloom.desk.frame.app import make_application
    from reedloom.desk.frame.window import Window

    application = make_application()
    window = Window()
    window.resize(1280, 800)
    window.show()
    w = window.workplace
    w.replace_document(driven_clay().document, None)
    settle(w)
    driven = driven_by(w.document.graph.nodes, "one")
    taken = [seconds_to_coarse(window, TurnDials({"one": 0.02 + 0.1 * step})) for step in range(9)]
    by_hand = [
        seconds_to_coarse(window, Batch("Set", tuple(moved(w, n, p, 0.0005 * step) for n, p in driven)))
        for step in range(1, 10)
    ]
    alone = [seconds_to_coarse(window, TurnDials({"curl": 0.02 + 0.1 * step})) for step in range(9)]
    yield limited("a dial that drives 20 values of the clay, dragged, coarse", median(taken), 0.05)
    yield Row("the same beside the 20 values set by hand", median(taken), "by hand", median(by_hand), 0.9)
    yield limited("a dial that drives 2 values of the clay, dragged, coarse", median(alone), 0.05)
    yield from strip_of_twenty(window)
    yield from long_scroll(window)
    yield from try_out(window)
    w.session.mark_saved()
    window.close()
    application.processEvents()


def moved(w: Any, node_id: str, name: str, step: float) -> Any:
    """A number set a step higher, or lower where there is no room above."""
    value = w.flat.values(node_id)[name]
    top = w.kinds.of(w.graph.nodes[node_id]).parameter(name).hard[1]
    return SetParameters(node_id, {name: value + step if value + step <= top else value - step})


def strip_of_twenty(window: Any) -> Iterator[Row]:
    """Twenty colourways of the jar, whose pictures were made before, seen when the weave is opened again."""
    w = window.workplace
    weave = rl.open_weave(shipped_weave("slip-glazed-jar"))
    for number in range(16):
        weave.keep_colourway(f"Run {number}", running=number / 16)
    document = weave.document
    window.panels.show_panel("colourways")
    strip = window.colourways
    taken = 0.0
    for _ in range(2):
        w.replace_document(document, None)
        strip.images.clear()
        start = time.perf_counter()
        while len(strip.images) < 21:
            rest(5)
        taken = time.perf_counter() - start
        settle(w)
    window.panels.show_panel("settings")
    yield limited("20 colourways' pictures, opened again", taken, 0.5)


def long_scroll(window: Any) -> Iterator[Row]:
    """The swatch book scrolled over 500 weaves, a frame at a time."""
    from PySide6.QtCore import QSettings

    with tempfile.TemporaryDirectory() as folder:
        for number in range(500):
            shutil.copy(shipped_weave("lakebed-clay"), Path(folder) / f"clay-{number}.reed")
        before = QSettings().value("book/folders", [])
        QSettings().setValue("book/folders", [folder])
        window.reuse.swatch_book()
        book = window.reuse.book
        while len(book.model.shown) < 500:
            rest(20)
        bar, frames = book.list.verticalScrollBar(), []
        for step in range(60):
            start = time.perf_counter()
            bar.setValue(bar.maximum() * step // 60)
            book.list.viewport().grab()
            frames.append(time.perf_counter() - start)
            rest(2)
        QSettings().setValue("book/folders", before)
        book.close_down()
        book.hide()
        window.reuse.book = None
    yield limited("swatch book, 500 weaves scrolled, one frame, nine of ten", sorted(frames)[54], 1 / 60)


def median(values: list[float]) -> float:
    """The one in the middle."""
    return sorted(values)[len(values) // 2]


def seconds_to_coarse(window: Any, edit: Any) -> float:
    """How long a previewed edit takes to be seen."""
    w = window.workplace
    taken = seconds_to_pictures(window, edit, "coarse")["coarse"]
    settle(w)
    w.session.drop_preview()
    settle(w)
    return taken


def driven_clay() -> rl.Weave:
    """The clay with one dial that drives twenty numbers, each near where it was."""
    weave = rl.open_weave(shipped_weave("lakebed-clay"))
    weave.add_dial("one", default=0.5, useful=(0, 1))
    count = 0
    for node in tuple(weave.document.graph.nodes.values()):
        for parameter in weave.kinds.of(node).parameters:
            free = parameter.name not in node.formulas and not parameter.series
            if isinstance(parameter, Number) and parameter.word == "float" and free and count < 20:
                value = float(weave.kinds.value(node, parameter.name))
                weave.follow(node.id, parameter.name, f"{value!r} + (one - 0.5) * 0.01")
                count += 1
                break
    assert count == 20
    return weave


def try_out(window: Any) -> Iterator[Row]:
    """25 results over two dials, and over 25 arrangements."""
    from reedloom.desk.sheets.try_sheet import ARRANGEMENTS, NONE, TrySheet

    w = window.workplace
    for name, axes in (("dials", ("tide", "silt")), ("arrangements", (ARRANGEMENTS, NONE))):
        w.replace_document(rl.open_weave(shipped_weave("shoreline-pebbles")).document, None)
        settle(w)
        sheet = TrySheet(w, window)
        for axis, key in zip((sheet.across, sheet.down), axes, strict=True):
            axis.dial.setCurrentIndex(axis.dial.findData(key))
            axis._fit()
        made: list[tuple[float, bool]] = []
        ended: list[float] = []
        sheet.worker.made.connect(lambda r, n, i, fine, m=made: m.append((time.perf_counter(), fine)))
        sheet.worker.finished.connect(lambda r, e=ended: e.append(time.perf_counter()))
        start = time.perf_counter()
        sheet.show()
        while not ended:
            rest(10)
        coarse = [at for at, fine in made if not fine]
        yield limited(f"try out, 25 pebbles over {name}, all coarse", coarse[-1] - start, 1.0)
        yield limited(f"try out, 25 pebbles over {name}, all fine", ended[0] - start, 6.0)
        sheet.close()
