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

COARSE = 2
"""The coarse frame has so many times fewer pixels along each side."""
SAMPLES = 12
"""Frames of one sample a pixel whose mean is shown when nothing moves any more."""
SHOWN = frozenset({1, 2, 4, 8, SAMPLES})
"""After how many of them the mean is shown."""


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
        size = request.size
        half = (max(1, size[0] // COARSE), max(1, size[1] // COARSE))
        frame = self._frame(renderer, request, half, fine=False)
        if frame is not None:
            self.drawn.emit(to_image(frame), False)
        if request.passing:
            return
        total = np.zeros((size[1], size[0], 3), np.uint16)
        for sample in range(SAMPLES):
            frame = None if self._stale() else self._frame(renderer, request, size, sample=sample)
            if frame is None:
                return
            total += frame
            if sample + 1 in SHOWN:
                mean = ((total + (sample + 1) // 2) // (sample + 1)).astype(np.uint8)
                self.drawn.emit(to_image(mean), sample + 1 == SAMPLES)

    def _frame(
        self, renderer: Renderer, request: LitRequest, size: tuple[int, int], fine: bool = True, sample: int = 0
    ) -> np.ndarray | None:
        return renderer.render(
            request.state,
            size,
            surface=request.surface,
            background=request.background,
            fine=fine,
            sample=sample,
            stopped=self._stale if fine else lambda: False,
        )
