"""The deliver dialog: which maps, how large, in what format, under which names, and the progress."""

from __future__ import annotations

import time
from pathlib import Path

from PySide6.QtCore import QSettings, QUrl, Signal
from PySide6.QtGui import QCloseEvent, QDesktopServices
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from reedloom.delivery.encode import FORMATS
from reedloom.delivery.names import TOKENS
from reedloom.delivery.recipe import NORMAL_Y, Delivered, Order, carry_out, dressed, plan_delivery, taken
from reedloom.desk.look.words import Words, action_text, set_tip
from reedloom.desk.screen.latest import LatestOnly
from reedloom.desk.screen.workplace import Workplace
from reedloom.errors import Cancelled, ReedError
from reedloom.files import home_path
from reedloom.kernels.jit import Stop
from reedloom.kit.channels import CHANNELS
from reedloom.weave.check import SIZE_LIMIT
from reedloom.weave.document import Recipe
from reedloom.weave.edits import SetDocument
from reedloom.weave.resolve import FlatGraph

SIZES = (256, 512, 1024, 2048, 4096, 8192)
TOLD = 3
"""How many sentences are shown of what a delivery says."""


class DeliverDialog(QDialog):
    """Plans a delivery as it is chosen, and carries it out off the window's thread."""

    _progress = Signal(float)

    def __init__(self, workplace: Workplace, folder: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self.workplace = workplace
        self.stop: Stop | None = None
        self._worker = LatestOnly(self)
        self._worker.done.connect(self._finish)
        self._worker.failed.connect(self._finish)
        self._began = 0.0
        self.setWindowTitle("Deliver maps")
        self.setMinimumWidth(600)
        self._build(folder)
        self._progress.connect(self._show_progress)
        self._replan()

    # -- building -------------------------------------------------------------------------------------

    def _build(self, folder: Path) -> None:
        recipe = self.workplace.document.recipe
        layout = QVBoxLayout(self)
        layout.setContentsMargins(20, 18, 20, 16)
        layout.setSpacing(10)
        title = Words(f"Deliver “{self.workplace.document.name}”")
        title.setProperty("role", "title")
        layout.addWidget(title)
        self.maps: dict[str, QCheckBox] = {}
        maps = QGridLayout()
        maps.setHorizontalSpacing(18)
        tied = [c for c in CHANNELS.values() if c.id in self.workplace.document.graph.ends]
        for number, channel in enumerate(tied):
            box = QCheckBox(channel.label)
            box.setChecked(True)
            box.toggled.connect(self._replan)
            self.maps[channel.id] = box
            maps.addWidget(box, number // 3, number % 3)
        layout.addWidget(self._heading("Maps"))
        layout.addLayout(maps)
        self._build_colourways(layout)
        self.size_choice = QComboBox()
        for size in SIZES:
            width, height = self.workplace.document.surface.samples(size)
            if height <= SIZE_LIMIT:
                self.size_choice.addItem(f"{width} × {height}", size)
        self.size_choice.setCurrentIndex(max(0, self.size_choice.findData(recipe.size)))
        self.format = QComboBox()
        for how in FORMATS.values():
            self.format.addItem(how.label, how.id)
        self.format.setCurrentIndex(max(0, self.format.findData(recipe.format)))
        self.normal_y = QComboBox()
        for way in NORMAL_Y:
            self.normal_y.addItem(f"Green is {way}", way)
        self.normal_y.setCurrentIndex(max(0, self.normal_y.findData(recipe.normal_y)))
        self.name = QLineEdit(recipe.name)
        set_tip(self.name, "Tokens: " + "; ".join(f"{{{t}}} is {text}" for t, text in TOKENS.items()))
        self.folder = QLineEdit(str(folder))
        choose = QPushButton("Choose…")
        choose.clicked.connect(self._choose_folder)
        where = QHBoxLayout()
        where.addWidget(self.folder, 1)
        where.addWidget(choose)
        form = QGridLayout()
        form.setHorizontalSpacing(12)
        form.setVerticalSpacing(8)
        form.setColumnStretch(1, 1)
        rows: list[tuple[str, QWidget | QHBoxLayout]] = [
            ("Size", self.size_choice), ("Format", self.format), ("Normal map", self.normal_y),
            ("File names", self.name), ("Folder", where),
        ]  # fmt: skip
        for number, (text, part) in enumerate(rows):
            form.addWidget(Words(text), number, 0)
            if isinstance(part, QWidget):
                part.setAccessibleName(text)
                form.addWidget(part, number, 1)
            else:
                form.addLayout(part, number, 1)
        self.folder.setAccessibleName("Folder")
        layout.addWidget(self._heading("How and where"))
        layout.addLayout(form)
        self.example = self._words("dim")
        self.warning = self._words("warning")
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.hide()
        self.state = self._words("dim")
        for widget in (self.example, self.warning, self.bar, self.state):
            layout.addWidget(widget)
        layout.addStretch()
        self._build_buttons(layout)
        for combo in (self.size_choice, self.format, self.normal_y):
            combo.currentIndexChanged.connect(self._replan)
        for line in (self.name, self.folder):
            line.textChanged.connect(self._replan)

    def _build_colourways(self, layout: QVBoxLayout) -> None:
        """A box for each colourway, and one for the dials as they are turned."""
        self.ways: dict[str, QCheckBox] = {}
        held = self.workplace.document.colourways
        if not held:
            return
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        offered = {"": "As it is now"} | {key: way.label or key for key, way in held.items()}
        for number, (key, label) in enumerate(offered.items()):
            box = QCheckBox(action_text(label))
            box.setChecked(not key)
            box.toggled.connect(self._replan)
            self.ways[key] = box
            grid.addWidget(box, number // 3, number % 3)
        self.all_ways = QPushButton("All colourways")
        set_tip(self.all_ways, "Choose every colourway, and not the dials as they are turned")
        self.all_ways.clicked.connect(self._choose_all_ways)
        row = QHBoxLayout()
        row.addWidget(self._heading("Colourways"))
        row.addStretch()
        row.addWidget(self.all_ways)
        layout.addLayout(row)
        layout.addLayout(grid)

    def _choose_all_ways(self) -> None:
        for key, box in self.ways.items():
            box.setChecked(bool(key))

    def _flats(self) -> dict[str, FlatGraph]:
        """The weave resolved for what is chosen, by the colourways' names."""
        w = self.workplace
        chosen = [key for key, box in self.ways.items() if box.isChecked()]
        if self.ways and not chosen:
            raise ReedError("Choose at least one colourway, or the dials as they are.")
        keys = [key for key in chosen if key]
        worn = w.document.colourways.get(w.document.colourway)
        shown = worn is not None and worn.values == w.document.settings and w.document.colourway in keys
        flats = {"": w.flat} if not self.ways or ("" in chosen and not shown) else {}
        return flats | (dressed(w.document, w.kinds, keys) if keys else {})

    def _build_buttons(self, layout: QVBoxLayout) -> None:
        self.go = QPushButton("Deliver")
        self.go.setProperty("main", "true")
        self.go.setDefault(True)
        self.go.clicked.connect(self._start)
        self.leave = QPushButton("Close")
        self.leave.clicked.connect(self.reject)
        self.show_folder = QPushButton("Show folder")
        self.show_folder.clicked.connect(
            lambda: QDesktopServices.openUrl(QUrl.fromLocalFile(str(Path(self.folder.text()).absolute())))
        )
        self.show_folder.hide()
        row = QHBoxLayout()
        row.addWidget(self.show_folder)
        row.addStretch()
        row.addWidget(self.leave)
        row.addWidget(self.go)
        layout.addLayout(row)

    def _heading(self, text: str) -> Words:
        label = Words(text)
        label.setProperty("role", "heading")
        return label

    def _words(self, role: str) -> Words:
        label = Words(" ")
        label.setProperty("role", role)
        label.setWordWrap(True)
        return label

    # -- planning -------------------------------------------------------------------------------------

    def plan(self) -> Order:
        """The delivery as chosen; raises `ReedError` saying what is wrong."""
        wanted = [channel for channel, box in self.maps.items() if box.isChecked()]
        if self.maps and not wanted:
            raise ReedError("Choose at least one map.")
        folder = home_path(self.folder.text())
        if not self.folder.text().strip():
            raise ReedError("Choose a folder to deliver to.")
        return plan_delivery(
            self.workplace.document,
            self._flats(),
            folder,
            size=self.size_choice.currentData(),
            format=self.format.currentData(),
            maps=wanted,
            name=self.name.text(),
            normal_y=self.normal_y.currentData(),
        )

    def _replan(self) -> None:
        if self.stop is not None:
            return
        try:
            order = self.plan()
            there = [path.name for path in taken(order)]
        except ReedError as error:
            self.example.setText(" ")
            self.warning.setText(str(error))
            self.go.setEnabled(False)
            return
        paths = order.files
        self.example.setText(f"{len(paths)} files, such as {paths[0].name}")
        self.warning.setText(
            f"{len(there)} of them are there already and will be replaced, such as {there[0]}."
            if there
            else " "
        )
        self.go.setText("Replace and deliver" if there else "Deliver")
        self.go.setEnabled(True)

    def _choose_folder(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Deliver to", self.folder.text())
        if folder:
            self.folder.setText(folder)

    # -- carrying out ---------------------------------------------------------------------------------

    def _start(self) -> None:
        try:
            order = self.plan()
        except ReedError as error:  # the place may have changed since it was looked at
            self.warning.setText(str(error))
            return
        recipe = Recipe(
            size=order.size[0], format=order.format.id, name=self.name.text(), normal_y=order.normal_y,
            extras=self.workplace.document.recipe.extras,
        )  # fmt: skip
        self.workplace.submit(SetDocument(recipe=recipe, label="Change delivery"))
        QSettings().setValue("deliver/folder", str(order.folder))
        self.stop = Stop()
        self._began = time.monotonic()
        self.go.setEnabled(False)
        self.leave.setText("Cancel")
        self.bar.setValue(0)
        self.bar.show()
        self.show_folder.hide()
        stop = self.stop
        self._worker.ask(lambda: carry_out(order, stop=stop, progress=self._progress.emit))

    def _show_progress(self, share: float) -> None:
        if self.stop is None:
            return
        self.bar.setValue(round(share * 1000))
        passed = time.monotonic() - self._began
        if share > 0.03 and passed > 0.5:
            self.state.setText(f"About {passed / share - passed:.0f} s left")
        else:
            self.state.setText("Computing…")

    def _finish(self, result: object) -> None:
        self.stop = None
        self.bar.hide()
        self.leave.setText("Close")
        self._replan()
        if isinstance(result, Cancelled):
            self.state.setText("Stopped; no file was changed.")
        elif isinstance(result, ReedError):
            self.state.setText(" ")
            self.warning.setText(str(result))
        elif isinstance(result, Delivered):
            seconds = time.monotonic() - self._began
            told = result.told()
            more = [f"The nodes' cards say {len(told) - TOLD} more."] if len(told) > TOLD else []
            self.warning.setText(" ".join([*told[:TOLD], *more]) or " ")
            self.state.setText(
                f"Delivered {len(result)} files in {seconds:.1f} s to {Path(result[0]).parent}"
            )
            self.show_folder.show()
            self.workplace.message.emit(self.state.text(), False)

    def reject(self) -> None:
        """Cancel what runs; close when nothing does."""
        if self.stop is not None:
            self.stop.set()
            self.state.setText("Stopping…")
        else:
            super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.stop is not None:
            self.stop.set()
            event.ignore()
        else:
            super().closeEvent(event)
