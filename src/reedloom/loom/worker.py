"""The one way to work off the window's thread: the newest job first, then errands; it never dies of an error.

Whatever a job raises is logged with its traceback and told as an exception; the worker goes on.
"""

from __future__ import annotations

import logging
import threading
from collections import deque
from collections.abc import Callable

from reedloom.errors import Cancelled

log = logging.getLogger(__name__)
Work = Callable[[], None]


class Worker:
    """A thread that carries out the newest job it was given, and errands while no job waits.

    Parameters
    ----------
    on_trouble : callable
        Told, in the worker's thread, the exception of a job or errand that raised one.
    on_idle : callable
        Told, in the worker's thread, that nothing is to be done any more, or that something is.
    """

    def __init__(
        self,
        name: str,
        on_trouble: Callable[[Exception], None] = lambda error: None,
        on_idle: Callable[[bool], None] = lambda idle: None,
    ) -> None:
        self._on_trouble, self._on_idle = on_trouble, on_idle
        self._newest: Work | None = None
        self._errands: deque[Work] = deque()
        self._closed = False
        self._busy = False
        self._wake = threading.Condition()
        self._thread = threading.Thread(target=self._work, name=f"reedloom-{name}", daemon=True)
        self._thread.start()

    @property
    def busy(self) -> bool:
        """Whether anything is done or waits to be."""
        return self._busy

    @property
    def closed(self) -> bool:
        """Whether it was told to end."""
        return self._closed

    @property
    def has_newer(self) -> bool:
        """Whether a job waits, so that the running one may leave off."""
        return self._newest is not None or self._closed

    def ask(self, job: Work) -> None:
        """Do this next, instead of the job that waits."""
        with self._wake:
            self._busy = True
            self._newest = job
            self._wake.notify_all()

    def add_errand(self, errand: Work) -> None:
        """Do this when no job waits."""
        with self._wake:
            self._busy = True
            self._errands.append(errand)
            self._wake.notify_all()

    def wait(self) -> None:
        """Until nothing is done and nothing waits."""
        with self._wake:
            self._wake.wait_for(lambda: not self._busy)

    def close(self, last: Work | None = None) -> None:
        """Do nothing more but `last`, and wait for the thread to end."""
        with self._wake:
            self._closed = True
            self._newest = last
            self._errands.clear()
            self._wake.notify_all()
        self._thread.join()
        self._busy = False

    def _next(self) -> Work | None:
        """What is to be done now, waited for; None at the end."""
        with self._wake:
            if self._newest is None and not self._errands and not self._closed:
                self._busy = False
                self._wake.notify_all()
                self._guard(lambda: self._on_idle(True))
                while self._newest is None and not self._errands and not self._closed:
                    self._wake.wait()
                self._guard(lambda: self._on_idle(False))
            if self._newest is not None:
                work, self._newest = self._newest, None
                return work
            return self._errands.popleft() if self._errands else None

    def _work(self) -> None:
        while True:
            work = self._next()
            if work is None:
                return
            self._guard(work)

    def _guard(self, work: Work) -> None:
        """Do something whose error must not end the thread."""
        try:
            work()
        except Cancelled:
            return  # asked for
        except Exception as error:
            log.exception("The worker '%s' met something unforeseen", self._thread.name)
            try:
                self._on_trouble(error)
            except Exception:
                log.exception("The trouble could not even be told")
