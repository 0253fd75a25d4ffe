"""Runs a function off the window's thread, always for the newest request only."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt, Signal

from reedloom.errors import ReedError
from reedloom.loom.worker import Worker


class LatestOnly(QObject):
    """One worker; a request that is no longer the newest is neither run nor reported."""

    done = Signal(object)
    """Carries what the newest request gave."""
    failed = Signal(object)
    """Carries the exception of the newest request; what was unforeseen is in the log."""
    _made = Signal(int, object)
    _broke = Signal(int, object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._worker = Worker("latest")
        self._number = 0
        self._made.connect(self._pass_on, Qt.ConnectionType.QueuedConnection)
        self._broke.connect(self._pass_trouble_on, Qt.ConnectionType.QueuedConnection)

    def ask(self, make: Callable[[], object]) -> None:
        """Run this, instead of what waits."""
        self._number += 1
        number = self._number
        self._worker.ask(lambda: self._run(number, make))

    def drop(self) -> None:
        """Forget what was asked."""
        self._number += 1

    def close(self) -> None:
        """Wait for what runs."""
        self.drop()
        self._worker.close()

    def _run(self, number: int, make: Callable[[], object]) -> None:
        if number != self._number:
            return
        try:
            made = make()
        except Exception as error:
            self._broke.emit(number, error)
            if isinstance(error, ReedError):
                return  # it says itself what is wrong
            raise  # the worker writes it to the log and goes on
        self._made.emit(number, made)

    def _pass_on(self, number: int, made: object) -> None:
        if number == self._number:
            self.done.emit(made)

    def _pass_trouble_on(self, number: int, error: object) -> None:
        if number == self._number:
            self.failed.emit(error)
