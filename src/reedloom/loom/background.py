"""Evaluates off the window's thread, always for the newest wish.

Policy: a job is a row of stages, such as a coarse view, then cards, then the full view. A newer job takes
the place of the running one at its next stage. A coarse stage is let finish, so that a dragged slider shows
progress however fast it moves; so is a stage that the newer job asks for as well. Any other is stopped at
once. A stage marked to be skipped is not told of where it gave nothing new and the cache holds what the later
one that it prepares for asks.
Errands (pictures for the creel, for the try strip) run when no job waits.
"""

from __future__ import annotations

import time
from collections.abc import Callable

from msgspec import Struct

from reedloom.errors import Cancelled, ReedError
from reedloom.kernels.jit import Stop
from reedloom.loom.cache import Cache
from reedloom.loom.keys import Ref, Size
from reedloom.loom.plan import plan_ends
from reedloom.loom.run import Outcome, evaluate_ends, shared_cache
from reedloom.loom.worker import Worker
from reedloom.weave.document import End
from reedloom.weave.resolve import FlatGraph

TELL_EVERY = 0.05
"""Seconds between two words of progress: each wakes the window, of which a short stage needs none."""


class Stage(Struct, frozen=True, eq=False):
    """One step of a job: outputs of a graph at a size.

    Attributes
    ----------
    patient : bool
        Whether it finishes even when a newer job waits.
    unless : Size, optional
        It is not told of where nothing was computed for it and these outputs are kept at this size already.
    passing : bool
        Whether the graph is of a state that only passes, so that what comes of it need not stay; a stage that
        runs as such is let finish for the same one that is recorded.
    """

    name: str
    flat: FlatGraph
    ends: tuple[End, ...]
    size: Size
    patient: bool = False
    unless: Size | None = None
    passing: bool = False


class Report(Struct, frozen=True):
    """What came of a stage.

    Attributes
    ----------
    token : object
        What the job was submitted with, to tell whose it is.
    refs : End to Ref
        The content key behind each result: equal ones mean the same picture.
    """

    token: object
    stage: Stage
    outcome: Outcome
    refs: dict[End, Ref] = {}


class Background:
    """One worker with at most one waiting job.

    `on_report`, `on_progress`, `on_idle` and `on_trouble` are called in the worker's thread.
    """

    def __init__(
        self,
        on_report: Callable[[Report], None],
        on_progress: Callable[[str, float], None] = lambda name, share: None,
        on_idle: Callable[[bool], None] = lambda idle: None,
        on_trouble: Callable[[Exception], None] = lambda error: None,
        cache: Cache | None = None,
    ) -> None:
        self._on_report, self._on_progress = on_report, on_progress
        self._cache = shared_cache() if cache is None else cache
        self._running: tuple[Stage | None, Stop] = None, Stop()  # read at once: each stage has its own stop
        self._worker = Worker("background", on_trouble, on_idle)

    @property
    def busy(self) -> bool:
        """Whether anything is computed or waits to be."""
        return self._worker.busy

    def submit(self, token: object, stages: tuple[Stage, ...]) -> None:
        """Compute these stages next, instead of what was asked before."""
        self._worker.ask(lambda: self._run_job(token, stages))
        running, stop = self._running
        if running is not None and not running.patient and running not in stages:
            stop.set()

    def add_errand(self, errand: Callable[[Stop], None]) -> None:
        """Run something when there is nothing else to do; it should look at the stop flag it gets."""
        self._worker.add_errand(lambda: self._run_errand(errand))

    def close(self) -> None:
        """Stop everything and wait for the thread to end."""
        _, stop = self._running
        stop.set()
        self._worker.close()

    def _begin(self, stage: Stage) -> Stop:
        stop = Stop()
        self._running = stage, stop
        return stop

    def _run_errand(self, errand: Callable[[Stop], None]) -> None:
        stop = self._begin(_ERRAND)
        try:
            errand(stop)
        except Cancelled:
            if not self._worker.closed:
                self.add_errand(errand)
        finally:
            self._running = None, stop

    def _run_job(self, token: object, stages: tuple[Stage, ...]) -> None:
        for stage in stages:
            stop = self._begin(stage)
            if self._worker.has_newer and not stage.patient:
                break
            report = self._run_stage(token, stage, stop)
            if stage.unless is None or report.outcome.tasks or not self._is_kept(stage, stage.unless):
                self._on_report(report)
            if self._worker.has_newer:
                break
        self._running = None, Stop()

    def _is_kept(self, stage: Stage, size: Size) -> bool:
        try:
            return not plan_ends(stage.flat, stage.ends, size, self._cache).tasks
        except ReedError:
            return False

    def _run_stage(self, token: object, stage: Stage, stop: Stop) -> Report:
        told = time.monotonic()

        def tell(share: float) -> None:
            nonlocal told
            now = time.monotonic()
            if now - told >= TELL_EVERY:
                told = now
                self._on_progress(stage.name, share)

        refs: dict[End, Ref] = {}
        try:
            outcome = evaluate_ends(
                stage.flat, stage.ends, stage.size, cache=self._cache, passing=stage.passing, stop=stop,
                progress=tell, refs=refs,
            )  # fmt: skip
        except Cancelled:
            raise
        except ReedError as error:
            outcome = Outcome(failures={end.node: str(error) for end in stage.ends})
        return Report(token, stage, outcome, refs)


_ERRAND = Stage("errand", FlatGraph(), (), (1, 1))
