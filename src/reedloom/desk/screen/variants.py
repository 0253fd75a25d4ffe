"""Small pictures of what the weave would give with other values, made when nothing else is to do."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from reedloom.desk.screen.workplace import Workplace, picture_of
from reedloom.kernels.jit import Stop
from reedloom.loom.run import evaluate_ends
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import Document, End
from reedloom.weave.edits import Edit
from reedloom.weave.resolve import resolve


class Variants(QObject):
    """Computes a result for each of some edits; only the newest request is answered."""

    made = Signal(int, QImage)
    """Which of the edits, and its picture."""
    _done = Signal(int, int, QImage)

    def __init__(self, workplace: Workplace, side: int, parent: QObject) -> None:
        super().__init__(parent)
        self.workplace, self.side = workplace, side
        self._request = 0
        self._done.connect(self._pass_on)

    def ask(self, end: End, edits: Sequence[Edit]) -> None:
        """Make a picture of an output after each edit, from the document as it is shown now."""
        self._request += 1
        document, end = self.workplace.document, self.workplace.at(end)
        for number, edit in enumerate(edits):
            lifted = self.workplace.session.lift(edit)
            errand = partial(self._make, self._request, number, document, end, lifted)
            self.workplace.background.add_errand(errand)

    def drop(self) -> None:
        """Forget what was asked."""
        self._request += 1

    def _make(self, request: int, number: int, document: Document, end: End, edit: Edit, stop: Stop) -> None:
        """In the worker."""
        if request != self._request:
            return
        kinds = self.workplace.kinds
        flat = resolve(edit.apply(document, kinds), kinds)
        size = flat.surface.fitting(self.side)
        value = evaluate_ends(flat, [end], size, stop=stop).results.get(end)
        if value is not None:
            array = as_map(value, *size)
            self._done.emit(request, number, picture_of(flat, end, array))

    def _pass_on(self, request: int, number: int, image: QImage) -> None:
        if request == self._request:
            self.made.emit(number, image)
