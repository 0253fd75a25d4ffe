"""Draws lit frames in a thread of their own: coarse at once, fine when nothing newer is asked."""

from __future__ import annotations

import threading
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from reedloom.desk.workplace import to_image
from reedloom.errors import ReedError
from reedloom.lit.renderer import Renderer
from reedloom.lit.state import LitState

COARSE = 3
"""The coarse frame has so many times fewer pixels along each side."""


FINEST = 3
"""Samples a pixel of the last frame, when nothing moves any more."""


@dataclass(frozen=True, eq=False)
class LitRequest:
    """A frame to draw; with `passing` maps, which finer ones will follow at once, only a coarse one."""

    state: LitState
    maps: Mapping[str, np.ndarray]
    size: tuple[int, int]
    surface: tuple[float, float]
    background: tuple[float, float, float]
    passing: bool = False


@dataclass
class _Inbox:
    newest: LitRequest | None = None
    closed: bool = False
    hushed: bool = False
    wake: threading.Condition = field(default_factory=threading.Condition)


class LitWorker(QObject):
    """Owns the renderer; GL objects are made, used and released in its thread."""

    drawn = Signal(QImage, bool)
    """A frame, and whether it is the last, finest one."""
    failed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._inbox = _Inbox()
        self._thread: threading.Thread | None = None

    def ask(self, request: LitRequest) -> None:
        """Draw this next, instead of what was asked before."""
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, name="reedloom-lit", daemon=True)
            self._thread.start()
        with self._inbox.wake:
            self._inbox.newest = request
            self._inbox.wake.notify()

    def hush(self) -> None:
        """Leave a fine frame half-way: the maps are about to change, and need the processor more."""
        self._inbox.hushed = True

    def close(self) -> None:
        """Stop drawing and give everything back."""
        with self._inbox.wake:
            self._inbox.closed = True
            self._inbox.wake.notify()
        if self._thread is not None:
            self._thread.join()

    def _stale(self) -> bool:
        return self._inbox.newest is not None or self._inbox.closed or self._inbox.hushed

    def _work(self) -> None:
        try:
            renderer = Renderer()
        except ReedError as error:
            self.failed.emit(str(error))
            return
        while True:
            with self._inbox.wake:
                while self._inbox.newest is None and not self._inbox.closed:
                    self._inbox.wake.wait()
                if self._inbox.closed:
                    break
                request, self._inbox.newest = self._inbox.newest, None
                self._inbox.hushed = False
            if request is not None:
                self._draw(renderer, request)
        renderer.release()

    def _draw(self, renderer: Renderer, request: LitRequest) -> None:
        renderer.set_maps(request.maps)
        small = (max(1, request.size[0] // COARSE), max(1, request.size[1] // COARSE))
        for size, fine, samples in ((small, False, 1), (request.size, True, 1), (request.size, True, FINEST)):
            frame = renderer.render(
                request.state,
                size,
                surface=request.surface,
                fine=fine,
                samples=samples,
                background=request.background,
                stopped=self._stale if fine else lambda: False,
            )
            if frame is None:
                return
            self.drawn.emit(to_image(frame), samples == FINEST)
            if request.passing or self._stale():
                return
