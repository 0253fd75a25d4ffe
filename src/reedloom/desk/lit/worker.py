"""Draws lit frames in a thread of their own: coarse at once, fine when nothing newer is asked."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QObject, Signal

from reedloom.desk.screen.workplace import to_image
from reedloom.errors import ReedError
from reedloom.lit.state import Box
from reedloom.loom.worker import Worker
from reedloom.weave.document import LitState

if TYPE_CHECKING:
    from reedloom.lit.renderer import Renderer

Pixels = tuple[np.ndarray, ...]
COARSE = 2
"""The coarse frame has so many times fewer pixels along each side."""
SAMPLES = 12
"""Frames of one sample a pixel whose mean is shown when nothing moves any more."""
REGION_SAMPLES = 64
"""Frames whose mean is shown in a region drawn by hand; the rest of the view stays with the first."""
SHOWN = frozenset({1, 2, 4, 8, SAMPLES, 24, 40, REGION_SAMPLES})
"""After how many of them the mean is shown."""


class LitRequest(Struct, frozen=True, eq=False):
    """A frame to draw.

    Attributes
    ----------
    materials : tuple of maps by channel
        One, or two to be compared.
    region : (left, top, right, bottom) in pixels, optional
        Where alone the frame is refined.
    passing : bool
        Finer maps will follow at once, so draw only a coarse frame.
    """

    state: LitState
    materials: tuple[Mapping[str, np.ndarray], ...]
    size: tuple[int, int]
    surface: tuple[float, float]
    aspect: float
    background: tuple[float, float, float]
    region: Box | None = None
    passing: bool = False


class LitWorker(QObject):
    """Owns the renderer; GL objects are made, used and released in its thread."""

    drawn = Signal(object, bool)
    """A picture of each material, and whether they are the last, finest ones."""
    failed = Signal(str)
    """There can be no pictures at all, with the reason."""
    refused = Signal(str)
    """One frame could not be drawn, with the reason; the next one may be."""
    troubled = Signal()
    """A frame was left out because of something unforeseen, which is in the log."""

    def __init__(self) -> None:
        super().__init__()
        self._worker: Worker | None = None
        self._renderer: Renderer | None = None
        self._interrupted = False

    def ask(self, request: LitRequest) -> None:
        """Draw this next, instead of what was asked before."""
        if self._worker is None:
            self._worker = Worker("lit", on_trouble=lambda error: self.troubled.emit())
        self._worker.ask(lambda: self._begin(request))

    def interrupt(self) -> None:
        """Leave a fine frame half-way: the maps are about to change, and need the processor more."""
        self._interrupted = True

    @property
    def interrupted(self) -> bool:
        """Whether a frame was left, or would be, and nothing was asked since."""
        return self._interrupted

    def close(self) -> None:
        """Stop drawing and give everything back."""
        if self._worker is not None:
            self._worker.close(self._release)

    def _stale(self) -> bool:
        return self._interrupted or (self._worker is not None and self._worker.has_newer)

    def _release(self) -> None:
        if self._renderer is not None:
            self._renderer.release()

    def _begin(self, request: LitRequest) -> None:
        self._interrupted = False
        if self._renderer is None:
            from reedloom.lit.renderer import Renderer  # here, since an empty window draws nothing in light

            try:
                self._renderer = Renderer()
            except ReedError as error:
                self.failed.emit(str(error))
                return
        try:
            self._draw(self._renderer, request)
        except ReedError as error:
            self.refused.emit(str(error))

    def _draw(self, renderer: Renderer, request: LitRequest) -> None:
        size = request.size
        half = (max(1, size[0] // COARSE), max(1, size[1] // COARSE))
        self._show(self._frames(renderer, request, half, fine=False), False)
        if request.passing:
            return
        box = request.region or (0, 0, *size)
        part = np.s_[box[1] : box[3], box[0] : box[2]]
        shown: Pixels | None = None
        totals = [np.zeros((box[3] - box[1], box[2] - box[0], 3), np.uint16) for _ in request.materials]
        last = REGION_SAMPLES if request.region else SAMPLES
        for sample in range(last):
            whole = sample == 0
            frames = self._frames(renderer, request, size, sample=sample, box=None if whole else box)
            if frames is None:
                return
            shown = tuple(f.copy() for f in frames) if shown is None else shown
            count = sample + 1
            for number, frame in enumerate(frames):
                totals[number] += frame[part] if whole else frame
                shown[number][part] = (totals[number] + count // 2) // count
            if count in SHOWN:
                self._show(shown, count == last)

    def _show(self, frames: Pixels | None, final: bool) -> None:
        if frames is not None:
            self.drawn.emit([to_image(frame) for frame in frames], final)

    def _frames(
        self,
        renderer: Renderer,
        request: LitRequest,
        size: tuple[int, int],
        *,
        fine: bool = True,
        sample: int = 0,
        box: Box | None = None,
    ) -> Pixels | None:
        """A frame of every material; None if something newer is asked."""
        made = []
        for number, maps in enumerate(request.materials):
            if fine and self._stale():
                return None
            renderer.set_maps(maps, number)
            frame = renderer.render(
                request.state,
                size,
                surface=request.surface,
                aspect=request.aspect,
                background=request.background,
                fine=fine,
                sample=sample,
                box=box,
                stopped=self._stale if fine else lambda: False,
            )
            if frame is None:
                return None
            made.append(frame)
        return tuple(made)
