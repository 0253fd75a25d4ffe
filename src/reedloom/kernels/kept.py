"""Keeps the tables that kernels read, so that a dragged value does not make them anew each time."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import wraps
from typing import ParamSpec

import numpy as np

COUNT = 256
"""Small things of one maker that are kept, the last used ones."""

LARGEST = 4
"""A table that takes more than one part in so many of the room is not kept: it would push out all others."""

Given = ParamSpec("Given")


def kept_tables(room: int) -> Callable[[Callable[Given, np.ndarray]], Callable[Given, np.ndarray]]:
    """For a function of plain values that makes a table: keep those last used, up to `room` bytes in all.

    Tables are read-only.
    """

    def around(make: Callable[Given, np.ndarray]) -> Callable[Given, np.ndarray]:
        shelf = _Shelf(room)

        @wraps(make)
        def get(*given: Given.args, **named: Given.kwargs) -> np.ndarray:
            key = (given, tuple(named.items()))
            table = shelf.find(key)
            if table is None:
                table = make(*given, **named)
                table.flags.writeable = False
                shelf.put(key, table)
            return table

        return get

    return around


class _Shelf:
    """Tables by what they were made of; several threads may look for them."""

    def __init__(self, room: int) -> None:
        self.room, self.held = room, 0
        self.tables: OrderedDict[Hashable, np.ndarray] = OrderedDict()
        self.lock = threading.Lock()

    def find(self, key: Hashable) -> np.ndarray | None:
        with self.lock:
            if key in self.tables:
                self.tables.move_to_end(key)
            return self.tables.get(key)

    def put(self, key: Hashable, table: np.ndarray) -> None:
        with self.lock:
            if key not in self.tables and table.nbytes <= self.room // LARGEST:
                self.tables[key] = table
                self.held += table.nbytes
            while self.held > self.room:
                self.held -= self.tables.popitem(last=False)[1].nbytes
