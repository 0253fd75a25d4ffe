"""Runs evaluations off the window's thread, always for the newest document.

Policy: a job is a document with stages, such as a coarse view, then cards, then the full view. A
newer job takes the place of the running one at its next stage; a coarse stage is let finish, so that
a dragged slider shows progress however fast it moves, while a full stage is stopped at once. Errands
(pictures for the creel, for the try strip) run when no job waits.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

from reedloom.errors import Cancelled, ReedError
from reedloom.kernels.jit import Stop
from reedloom.loom.keys import Size
from reedloom.loom.run import Outcome, evaluate_ends
from reedloom.weave.document import Document, End


@dataclass(frozen=True)
class Stage:
    """One step of a job: outputs at a size. `patient` stages finish even when a newer job waits."""

    name: str
    ends: tuple[End, ...]
    size: Size
    patient: bool = False


@dataclass(frozen=True)
class Job:
    """What to compute for one version of the document."""

    document: Document
    stages: tuple[Stage, ...]
    number: int = 0


@dataclass(frozen=True)
class Report:
    """What came of a stage."""

    job: Job
    stage: Stage
    outcome: Outcome
    current: bool


@dataclass
class Background:
    """One worker thread with at most one waiting job.

    `on_report`, `on_progress` and `on_idle` are called in the worker thread.
    """

    on_report: Callable[[Report], None]
    on_progress: Callable[[str, float], None] = lambda name, share: None
    on_idle: Callable[[bool], None] = lambda idle: None
    _waiting: Job | None = None
    _errands: deque[Callable[[Stop], None]] = field(default_factory=deque)
    _running: Stage | None = None
    _stop: Stop = field(default_factory=Stop)
    _closed: bool = False
    _busy: bool = False
    _number: int = 0

    def __post_init__(self) -> None:
        self._wake = threading.Condition()
        self._thread = threading.Thread(target=self._work, name="reedloom-background", daemon=True)
        self._thread.start()

    @property
    def busy(self) -> bool:
        """Whether anything is computed or waits to be."""
        return self._busy

    def submit(self, document: Document, stages: tuple[Stage, ...]) -> int:
        """Compute these stages next, instead of what was asked before; returns the job's number."""
        with self._wake:
            self._number += 1
            self._busy = True
            self._waiting = Job(document, stages, self._number)
            if self._running is not None and not self._running.patient:
                self._stop.set()
            self._wake.notify()
            return self._number

    def add_errand(self, errand: Callable[[Stop], None]) -> None:
        """Run something when there is nothing else to do; it should look at the stop flag it gets."""
        with self._wake:
            self._busy = True
            self._errands.append(errand)
            self._wake.notify()

    def close(self) -> None:
        """Stop everything and wait for the thread to end."""
        with self._wake:
            self._closed = True
            self._stop.set()
            self._wake.notify()
        self._thread.join()

    def _work(self) -> None:
        while True:
            with self._wake:
                if self._waiting is None and not self._errands and not self._closed:
                    self._busy = False
                    self.on_idle(True)
                while self._waiting is None and not self._errands and not self._closed:
                    self._wake.wait()
                if self._closed:
                    return
                job, self._waiting = self._waiting, None
                errand = self._errands.popleft() if job is None else None
                self._stop = Stop()
                self._running = None if job is not None else Stage("errand", (), (1, 1))
            self.on_idle(False)
            if job is not None:
                self._run_job(job)
            elif errand is not None:
                self._run_errand(errand)
            with self._wake:
                self._running = None

    def _run_errand(self, errand: Callable[[Stop], None]) -> None:
        try:
            errand(self._stop)
        except Cancelled:
            with self._wake:
                if not self._closed:
                    self._errands.append(errand)
        except ReedError:
            return  # an errand's picture is a nicety; its trouble shows when the real thing is computed

    def _run_job(self, job: Job) -> None:
        for stage in job.stages:
            with self._wake:
                if self._waiting is not None or self._closed:
                    return
                self._stop = stop = Stop()
                self._running = stage

            def tell(share: float, name: str = stage.name) -> None:
                self.on_progress(name, share)

            try:
                outcome = evaluate_ends(job.document, stage.ends, stage.size, stop=stop, progress=tell)
            except Cancelled:
                return
            except ReedError as error:
                outcome = Outcome(failures={end.node: str(error) for end in stage.ends})
            self.on_report(Report(job, stage, outcome, current=self._waiting is None))
