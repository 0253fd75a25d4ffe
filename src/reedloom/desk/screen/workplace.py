"""What the window's parts share: the session, the selection, the pins, and the newest pictures.

Widgets submit edits to `session` and listen to the signals here; they never hold results of their
own. Evaluation runs in the background, and a result is used only while it is of the newest document,
except that coarse ones are shown on the way while a slider moves.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QImage

from reedloom.errors import ReedError
from reedloom.kit.data import Material
from reedloom.loom.background import Background, Report, Stage
from reedloom.preview.encodings import Tones, measure_tones, rgb_picture
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import Document, End, LitState
from reedloom.weave.edits import Edit
from reedloom.weave.graph import inputs_by_node
from reedloom.weave.session import Change, Session

CARD_SIZE = 128
CARDS_AT_ONCE = 48
TINY = 32
"""Side of the picture of a card seen from afar."""
SIZES = (256, 512, 1024, 2048)


@dataclass(frozen=True, slots=True, eq=False)
class Look:
    """One output as the screen shows it: its array, picture, the same very small, and its tones."""

    array: np.ndarray
    image: QImage
    tiny: QImage
    tones: Tones


def to_image(rgb: np.ndarray) -> QImage:
    """Bytes (H, W, 3) as a picture that owns them."""
    height, width, _ = rgb.shape
    data = np.ascontiguousarray(rgb)
    return QImage(data.data, width, height, width * 3, QImage.Format.Format_RGB888).copy()


class Workplace(QObject):
    """The state behind the window."""

    document_changed = Signal(object)
    """Carries the `Change`."""
    document_replaced = Signal()
    selection_changed = Signal()
    pins_changed = Signal()
    looks_changed = Signal(object)
    """Carries the set of ends whose small pictures are new."""
    view_ready = Signal(str)
    """The shown outputs are there: "coarse" or "full"."""
    work_changed = Signal(str, float)
    idle_changed = Signal(bool)
    pick_asked = Signal(bool, object)
    """Colours are to be picked in the flat view: along a line or at a point, and who takes them."""
    message = Signal(str, bool)
    """A sentence for the status line, and whether it is a warning."""
    _reported = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.session = Session()
        self.path: Path | None = None
        self.selection: frozenset[str] = frozenset()
        self.pins: dict[str, End | None] = {"A": None, "B": None}
        self.view_size = 512
        self.lit_state = LitState()
        """How the lit view stands; not part of the history, but saved with the weave."""
        self.looks: dict[End, Look] = {}
        self.view_arrays: dict[End, np.ndarray] = {}
        self.view_materials: dict[End, Material] = {}
        """The materials among what is viewed; `view_arrays` has their pictures."""
        self._shown_as: dict[End, tuple[Any, np.ndarray]] = {}
        """For points, islands and materials what was last computed, and the map that shows it."""
        self.failures: dict[str, str] = {}
        self.seconds: dict[str, float] = {}
        self.notes: dict[str, tuple[str, ...]] = {}
        self.extra_ends: list[Callable[[], Iterable[End]]] = []
        """What else the views want computed large; each view adds a function of its own."""
        self._unsubscribe = self.session.subscribe(self._on_change)
        self._reported.connect(self._take_report, Qt.ConnectionType.QueuedConnection)
        self.background = Background(
            on_report=self._report_from_worker,
            on_progress=self.work_changed.emit,
            on_idle=self.idle_changed.emit,
        )

    # -- documents ----------------------------------------------------------------------------------

    @property
    def document(self) -> Document:
        """The document as shown."""
        return self.session.document

    def replace_document(self, document: Document, path: Path | None) -> None:
        """Begin a new session with a document."""
        self._unsubscribe()
        self.session = Session(document)
        self._unsubscribe = self.session.subscribe(self._on_change)
        self.path = path
        self.lit_state = document.lit
        self.selection = frozenset()
        self.pins = {"A": None, "B": None}
        self.looks, self.view_arrays, self.view_materials, self._shown_as = {}, {}, {}, {}
        self.failures, self.seconds, self.notes = {}, {}, {}
        self.document_replaced.emit()
        self.selection_changed.emit()
        self.pins_changed.emit()
        self.request()

    def submit(self, edit: Edit) -> bool:
        """Apply an edit as one step; a refusal is told in the status line."""
        return self._attempt(self.session.submit, edit)

    def preview(self, edit: Edit) -> bool:
        """Show an edit while dragging."""
        return self._attempt(self.session.preview, edit)

    def _attempt(self, action: Callable[[Edit], None], edit: Edit) -> bool:
        try:
            action(edit)
        except ReedError as error:
            self.message.emit(str(error), True)
            return False
        return True

    def _on_change(self, change: Change) -> None:
        self.document_changed.emit(change)
        after = change.after
        present = self.selection & (after.nodes.keys() | after.bays.keys() | after.notes.keys())
        if present != self.selection:
            self.select(present)
        for name, end in self.pins.items():
            if end is not None and end.node not in after.nodes:
                self.pins[name] = None
                self.pins_changed.emit()
        if change.computed or change.ties or change.nodes:
            self.request()

    # -- selection and pins --------------------------------------------------------------------------

    def select(self, ids: Iterable[str]) -> None:
        """Select nodes, bays and notes by id."""
        chosen = frozenset(ids)
        if chosen != self.selection:
            self.selection = chosen
            self.selection_changed.emit()
            self.request()

    @property
    def selected_nodes(self) -> tuple[str, ...]:
        """The selected nodes, in the document's order."""
        return tuple(n for n in self.document.nodes if n in self.selection)

    @property
    def selected_node(self) -> str | None:
        """The node if just one is selected."""
        nodes = self.selected_nodes
        return nodes[0] if len(nodes) == 1 else None

    def pin(self, name: str, end: End | None) -> None:
        """Put an output on pin A or B, or take it off."""
        self.pins[name] = end
        self.pins_changed.emit()
        self.request()

    def unpin(self) -> None:
        """Let the views show the material again."""
        self.pins = {"A": None, "B": None}
        self.pins_changed.emit()
        self.request()

    # -- evaluation -----------------------------------------------------------------------------------

    def set_view_size(self, size: int) -> None:
        """How many samples the view's maps have along each side."""
        self.view_size = size
        self.request()

    def request(self) -> None:
        """Ask the background for everything on screen, the most looked-at first."""
        document = self.document
        wanted = [*self.pins.values(), *(end for ends in self.extra_ends for end in ends())]
        shown = tuple(dict.fromkeys(e for e in wanted if e is not None))
        shown = tuple(e for e in shown if e.node in document.nodes)
        cards = list(dict.fromkeys((*document.ties.values(), *self._selected_ends(), *self._first_outputs())))
        small, full = (CARD_SIZE, CARD_SIZE), (self.view_size, self.view_size)
        stages = [Stage("coarse", shown, small, patient=True)] if shown else []
        stages += [
            Stage("cards", tuple(cards[i : i + CARDS_AT_ONCE]), small, patient=i == 0)
            for i in range(0, len(cards), CARDS_AT_ONCE)
        ]
        if shown and full != small:
            stages.append(Stage("full", shown, full))
        self.background.submit(document, tuple(stages))

    def _first_outputs(self) -> list[End]:
        return [End(node=n.id, port=n.declaration.outputs[0].name) for n in self.document.nodes.values()]

    def _selected_ends(self) -> list[End]:
        """All outputs of the selected node, and what comes into it, for the settings."""
        node_id = self.selected_node
        if node_id is None:
            return []
        outputs = self.document.nodes[node_id].declaration.outputs
        incoming = inputs_by_node(self.document)[node_id].values()
        return [End(node=node_id, port=p.name) for p in outputs] + list(incoming)

    def _report_from_worker(self, report: Report) -> None:
        """In the worker: make pictures there, so that the window's thread only shows them."""
        looks: dict[End, Look] = {}
        results = report.outcome.results
        materials = {end: value for end, value in results.items() if isinstance(value, Material)}
        report.outcome.results = {
            e: self._map_of(e, value, report.stage.size) for e, value in results.items()
        }
        if report.stage.name in {"cards", "coarse"}:
            for end, array in report.outcome.results.items():
                old = self.looks.get(end)
                if old is None or old.array is not array:
                    looks[end] = make_look(report.job.document, end, array)
        self._reported.emit((report, looks, materials))

    def _map_of(self, end: End, value: Any, size: tuple[int, int]) -> np.ndarray:
        """The map that shows a value; the same one again as long as the value is the same."""
        before = self._shown_as.get(end)
        if before is not None and before[0] is value:
            return before[1]
        shown = as_map(value, *size)
        if shown is not value:
            self._shown_as[end] = (value, shown)
        return shown

    def _take_report(self, carried: tuple[Report, dict[End, Look], dict[End, Material]]) -> None:
        report, looks, materials = carried
        document = report.job.document
        if (
            any(end.node not in self.document.nodes for end in report.stage.ends)
            and document is not self.document
        ):
            return
        self.looks.update(looks)
        outcome = report.outcome
        for end in report.stage.ends:
            if end.node not in outcome.failures:
                self.failures.pop(end.node, None)
        self.failures.update(outcome.failures)
        self.seconds.update(outcome.seconds)
        for node_id in outcome.seconds:
            self.notes[node_id] = outcome.notes.get(node_id, ())
        if report.stage.name in {"coarse", "full"}:
            self.view_arrays.update(outcome.results)
            self.view_materials.update(materials)
            for end in report.stage.ends:
                if end not in outcome.results:
                    self.view_arrays.pop(end, None)
            self.view_ready.emit(report.stage.name)
        if report.stage.name != "full":
            self.looks_changed.emit(set(looks) | set(report.stage.ends))

    def close(self) -> None:
        """Stop the background."""
        self.background.close()


def make_look(document: Document, end: End, array: np.ndarray) -> Look:
    """The small picture and tones of an output."""
    plain = document.node(end.node).declaration.output(end.port).plain
    image = to_image(rgb_picture(array, plain=plain))
    tiny = image.scaled(
        TINY, TINY, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
    )
    return Look(array, image, tiny, measure_tones(array))
