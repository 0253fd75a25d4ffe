"""What the window's parts share: the session, the selection, the pins, and the newest pictures.

Widgets submit edits to `session` and listen to the signals here; they never hold results of their
own. What is wanted on screen is one value, the wish; evaluation runs in the background, and a result is
used only while it is of the same weave. Results are told apart by their content key, so that what is
the same as before moves nothing.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QImage

from reedloom.desk.look.fitting import PAINTED, fitted
from reedloom.desk.screen.paths_in_hand import PathsInHand
from reedloom.desk.screen.wish import Wish
from reedloom.errors import ReedError
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.data import Material
from reedloom.loom.background import Background, Report
from reedloom.loom.keys import Ref
from reedloom.loom.run import shared_cache
from reedloom.preview.encodings import Tones, make_ready, measure_tones, rgb_picture
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import Document, End, Graph, LitState
from reedloom.weave.edits import Edit
from reedloom.weave.graph import inputs_by_node
from reedloom.weave.resolve import STEP, FlatGraph, resolve, within
from reedloom.weave.session import Change, Session
from reedloom.weave.states import material_end, with_states

CARD_SIZE = 128
"""Samples along the longer side of a card's picture."""
MOST_ROWS = 4096
"""Rows of the views' maps at most, for tiles much higher than wide."""
TINY = 32
"""Side of the picture of a card seen from afar."""
SIZES = (256, 512, 1024, 2048)
NO_PINS = {"A": None, "B": None}
PEEK = "Peek"
"""Among pins, what is looked at for a moment."""
FIRST_PAINT = 40
"""Milliseconds from opening a weave to computing it: the board is painted first, undisturbed."""
QUICK = 512
"""Samples across of views that are computed before the cards, where a change comes alone."""
GIVE_WAY = 0.03
"""Seconds that the worker waits at most for the window to show what views show before it goes on."""
UNFORESEEN = "Something unforeseen went wrong and was left out; Help > Copy a report tells what."


class Look(Struct, frozen=True, eq=False):
    """One output as the screen shows it: its picture, the same very small, and its tones."""

    ref: Ref
    image: QImage
    tiny: QImage
    tones: Tones


class _Carried(Struct, frozen=True, eq=False):
    """A report on its way to the window's thread, with all that could be made ready before."""

    report: Report
    maps: dict[End, np.ndarray]
    looks: dict[End, Look]


def to_image(rgb: np.ndarray) -> QImage:
    """Bytes (H, W, 3) as a picture that owns them, in the form that is painted the quickest."""
    height, width, _ = rgb.shape
    data = np.ascontiguousarray(rgb)
    return QImage(data.data, width, height, width * 3, QImage.Format.Format_RGB888).convertToFormat(PAINTED)


class Workplace(QObject):
    """The state behind the window."""

    document_changed = Signal(object)
    """Carries the `Change`."""
    document_replaced = Signal()
    place_changed = Signal()
    """The board shows another graph: one went into a motif, or out."""
    selection_changed = Signal()
    pins_changed = Signal()
    looks_changed = Signal(object)
    """Carries the set of ends whose small pictures, or failures, are new."""
    view_ready = Signal(str)
    """What the views show has changed: "coarse" or "full"."""
    work_changed = Signal(str, float)
    idle_changed = Signal(bool)
    pick_asked = Signal(bool, object)
    """Colours are to be picked in the flat view: along a line or at a point, and who takes them."""
    message = Signal(str, bool)
    """A sentence for the status line, and whether it is a warning."""
    _reported = Signal(object)
    _troubled = Signal()

    def __init__(self, kinds: Kinds | None = None) -> None:
        super().__init__()
        self._base_kinds = kinds
        self.session = Session(kinds=kinds)
        self.path: Path | None = None
        self.selection: frozenset[str] = frozenset()
        self.pins: dict[str, End | None] = dict(NO_PINS)
        self._pins_aside: dict[str, End | None] | None = None
        """What pins hold while something is peeked at."""
        self.view_size = 512
        self.lit_state = LitState()
        """How the lit view stands; not part of the history, but saved with the weave."""
        self.looks: dict[End, Look] = {}
        self.view_arrays: dict[End, np.ndarray] = {}
        self.view_materials: dict[End, Material] = {}
        """The materials among what is viewed; `view_arrays` has their pictures."""
        self._view_refs: dict[End, Ref] = {}
        self.failures: dict[str, str] = {}
        self.seconds: dict[str, float] = {}
        self.notes: dict[str, tuple[str, ...]] = {}
        self.paths_in_hand = PathsInHand(self)
        self.extra_ends: list[Callable[[], Iterable[End]]] = []
        """What else the views want computed large; each view adds a function of its own."""
        self._path: tuple[str, ...] = ()
        self._flat = self._resolved(self.document)
        self._wish: Wish | None = None
        self._passing = False
        self._weave = 0
        self._opened = QTimer(self)
        self._opened.setSingleShot(True)
        self._opened.timeout.connect(self.request)
        self._unsubscribe = self.session.subscribe(self._on_change)
        self._taken = threading.Event()
        self._reported.connect(self._take_report, Qt.ConnectionType.QueuedConnection)
        self._troubled.connect(
            lambda: self.message.emit(UNFORESEEN, True), Qt.ConnectionType.QueuedConnection
        )
        self.background = Background(
            on_report=self._report_from_worker,
            on_progress=self.work_changed.emit,
            on_idle=self.idle_changed.emit,
            on_trouble=lambda error: self._troubled.emit(),
        )

    # -- documents ----------------------------------------------------------------------------------

    @property
    def document(self) -> Document:
        """The document as shown."""
        return self.session.document

    @property
    def graph(self) -> Graph:
        """The graph on the board."""
        return self.session.graph

    @property
    def kinds(self) -> Kinds:
        """The kinds that nodes may be of."""
        return self.session.kinds

    @property
    def flat(self) -> FlatGraph:
        """The document resolved."""
        return self._flat

    def _resolved(self, document: Document) -> FlatGraph:
        """The document resolved, with the colourways beside it that pins hold."""
        pins = (*self.pins.values(), *(self._pins_aside or {}).values())
        pinned = {end.node.removeprefix(STEP) for end in pins if end is not None}
        worn = {key: resolve(document, self.kinds, key) for key in pinned & document.colourways.keys()}
        return with_states(resolve(document, self.kinds), worn, self.kinds)

    def replace_document(self, document: Document, path: Path | None) -> None:
        """Begin a new session with a document."""
        session = Session(document, self._base_kinds)
        self._unsubscribe()
        self.session = session
        self._unsubscribe = self.session.subscribe(self._on_change)
        self.path = path
        self.lit_state = document.lit
        self.selection = frozenset()
        self.pins, self._pins_aside = dict(NO_PINS), None
        self.looks, self.view_arrays, self.view_materials, self._view_refs = {}, {}, {}, {}
        self.failures, self.seconds, self.notes = {}, {}, {}
        self._path = ()
        self._flat = self._resolved(document)
        self._passing = False
        self._weave += 1
        self.document_replaced.emit()
        self.selection_changed.emit()
        self.pins_changed.emit()
        self._opened.start(FIRST_PAINT)

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
        after = change.graphs[1]
        if change.computed:
            self._flat = self._resolved(change.after)
        # A card that is only moved passes, too, but changes nothing that is computed.
        self._passing = not change.recorded and (change.computed or self._passing)
        removed = {self.flat_id(node) for node in change.nodes - after.nodes.keys()}
        for held in (self.looks, self._view_refs, self.view_arrays, self.view_materials) if removed else ():
            for gone in [end for end in held if end.node in removed]:
                del held[gone]
        if self.session.path != self._path:
            self._path = self.session.path
            self.place_changed.emit()
        self.document_changed.emit(change)
        present = self.selection & (after.nodes.keys() | after.bays.keys() | after.notes.keys())
        if present != self.selection:
            self.select(present)
        for pins in (self.pins, self._pins_aside or {}):
            for name, end in pins.items():
                if end is not None and not self._flat.holds(end):
                    pins[name] = None
                    self.pins_changed.emit()
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
        return tuple(n for n in self.graph.nodes if n in self.selection)

    @property
    def selected_node(self) -> str | None:
        """The node if just one is selected."""
        nodes = self.selected_nodes
        return nodes[0] if len(nodes) == 1 else None

    def pin(self, name: str, end: End | None) -> None:
        """Put an output of the board on pin A or B, or take it off."""
        self._end_peek()
        self.pins[name] = None if end is None else self.at(end)
        self.pins_changed.emit()
        self.request()

    def pin_colourway(self, name: str, key: str) -> None:
        """Put the whole surface of a colourway on pin A or B."""
        self._end_peek()
        self.pins[name] = material_end(key)
        self._flat = self._resolved(self.document)
        self.pins_changed.emit()
        self.request()

    def unpin(self) -> None:
        """Let the views show the material again."""
        self.pins, self._pins_aside = dict(NO_PINS), None
        self.pins_changed.emit()
        self.request()

    def peek(self, end: End) -> None:
        """Let the views show an output of the board for a while, whatever pins hold."""
        if self._pins_aside is None:
            self._pins_aside = self.pins
        self.pins = {**NO_PINS, PEEK: self.at(end)}
        self.pins_changed.emit()
        self.request()

    def peek_no_more(self) -> None:
        """Let the views show what they showed before."""
        if self._end_peek():
            self.pins_changed.emit()
            self.request()

    def _end_peek(self) -> bool:
        if self._pins_aside is None:
            return False
        self.pins, self._pins_aside = self._pins_aside, None
        return True

    def said_of(self, node_id: str) -> tuple[str, ...]:
        """What there is to say about a node: from its computation, and from the opening of the file."""
        remark = self.document.remarks.get(node_id)
        return (*self.notes.get(self.flat_id(node_id), ()), *([remark] if remark else []))

    # -- going into motifs -----------------------------------------------------------------------------

    def flat_id(self, node_id: str) -> str:
        """The id in the flat graph of a node on the board; results are kept by these."""
        return within(self._path, node_id) if self._path else node_id

    def at(self, end: End) -> End:
        """An end on the board as the flat graph knows it."""
        return End(node=self.flat_id(end.node), port=end.port) if self._path else end

    def on_board(self, flat_id: str) -> str:
        """The node on the board of an id in the flat graph; empty if it is elsewhere."""
        path, _, node_id = flat_id.rpartition(STEP)
        return node_id if path == STEP.join(self._path) else ""

    def title_of(self, flat_id: str) -> str:
        """The name of a node anywhere in the weave, or its kind's label; that of a pinned colourway."""
        worn = self.document.colourways.get(flat_id.removeprefix(STEP))
        if worn is not None and flat_id.startswith(STEP):
            return worn.label
        found = self._flat.nodes.get(flat_id) or self._flat.uses.get(flat_id)
        return found.title if found is not None else flat_id

    def go(self, path: tuple[str, ...]) -> bool:
        """Go into a use of a motif, or out; the board shows the graph there."""
        try:
            self.session.go(path)
        except ReedError as error:
            self.message.emit(str(error), True)
            return False
        if path != self._path:
            left = self._path[len(path)] if len(self._path) > len(path) else ""
            self._path = path
            self.selection = frozenset([left]) & self.graph.nodes.keys()
            self.place_changed.emit()
            self.selection_changed.emit()
            self.request()
        return True

    # -- evaluation -----------------------------------------------------------------------------------

    def set_view_size(self, size: int) -> None:
        """How many samples the view's maps have across."""
        self.view_size = size
        self.request()

    @property
    def busy(self) -> bool:
        """Whether anything is computed, or is about to be."""
        return self._opened.isActive() or self.background.busy

    def request(self) -> None:
        """Ask the background for everything on screen, unless just that was asked for last."""
        self._opened.stop()
        wish = self._make_wish()
        if wish != self._wish:
            is_open = self._wish is not None and self._wish.weave == self._weave
            self._wish = wish
            cards_last = is_open and not self.background.busy and max(wish.size) <= QUICK
            self.background.submit(wish, wish.stages(cards_last))

    def _make_wish(self) -> Wish:
        holds = self._flat.holds
        wanted = [*self.pins.values(), *(end for ends in self.extra_ends for end in ends())]
        views = tuple(dict.fromkeys(e for e in wanted if e is not None and holds(e)))
        cards = [*self.graph.ends.values(), *self._first_outputs(), *self._selected_ends()]
        cards = list(dict.fromkeys(end for end in (*map(self.at, cards), *views) if holds(end)))
        small = self._flat.surface.fitting(CARD_SIZE)
        return Wish(self._weave, self._flat, views, tuple(cards), small, self.full_size, self._passing)

    @property
    def full_size(self) -> tuple[int, int]:
        """Samples of the views' maps, across and down."""
        surface = self._flat.surface
        full = surface.samples(self.view_size)
        return full if full[1] <= MOST_ROWS else surface.fitting(MOST_ROWS)

    def _first_outputs(self) -> list[End]:
        """What cards show."""
        first = ((node.id, self.kinds.of(node).outputs[:1]) for node in self.graph.nodes.values())
        return [End(node=node_id, port=port.name) for node_id, ports in first for port in ports]

    def _selected_ends(self) -> list[End]:
        """All outputs of the selected node, and what comes into it, for the settings."""
        node_id = self.selected_node
        if node_id is None:
            return []
        outputs = self.kinds.of(self.graph.nodes[node_id]).outputs
        incoming = inputs_by_node(self.graph)[node_id].values()
        return [End(node=node_id, port=p.name) for p in outputs] + list(incoming)

    def _report_from_worker(self, report: Report) -> None:
        """In the worker: make pictures there, so that the window's thread only shows them."""
        make_ready()
        stage, results = report.stage, report.outcome.results
        maps = {end: _map_of(report.refs[end], value, stage.size) for end, value in results.items()}
        looks: dict[End, Look] = {}
        if stage.name == "cards":  # what views show too, so that their coarse pictures need not wait for it
            for end, array in maps.items():
                old = self.looks.get(end)
                if old is None or old.ref != report.refs[end]:
                    looks[end] = make_look(stage.flat, end, report.refs[end], array)
        self._taken.clear()
        self._reported.emit(_Carried(report, maps, looks))
        if stage.name != "cards":
            # Both would else take turns at Python, and the picture under the hand would wait.
            self._taken.wait(GIVE_WAY)

    def _take_report(self, carried: _Carried) -> None:
        """In the window's thread: show what came, and tell the worker."""
        try:
            self._show_report(carried)
        finally:
            self._taken.set()

    def _show_report(self, carried: _Carried) -> None:
        report = carried.report
        wish, stage, outcome = report.token, report.stage, report.outcome
        if not isinstance(wish, Wish) or wish.weave != self._weave:
            return  # of a weave that is no longer there
        new = {end for end in carried.looks if self._flat.holds(end)}
        self.looks |= {end: carried.looks[end] for end in new}
        new |= self._take_failures(stage.ends, outcome.failures)
        self.seconds.update(outcome.seconds)
        for node_id in outcome.seconds:
            told = outcome.notes.get(node_id, ())
            if told != self.notes.get(node_id, ()):
                self.notes[node_id] = told
                new |= {end for end in stage.ends if end.node == node_id}
        if stage.name in {"coarse", "full"}:
            self._take_views(carried)
        self._drop_unwished()
        if new:
            self.looks_changed.emit(new)

    def _take_failures(self, ends: Iterable[End], failures: dict[str, str]) -> set[End]:
        """Note what failed and what no longer does; the ends for which that is news."""
        changed = set()
        for end in ends:
            if self.failures.get(end.node) != failures.get(end.node):
                changed.add(end)
            if end.node not in failures:
                self.failures.pop(end.node, None)
        self.failures.update(failures)
        return changed

    def _take_views(self, carried: _Carried) -> None:
        """Show what a stage for the views gave, if that differs from what they show."""
        report = carried.report
        refs = {end: ref for end, ref in report.refs.items() if end in carried.maps}
        gone = [end for end in report.stage.ends if end not in refs and end in self._view_refs]
        if not gone and all(self._view_refs.get(end) == ref for end, ref in refs.items()) and refs:
            return
        for end in gone:
            for held in (self._view_refs, self.view_arrays, self.view_materials):
                held.pop(end, None)
        self._view_refs |= refs
        self.view_arrays |= carried.maps
        materials = {e: v for e, v in report.outcome.results.items() if isinstance(v, Material)}
        self.view_materials |= materials
        self.view_ready.emit(report.stage.name)

    def _drop_unwished(self) -> None:
        """Let go of pictures that nothing on screen shows any more."""
        wish = self._wish
        if wish is None:
            return
        views, cards = set(wish.views), {*wish.views, *wish.cards}
        for held in (self._view_refs, self.view_arrays, self.view_materials):
            for end in held.keys() - views:
                del held[end]
        for end in self.looks.keys() - cards:
            del self.looks[end]
        shared_cache().keep_in_use(id(self), self._view_refs.values())

    def close(self) -> None:
        """Stop the background, and hold nothing any more, even if its last report is still on its way."""
        self._opened.stop()
        self._wish = None
        self.background.close()
        shared_cache().keep_in_use(id(self), ())


def _map_of(ref: Ref, value: Any, size: tuple[int, int]) -> np.ndarray:
    """The map that shows a value; for what is none it is kept like any other result."""
    key = (f"{ref[0]} shown", ref[1])
    known = shared_cache().get(key)
    if known is not None:
        return known.array
    shown = as_map(value, *size)
    if shown is not value:
        shared_cache().put(key, shown, 0.05)
    return shown


def picture_of(flat: FlatGraph, end: End, array: np.ndarray) -> QImage:
    """A map that came of an output, as it is looked at."""
    return to_image(rgb_picture(array, plain=flat.output(end).plain))


def make_look(flat: FlatGraph, end: End, ref: Ref, array: np.ndarray) -> Look:
    """The small picture and tones of an output."""
    image = picture_of(flat, end, array)
    return Look(ref, image, fitted(image, TINY), measure_tones(array))
