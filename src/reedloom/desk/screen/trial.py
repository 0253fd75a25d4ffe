"""Results of a weave with other values, in a thread of their own: all coarse first, then fine."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import Any

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from reedloom.desk.screen.workplace import to_image
from reedloom.errors import Cancelled, ReedError
from reedloom.kernels.jit import Stop, thread_count
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.channels import CHANNELS
from reedloom.kit.data import Material
from reedloom.kit.values import convert
from reedloom.lit.renderer import Renderer
from reedloom.loom.run import evaluate_ends
from reedloom.loom.worker import Worker
from reedloom.preview.encodings import rgb_picture
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import LitState
from reedloom.weave.resolve import FlatGraph
from reedloom.weave.states import surface_of

COARSE = 64
"""Samples along the longer side of a first, coarse result."""
LIT_SAMPLES = 3
"""Frames of one sample a pixel whose mean is a lit result."""


class Trial(Struct, frozen=True, eq=False):
    """What is wanted of each of some states.

    Attributes
    ----------
    states : callables that give a resolved document each; called off the window's thread
    side : int
        Samples along the longer side.
    lit : LitState, optional
        How the results are lit; flat ones if None.
    background : encoded sRGB, 0..1
    """

    states: tuple[Callable[[], FlatGraph], ...]
    kinds: Kinds
    side: int
    lit: LitState | None = None
    background: tuple[float, float, float] = (0.1, 0.1, 0.1)


class TrialWorker(QObject):
    """Carries out the newest trial; one that is asked anew is stopped at once."""

    made = Signal(int, int, QImage, bool)
    """Of which request, which state, its picture, and whether it is the fine one."""
    failed = Signal(int, int, str)
    finished = Signal(int)
    troubled = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._worker: Worker | None = None
        self._renderer: Renderer | None = None
        self._stop = Stop()
        self._request = 0

    def ask(self, trial: Trial) -> int:
        """Begin a trial, instead of the one that runs; returns its number."""
        if self._worker is None:
            self._worker = Worker("trial", on_trouble=lambda error: self.troubled.emit(str(error)))
        self._stop.set()
        self._stop = stop = Stop()
        self._request += 1
        request = self._request
        self._worker.ask(lambda: self._run(request, trial, stop))
        return request

    def drop(self) -> None:
        """Stop what runs."""
        self._stop.set()
        self._request += 1

    def close(self) -> None:
        """End the thread."""
        self._stop.set()
        if self._worker is not None:
            self._worker.close(self._release)
            self._worker = None

    def _release(self) -> None:
        if self._renderer is not None:
            self._renderer.release()
            self._renderer = None

    # -- in the worker ---------------------------------------------------------------------------------

    def _run(self, request: int, trial: Trial, stop: Stop) -> None:
        sides = (COARSE, trial.side) if trial.side > COARSE else (trial.side,)
        states: dict[int, Callable[[], FlatGraph]] = {n: cache(make) for n, make in enumerate(trial.states)}
        try:
            with ThreadPoolExecutor(thread_count(), thread_name_prefix="reedloom-trial") as pool:
                for side in sides:
                    states = self._stage(pool, request, trial, states, side, side == sides[-1], stop)
        except Cancelled:
            return
        self.finished.emit(request)

    def _stage(
        self,
        pool: ThreadPoolExecutor,
        request: int,
        trial: Trial,
        states: Mapping[int, Callable[[], FlatGraph]],
        side: int,
        fine: bool,
        stop: Stop,
    ) -> dict[int, Callable[[], FlatGraph]]:
        """All states at one size, several at once, each on a thread of its own; returns those that are sound.

        A document is resolved by whoever computes it, beside what is computed already.
        """
        threads = 1 if len(states) > 1 else None
        wanted = {
            n: pool.submit(_surface, make, trial.kinds, side, stop, threads) for n, make in states.items()
        }
        sound: dict[int, Callable[[], FlatGraph]] = {}
        try:
            for number, future in wanted.items():
                flat, value, reason = future.result()
                stop.check()
                if flat is not None:
                    sound[number] = states[number]
                if flat is None or value is None:
                    self.failed.emit(request, number, reason)
                    continue
                image = self._picture(value, flat, trial, side, fine)
                self.made.emit(request, number, image, fine)
        finally:
            for future in wanted.values():
                future.cancel()
        return sound

    def _picture(self, value: Material, flat: FlatGraph, trial: Trial, side: int, fine: bool) -> QImage:
        if trial.lit is None:
            return to_image(rgb_picture(as_map(value, *flat.surface.fitting(side))))
        return self._lit(value, flat, trial, trial.lit, side, fine)

    def _lit(
        self, material: Material, flat: FlatGraph, trial: Trial, state: LitState, side: int, fine: bool
    ) -> QImage:
        if self._renderer is None:
            self._renderer = Renderer()
        maps = {c: convert(array, CHANNELS[c].data) for c, array in material.items()}
        self._renderer.set_maps(maps)
        total: Any = None
        count = LIT_SAMPLES if fine else 1
        for sample in range(count):
            frame = self._renderer.render(
                state, (side, side), surface=(flat.surface.width, flat.surface.depth),
                aspect=flat.surface.aspect, fine=fine, sample=sample, background=trial.background,
            )  # fmt: skip
            assert frame is not None
            total = frame.astype(np.uint16) if total is None else total + frame
        return to_image((total // count).astype(np.uint8))


def _surface(
    make: Callable[[], FlatGraph], kinds: Kinds, side: int, stop: Stop, threads: int | None
) -> tuple[FlatGraph | None, Material | None, str]:
    """A state resolved, and its whole surface, or why there is none."""
    try:
        flat = make()
        whole, end = surface_of(flat, kinds)
    except ReedError as error:
        return None, None, str(error)
    outcome = evaluate_ends(whole, [end], flat.surface.fitting(side), stop=stop, threads=threads)
    value = outcome.results.get(end)
    return flat, value, next(iter(outcome.failures.values()), "Nothing is tied to the map rail.")


def spread(values: tuple[Any, Any], count: int) -> Sequence[float]:
    """So many numbers from one to another, both included."""
    low, high = values
    if count == 1:
        return [low]
    return [low + (high - low) * i / (count - 1) for i in range(count)]
