"""Runs a function off the window's thread, always for the newest request only."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from PySide6.QtCore import QObject, Qt, Signal


class LatestOnly(QObject):
    """One worker; a request that is no longer the newest is neither run nor reported."""

    done = Signal(object)
    """Carries what the newest request gave."""
    _made = Signal(int, object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="reedloom-newest")
        self._number = 0
        self._made.connect(self._pass_on, Qt.ConnectionType.QueuedConnection)

    def ask(self, make: Callable[[], object]) -> None:
        """Run this, instead of what waits."""
        self._number += 1
        self._pool.submit(self._run, self._number, make)

    def drop(self) -> None:
        """Forget what was asked."""
        self._number += 1

    def close(self) -> None:
        """Wait for what runs."""
        self.drop()
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _run(self, number: int, make: Callable[[], object]) -> None:
        if number == self._number:
            self._made.emit(number, make())

    def _pass_on(self, number: int, made: object) -> None:
        if number == self._number:
            self.done.emit(made)
