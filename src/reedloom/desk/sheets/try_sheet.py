"""The try-out sheet: a grid of results over one or two dials, or over other arrangements."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from msgspec import Struct
from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QInputDialog,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from reedloom.desk.look.choices import make_choice
from reedloom.desk.look.fitting import paint_fitting
from reedloom.desk.look.theme import small_font, theme
from reedloom.desk.look.words import Words, set_tip, shown
from reedloom.desk.screen.trial import Trial, TrialWorker, spread
from reedloom.desk.screen.workplace import Workplace
from reedloom.desk.settings.slider import NumberField
from reedloom.kit.parameters import Float, Number, Parameter, Seed
from reedloom.weave.dials import dial_parameter, free_dial_id
from reedloom.weave.document import Document
from reedloom.weave.edits import Batch, Edit, PutColourway, SetParameters, TurnAll
from reedloom.weave.resolve import FlatGraph, resolve

SIDES = (3, 4, 5, 6, 7)
SETTLE = 60
"""Milliseconds after a choice before the grid is made again."""
LARGE = 512
ARRANGEMENTS = "\0seeds"
NONE = "\0none"


class Cell(Struct, frozen=True):
    """One result of the grid: the dials that differ, and how far all seeds are moved on."""

    values: Mapping[str, Any]
    seeds: int = 0


def with_seeds(document: Document, kinds: Any, step: int) -> Batch | None:
    """The edit that gives every node of the weave's own board another arrangement."""
    edits = []
    for node in document.graph.nodes.values():
        for parameter in kinds.of(node).parameters:
            if isinstance(parameter, Seed) and parameter.name not in node.formulas:
                value = (kinds.value(node, parameter.name) + 101 * step) % (parameter.hard[1] + 1)
                edits.append(SetParameters(node.id, {parameter.name: int(value)}))
    return Batch("Take another arrangement", tuple(edits)) if edits and step else None


class TryGrid(QWidget):
    """The results in rows and columns, with the values at the edges; one of them is chosen."""

    chosen = Signal(int)
    taken = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.side = 5
        self.rows = 5
        self.across: list[str] = []
        self.down: list[str] = []
        self.images: dict[int, QImage] = {}
        self.troubles: dict[int, str] = {}
        self.current = -1
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Results, in rows and columns")
        self.setMinimumSize(QSize(420, 420))

    def lay_out(self, across: list[str], down: list[str]) -> None:
        """Begin an empty grid with these values at its edges."""
        self.across, self.down = across, down
        self.side, self.rows = len(across), max(1, len(down))
        self.images, self.troubles = {}, {}
        self.current = min(self.current, self.side * self.rows - 1)
        self.update()

    def show_result(self, number: int, image: QImage) -> None:
        """Have a result's picture; only that is painted."""
        self.images[number] = image
        self.update(self.box(number).toAlignedRect())

    def show_trouble(self, number: int, text: str) -> None:
        """Say why there is no result."""
        self.troubles[number] = text
        self.update(self.box(number).toAlignedRect())

    def box(self, number: int) -> QRectF:
        """Where a result lies."""
        left, top = (52 if self.down else 4), 22
        cell = min((self.width() - left - 4) / self.side, (self.height() - top - 4) / self.rows)
        row, column = divmod(number, self.side)
        return QRectF(left + column * cell + 2, top + row * cell + 2, cell - 4, cell - 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        t, painter = theme(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setFont(small_font(pixels=12))
        for column, text in enumerate(self.across):
            box = self.box(column)
            painter.setPen(t.colour("dim"))
            painter.drawText(
                QRectF(box.left(), 2, box.width(), 18), int(Qt.AlignmentFlag.AlignCenter), shown(text)
            )
        for row, text in enumerate(self.down):
            box = self.box(row * self.side)
            painter.setPen(t.colour("dim"))
            place = QRectF(0, box.top(), 46, box.height())
            flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(place, int(flags), shown(text))
        for number in range(self.side * self.rows):
            box = self.box(number)
            if not event.region().intersects(box.adjusted(-3, -3, 3, 3).toAlignedRect()):
                continue
            painter.fillRect(box, t.colour("slot"))
            if number in self.images:
                paint_fitting(painter, box, self.images[number])
            elif number in self.troubles:
                painter.setPen(t.colour("warning"))
                flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(box.adjusted(4, 4, -4, -4), int(flags), shown(self.troubles[number]))
            if number == self.current:
                painter.setPen(QPen(t.colour("accent"), 2.5 if self.hasFocus() else 1.5))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box.adjusted(-1.5, -1.5, 1.5, 1.5))

    def choose(self, number: int) -> None:
        """Choose a result."""
        if 0 <= number < self.side * self.rows:
            self.current = number
            self.update()
            self.chosen.emit(number)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        for number in range(self.side * self.rows):
            if self.box(number).contains(event.position()):
                self.choose(number)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.taken.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -self.side, Qt.Key.Key_Down: self.side,
        }  # fmt: skip
        key = Qt.Key(event.key())
        if key in steps:
            self.choose(max(self.current, 0) + steps[key] if self.current >= 0 else 0)
        elif key in {Qt.Key.Key_Return, Qt.Key.Key_Enter}:
            self.taken.emit()
        else:
            super().keyPressEvent(event)


class Axis(QWidget):
    """Which dial runs along one side of the grid, and from where to where."""

    changed = Signal()

    def __init__(self, workplace: Workplace, title: str, may_be_none: bool) -> None:
        super().__init__()
        self.workplace = workplace
        self.dial = make_choice(title)
        if may_be_none:
            self.dial.addItem("nothing", NONE)
        for key, dial in workplace.document.dials.items():
            self.dial.addItem(dial.label or key, key)
        self.dial.addItem("other arrangements", ARRANGEMENTS)
        plain = Float("end", 0.0, (0, 1), help="An end of the range.")
        self.low, self.high = NumberField(plain), NumberField(plain)
        for field, tip in ((self.low, "from"), (self.high, "to")):
            field.setAccessibleName(f"{title} {tip}")
            field.changed.connect(lambda _: self.changed.emit())
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(Words(title))
        row.addWidget(self.dial)
        self.to = Words("to")
        for part in (self.low, self.to, self.high):
            row.addWidget(part)
        self.dial.activated.connect(lambda _: self._on_dial())
        self._fit()

    def _on_dial(self) -> None:
        self._fit()
        self.changed.emit()

    @property
    def key(self) -> str:
        """The dial, or what else runs along here."""
        return str(self.dial.currentData())

    def parameter(self) -> Parameter | None:
        """The dial as a parameter."""
        dial = self.workplace.document.dials.get(self.key)
        return None if dial is None else dial_parameter(self.key, dial)

    def _fit(self) -> None:
        """Offer the whole slider of a number; other dials have values of their own to try."""
        found = self.parameter()
        is_number = isinstance(found, Number) and not isinstance(found, Seed)
        for part in (self.low, self.to, self.high):
            part.setVisible(is_number)
        if is_number and isinstance(found, Number):
            for field, value in zip((self.low, self.high), found.useful, strict=True):
                field.parameter = found
                field.show_value(value)

    def points(self, count: int) -> list[tuple[str, dict[str, Any], int]]:
        """What stands at the edge, the dials that differ, and how far the seeds are moved, for each step."""
        if self.key == ARRANGEMENTS:
            return [("as it is" if not i else f"no. {i + 1}", {}, i) for i in range(count)]
        found = self.parameter()
        if found is None:
            return [("", {}, 0)]
        if isinstance(found, Number) and not isinstance(found, Seed):
            ends = (self.low.value, self.high.value)
            values = [found.check(round(v) if found.is_whole else round(v, 6)) for v in spread(ends, count)]
            return [(f"{v:.4g}", {self.key: v}, 0) for v in dict.fromkeys(values)]
        present = self.workplace.document.settings.get(self.key, found.default)
        tries = [("as it is", present), *found.try_values(present, self.workplace.document.folder)]
        return [(text, {self.key: value}, 0) for text, value in tries[:count]]


class TrySheet(QDialog):
    """Chooses what to try, shows the grid, and one of its results large."""

    def __init__(self, workplace: Workplace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workplace = workplace
        self.setWindowTitle("Try out")
        self.resize(1160, 740)
        self.cells: list[Cell] = []
        self.worker, self.large_worker = TrialWorker(self), TrialWorker(self)
        self.worker.made.connect(self._take)
        self.worker.failed.connect(self._take_trouble)
        self.worker.finished.connect(self._on_finished)
        self.large_worker.made.connect(self._take_large)
        self.state = Words("Making the results…")
        for worker in (self.worker, self.large_worker):
            worker.troubled.connect(self.state.setText)
        self._request = self._large_request = -1
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self._begin)
        self._build()
        self._settle.start(0)

    # -- building -------------------------------------------------------------------------------------

    def _build(self) -> None:
        self.across = Axis(self.workplace, "Across", False)
        self.down = Axis(self.workplace, "Down", True)
        if len(self.workplace.document.dials) > 1:
            self.down.dial.setCurrentIndex(2)
            self.down._fit()
        self.size_choice: QComboBox = make_choice("How many along each side")
        for side in SIDES:
            self.size_choice.addItem(f"{side} × {side}", side)
        self.size_choice.setCurrentIndex(SIDES.index(5))
        self.look = make_choice("How results are shown", {"flat": "Flat", "lit": "In light"})
        top = QHBoxLayout()
        top.setSpacing(16)
        for part in (self.across, self.down, self.size_choice, self.look):
            top.addWidget(part)
        top.addStretch()
        self.grid = TryGrid()
        self.grid.chosen.connect(self._on_chosen)
        self.grid.taken.connect(self.turn_so)
        self.large = LargePicture()
        self.told = Words("Choose a result to see it large.")
        self.told.setWordWrap(True)
        self.told.setProperty("role", "dim")
        self.state.setProperty("role", "dim")
        self.turn, self.keep, leave = (
            QPushButton("Turn the dials so"),
            QPushButton("Keep as a colourway…"),
            QPushButton("Close"),
        )
        set_tip(self.turn, "Have the weave as this result is (Enter)")
        self.turn.clicked.connect(self.turn_so)
        self.keep.clicked.connect(self.keep_it)
        leave.clicked.connect(self.close)
        for button in (self.turn, self.keep, leave):
            button.setAutoDefault(False)
        aside = QVBoxLayout()
        aside.addWidget(self.large)
        aside.addWidget(self.told)
        aside.addWidget(self.turn)
        aside.addWidget(self.keep)
        aside.addStretch()
        aside.addWidget(self.state)
        aside.addWidget(leave)
        middle = QHBoxLayout()
        middle.setSpacing(14)
        middle.addWidget(self.grid, 1)
        middle.addLayout(aside)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(10)
        column.addLayout(top)
        column.addLayout(middle, 1)
        for axis in (self.across, self.down):
            axis.changed.connect(self._ask_soon)
        for combo in (self.size_choice, self.look):
            combo.activated.connect(lambda _: self._ask_soon())
        self._show_chosen()

    # -- making ---------------------------------------------------------------------------------------

    def _ask_soon(self) -> None:
        """A value changed: what runs, and what of it is still on its way here, is of no use any more."""
        self.worker.drop()
        self._request = -1
        self.state.setText("Making the results…")
        self._settle.start(SETTLE)

    def _flat(self, document: Document, cell: Cell) -> FlatGraph:
        kinds = self.workplace.kinds
        edit = with_seeds(document, kinds, cell.seeds)
        if edit is not None:
            document = edit.apply(document, kinds)
        return resolve(document, kinds, None, {**document.settings, **cell.values})

    def _begin(self) -> None:
        count = int(self.size_choice.currentData())
        self._lay_cells(count)
        ratio = self.devicePixelRatioF()
        document = self.workplace.document
        side = max(64, round(self.grid.box(0).width() * ratio))
        self._request = self.worker.ask(self._trial(document, self.cells, side))
        self._show_chosen()

    def _lay_cells(self, count: int) -> None:
        """Which results stand where; arrangements alone fill the whole grid."""
        if self.across.key == ARRANGEMENTS and self.down.key == NONE:
            self.cells = [Cell({}, seeds) for seeds in range(count * count)]
            self.grid.lay_out([""] * count, [" "] * count)
            return
        across, down = self.across.points(count), self.down.points(count)
        self.cells = [Cell(a | b, i + j * count) for _, b, j in down for _, a, i in across]
        self.grid.lay_out([text for text, _, _ in across], [text for text, _, _ in down if text])

    def _trial(self, document: Document, cells: list[Cell], side: int) -> Trial:
        lit = self.workplace.lit_state if self.look.currentData() == "lit" else None
        ground = theme().colour("slot")
        background = (ground.redF(), ground.greenF(), ground.blueF())
        states = tuple(partial(self._flat, document, cell) for cell in cells)
        return Trial(states, self.workplace.kinds, side, lit, background)

    def _take(self, request: int, number: int, image: QImage, fine: bool) -> None:
        if request == self._request:
            self.grid.show_result(number, image)

    def _take_trouble(self, request: int, number: int, text: str) -> None:
        if request == self._request:
            self.grid.show_trouble(number, text)

    def _on_finished(self, request: int) -> None:
        if request == self._request:
            self.state.setText(f"{len(self.cells)} results")

    # -- one result -----------------------------------------------------------------------------------

    def _on_chosen(self, number: int) -> None:
        self._show_chosen()
        self.large.image = self.grid.images.get(number)
        self.large.update()
        trial = self._trial(self.workplace.document, [self.cells[number]], LARGE)
        self._large_request = self.large_worker.ask(trial)

    def _take_large(self, request: int, number: int, image: QImage, fine: bool) -> None:
        if request == self._large_request and fine:
            self.large.image = image
            self.large.update()

    @property
    def cell(self) -> Cell | None:
        """The chosen result."""
        return self.cells[self.grid.current] if 0 <= self.grid.current < len(self.cells) else None

    def _show_chosen(self) -> None:
        cell = self.cell
        for button in (self.turn, self.keep):
            button.setEnabled(cell is not None)
        if cell is None:
            return
        dials = self.workplace.document.dials
        parts = [
            f"{dials[key].label or key} {value:.4g}" if isinstance(value, float) else dials[key].label
            for key, value in cell.values.items()
        ]
        parts += [f"arrangement no. {cell.seeds + 1}"] if cell.seeds else []
        self.told.setText(", ".join(parts) or "As it is")

    def _edits(self, cell: Cell) -> list[Edit]:
        document = self.workplace.document
        moved = with_seeds(document, self.workplace.kinds, cell.seeds)
        turned = TurnAll(document.settings | dict(cell.values), "Take a tried result")
        return [*([moved] if moved is not None else []), turned]

    def turn_so(self) -> None:
        """Turn the dials, and take the arrangement, of the chosen result."""
        cell = self.cell
        if cell is not None:
            for edit in self._edits(cell):
                self.workplace.submit(edit)
            self.workplace.message.emit("The weave is as the result you chose.", False)

    def keep_it(self) -> None:
        """Keep the chosen result as a colourway."""
        cell = self.cell
        if cell is None:
            return
        document = self.workplace.document
        name, done = QInputDialog.getText(
            self, "Keep as a colourway", "Name of the colourway:",
            text=f"Variant {len(document.colourways) + 1}",
        )  # fmt: skip
        if done and name.strip():
            for edit in self._edits(cell):
                self.workplace.submit(edit)
            key = free_dial_id(name, document.colourways)
            if self.workplace.submit(PutColourway(key, name.strip())):
                self.state.setText(f"Kept as “{name.strip()}”.")

    def closeEvent(self, event: QCloseEvent) -> None:
        self._settle.stop()
        self.worker.close()
        self.large_worker.close()
        super().closeEvent(event)

    def reject(self) -> None:
        """Escape closes as the button does."""
        self.close()


class LargePicture(QWidget):
    """One result, large."""

    def __init__(self) -> None:
        super().__init__()
        self.image: QImage | None = None
        self.setFixedSize(QSize(380, 380))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme().colour("slot"))
        if self.image is not None:
            paint_fitting(painter, QRectF(self.rect()), self.image)
