"""What others take of the machine: told beside each row, waited out, and what they spoiled measured anew."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import numpy as np

Found = TypeVar("Found")
ENOUGH = 0.1
"""A measure counts if others took no more than this share of the processors meanwhile."""
TRIES = 4
"""Measures of one thing at most; the last one counts as it is."""
PATIENCE = 900.0
"""Seconds that a run waits in all for others to leave the machine."""


class Watch:
    """How much of the machine others took since the last look."""

    def __init__(self) -> None:
        self._before = self._look()

    @staticmethod
    def _look() -> tuple[float, float, float]:
        """Seconds gone, seconds of the processors in use by all, and by this program and those it started."""
        words = Path("/proc/stat").read_text().split("\n", 1)[0].split()[1:]
        idle = int(words[3]) + int(words[4])
        used = (sum(int(word) for word in words[:8]) - idle) / os.sysconf("SC_CLK_TCK")
        own = os.times()
        return time.perf_counter(), used, own.user + own.system + own.children_user + own.children_system

    def others(self) -> float | None:
        """The share that others took, 0..1; None when too little time has gone to tell."""
        now = self._look()
        gone, used, own = (after - before for after, before in zip(now, self._before, strict=True))
        self._before = now
        return None if gone < 0.1 else min(max(0.0, used - own) / (gone * (os.cpu_count() or 1)), 1.0)


class Guard:
    """Measures while others leave the machine alone, and remembers how that went."""

    def __init__(self) -> None:
        self.anew = 0
        """Measures that were done again."""
        self._shares: list[float] = []
        self._left = PATIENCE

    def undisturbed(self, measure: Callable[[], Found]) -> Found:
        """What a measure gives; done anew, once the machine is quiet, if others took too much of it.

        The first one that counts is taken, not the best of them.
        """
        for left in reversed(range(TRIES)):
            watch = Watch()
            found = measure()
            others = watch.others()
            if others is None or others <= ENOUGH or not left or not self._wait():
                break
            self.anew += 1
        if others is not None:
            self._shares.append(others)
        return found

    def others(self) -> float | None:
        """The mean share that others took of what counted since last asked; None if there was nothing."""
        shares, self._shares = self._shares, []
        return sum(shares) / len(shares) if shares else None

    def _wait(self) -> bool:
        """Wait until all processors are ours; whether they are, before patience ends."""
        start = time.perf_counter()
        while time.perf_counter() - start < self._left:
            watch = Watch()
            use_all(0.5)
            if (watch.others() or 0.0) <= ENOUGH:
                break
            time.sleep(3)
        self._left -= time.perf_counter() - start
        return self._left > 0


def use_all(seconds: float) -> None:
    """Keep all processors busy: only what is asked of them shows what others take."""
    end = time.perf_counter() + seconds

    def work() -> None:
        angles = np.linspace(0, 9, 200_000, dtype=np.float32)
        while time.perf_counter() < end:
            np.sin(angles)

    threads = [threading.Thread(target=work) for _ in range(os.cpu_count() or 1)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


GUARD = Guard()
undisturbed = GUARD.undisturbed
