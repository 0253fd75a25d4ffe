"""Keeps results within a memory budget, weighing the seconds they save against the bytes they hold.

The rule is GreedyDual-Size (P. Cao and S. Irani, *Cost-aware WWW proxy caching algorithms*, 1997):
each entry is worth seconds per byte above a water line; the one worth least goes, and the line
rises to its worth, so that what is not used again sinks in time. Entries wait in a heap under what they were
worth when they were put there; a use only adds to that, so the least is looked at again when its turn comes.

Results of states that only pass, as while a value is dragged, go when the next such state comes, so that a
long drag pushes out nothing else and its maps take over one another's memory.
"""

from __future__ import annotations

import threading
from collections.abc import Container, Hashable, Iterable
from heapq import heapify, heappop, heappush
from itertools import count
from typing import Any

from msgspec import Struct

from reedloom.loom.keys import Ref
from reedloom.loom.memory import total_memory


class Entry(Struct):
    """One kept result: an array, or a `Material` of arrays."""

    array: Any
    seconds: float
    notes: tuple[str, ...]
    worth: float = 0.0


def default_budget() -> int:
    """A quarter of the machine's memory, in bytes."""
    return total_memory() // 4


class Cache:
    """Results by key; safe to use from several threads."""

    def __init__(self, budget: int | None = None) -> None:
        self.budget = default_budget() if budget is None else budget
        self._entries: dict[Ref, Entry] = {}
        self._queue: list[tuple[float, int, Ref, Entry]] = []
        self._numbers = count()
        self._line = 0.0
        self._held = 0
        self._in_use: dict[Hashable, frozenset[Ref]] = {}
        self._passing: set[Ref] = set()
        self._lock = threading.Lock()

    @property
    def held(self) -> int:
        """Bytes in use."""
        return self._held

    def __len__(self) -> int:
        return len(self._entries)

    def get(self, key: Ref) -> Entry | None:
        """The kept result, refreshed; None if there is none."""
        with self._lock:
            entry = self._entries.get(key)
            if entry is not None:
                entry.worth = self._line + entry.seconds / max(1, entry.array.nbytes)
            return entry

    def put(
        self, key: Ref, array: Any, seconds: float, notes: tuple[str, ...] = (), passing: bool = False
    ) -> None:
        """Keep a result; others go if the budget is exceeded. One that is larger than it is not kept.

        One of a state that only passes stays until `let_pass` or `settle`.
        """
        with self._lock:
            if array.nbytes > self.budget:
                return
            old = self._entries.pop(key, None)
            self._held += array.nbytes - (old.array.nbytes if old else 0)
            entry = Entry(array, seconds, notes, self._line + seconds / max(1, array.nbytes))
            self._entries[key] = entry
            if passing:
                self._passing.add(key)
            self._wait(key, entry)
            self._shrink()

    def let_pass(self, needed: Container[Ref]) -> None:
        """Another passing state comes: let go of what was kept for those before it.

        What it needs stays for good, and what is in use until the next one.
        """
        with self._lock:
            in_use = self._held_in_use()
            gone = {key for key in self._passing if key not in needed and key not in in_use}
            for key in gone & self._entries.keys():
                self._held -= self._entries.pop(key).array.nbytes
            self._passing = {key for key in self._passing & in_use if key not in needed}
            self._queue = [one for one in self._queue if self._entries.get(one[2]) is one[3]]
            heapify(self._queue)

    def settle(self, needed: Container[Ref]) -> None:
        """What passed stays for good if any of it is needed now: that state was recorded."""
        with self._lock:
            if any(key in needed for key in self._passing):
                self._passing.clear()

    def bound(self, budget: int) -> None:
        """Hold no more than so many bytes from now on."""
        with self._lock:
            self.budget = budget
            self._shrink()

    def keep_in_use(self, holder: Hashable, refs: Iterable[Ref]) -> None:
        """Let these results of a holder stay whatever else goes; they replace what it held, and count."""
        with self._lock:
            self._in_use[holder] = frozenset(refs)
            if not self._in_use[holder]:
                del self._in_use[holder]
            self._shrink()

    def _wait(self, key: Ref, entry: Entry) -> None:
        """Put an entry into the heap under what it is worth now."""
        heappush(self._queue, (entry.worth, next(self._numbers), key, entry))

    def _shrink(self) -> None:
        """Let what is worth least go until the budget is met."""
        if self._held <= self.budget:
            return
        in_use = self._held_in_use()
        spared = []
        while self._held > self.budget and self._queue:
            worth, _, key, entry = heappop(self._queue)
            if self._entries.get(key) is not entry:
                continue  # replaced since
            if key in in_use:
                spared.append((key, entry))
            elif entry.worth > worth:
                self._wait(key, entry)  # used since
            else:
                del self._entries[key]
                self._line = max(self._line, worth)  # what was in use may have sunk below it
                self._held -= entry.array.nbytes
        for key, entry in spared:
            self._wait(key, entry)

    def _held_in_use(self) -> frozenset[Ref]:
        return frozenset().union(*self._in_use.values())

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._entries.clear()
            self._queue.clear()
            self._passing.clear()
            self._held = 0
