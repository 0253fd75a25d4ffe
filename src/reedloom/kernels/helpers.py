"""Lets threads that have no work of their own share in the bands of others."""

from __future__ import annotations

import threading
from collections.abc import Callable


class _Shared:
    """Work that goes on until nothing of it is left to begin, in as many threads as call it."""

    def __init__(self, work: Callable[[], None]) -> None:
        self.work = work
        self.helping = 0
        self.trouble: BaseException | None = None


class Helpers:
    """What some threads have on hand, for those of them that are idle.

    Attributes
    ----------
    wake : Condition
        Told whenever there is something to share, or help with it has ended.
    """

    def __init__(self) -> None:
        self.wake = threading.Condition()
        self._open: list[_Shared] = []

    def share(self, work: Callable[[], None]) -> None:
        """Carry work out, with all who come to help, until all of them are done.

        Raises
        ------
        Exception
            What `work` raised, here or with a helper.
        """
        shared = _Shared(work)
        with self.wake:
            self._open.append(shared)
            self.wake.notify_all()
        try:
            work()
        finally:
            with self.wake:
                self._close(shared)
                while shared.helping:
                    self.wake.wait()
        if shared.trouble is not None:
            raise shared.trouble

    def help(self) -> bool:
        """Help with whatever is open; whether there was anything. `wake` is held, but for while it helps."""
        if not self._open:
            return False
        shared = self._open[0]
        shared.helping += 1
        self.wake.release()
        try:
            shared.work()
        except BaseException as error:  # raised where it was shared
            shared.trouble = shared.trouble or error
        finally:
            self.wake.acquire()
        shared.helping -= 1
        self._close(shared)
        self.wake.notify_all()
        return True

    def _close(self, shared: _Shared) -> None:
        """Nothing of it is left to begin."""
        if shared in self._open:
            self._open.remove(shared)
