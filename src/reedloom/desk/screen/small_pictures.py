"""Small pictures of whole surfaces: from disk where they are kept, else made when nothing else is to do."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from reedloom.desk.screen import kept_pictures
from reedloom.desk.screen.latest import LatestOnly
from reedloom.desk.screen.workplace import Workplace, to_image
from reedloom.errors import ReedError
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import Kinds
from reedloom.loom.cache import Cache
from reedloom.loom.plan import plan_ends
from reedloom.loom.run import evaluate_ends
from reedloom.preview.encodings import rgb_picture
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import End
from reedloom.weave.resolve import FlatGraph
from reedloom.weave.states import surface_of

Wanted = tuple[str, Callable[[], FlatGraph]]
"""A name, and what gives the graph whose surface is wanted; called off the window's thread."""


def surface_key(flat: FlatGraph, end: End, size: tuple[int, int]) -> str:
    """The content key of a surface at a size; empty if it cannot be made."""
    ref = plan_ends(flat, [end], size, Cache()).asked.get(end)
    return "" if ref is None else ref[0]


def surface_picture(flat: FlatGraph, end: End, size: tuple[int, int], stop: Stop) -> tuple[QImage, str]:
    """The picture of a surface, seen flat in light from the upper left; or an empty one and the reason."""
    outcome = evaluate_ends(flat, [end], size, stop=stop)
    value = outcome.results.get(end)
    if value is None:
        return QImage(), next(iter(outcome.failures.values()), "nothing is tied to its map rail.")
    return to_image(rgb_picture(as_map(value, *size))), ""


class SmallPictures(QObject):
    """Pictures of some surfaces by name; only the newest request is answered."""

    made = Signal(str, QImage)
    failed = Signal(str, str)
    """A name, and why there is no picture."""
    _done = Signal(int, str, QImage, str)

    def __init__(self, workplace: Workplace, side: int, parent: QObject) -> None:
        super().__init__(parent)
        self.workplace, self.side = workplace, side
        self._request = 0
        self._finder = LatestOnly(self)
        self._done.connect(self._pass_on)

    def ask(self, wanted: Sequence[Wanted]) -> None:
        """Have pictures made, the kept ones first."""
        self._request += 1
        request, kinds, chosen = self._request, self.workplace.kinds, tuple(wanted)
        self._finder.ask(lambda: self._find(request, kinds, chosen))

    def drop(self) -> None:
        """Forget what was asked."""
        self._request += 1
        self._finder.drop()

    def close(self) -> None:
        """End the thread that looks for kept ones."""
        self.drop()
        self._finder.close()

    def _find(self, request: int, kinds: Kinds, wanted: Sequence[Wanted]) -> None:
        """In a thread of its own: what is kept is there at once, the rest waits its turn."""
        missing = []
        for name, make in wanted:
            if request != self._request:
                return
            try:
                flat, end = surface_of(make(), kinds)
                size = flat.surface.fitting(self.side)
                key = surface_key(flat, end, size)
            except ReedError as error:
                self._done.emit(request, name, QImage(), str(error))
                continue
            image = kept_pictures.load(key) if key else None
            if image is not None:
                self._done.emit(request, name, image, "")
            else:
                missing.append(partial(self._make, request, name, flat, end, size, key))
        for errand in missing:
            self.workplace.background.add_errand(errand)

    def _make(
        self, request: int, name: str, flat: FlatGraph, end: End, size: tuple[int, int], key: str, stop: Stop
    ) -> None:
        """In the background worker."""
        if request != self._request:
            return
        image, trouble = surface_picture(flat, end, size, stop)
        if key and not trouble:
            kept_pictures.keep(key, image)
        self._done.emit(request, name, image, trouble)

    def _pass_on(self, request: int, name: str, image: QImage, trouble: str) -> None:
        if request != self._request:
            return
        if trouble:
            self.failed.emit(name, trouble)
        else:
            self.made.emit(name, image)
