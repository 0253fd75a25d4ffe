"""New maps, and the memory of large ones: what one leaves is kept, up to a bound, for those that come.

What the system gives is cleared page by page as it is first written, which for maps of 2048² and more takes
two or three times as long as writing them; and the C library's allocator hands their memory back as soon as
they are let go. Here it waits, in pieces of the system's large pages. A new map lies in the pieces of any
before it, put side by side by another entry in the table of pages, so that grey and colour maps take each
other's, and what waits adds nothing to the most that a run takes.
"""

from __future__ import annotations

import ctypes
import math
import mmap
import threading
from collections import deque
from collections.abc import Sequence
from typing import Any, NamedTuple
from weakref import finalize

import numpy as np

LEAST = 16 << 20
"""Bytes of a map from which on its memory is kept here; below, the allocator's own is as good."""
MOST = 192 << 20
"""Bytes that may wait to be used again: those of a colour map of 4096²."""
PIECE = 2 << 20
"""The system's large pages, which it gives where a whole one is asked for."""
ANONYMOUS = mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS
FIXED, MOVE = 0x10, 1 | 2
"""Linux' flags to map, and to move, just where it is told."""
NO_USE = 0
FAILED = ctypes.c_void_p(-1).value


class Stretch(NamedTuple):
    """Pieces of memory that lie side by side."""

    address: int
    pieces: int


def empty_map(shape: Sequence[int], dtype: Any = np.float32) -> np.ndarray:
    """A new array of plain numbers whose values are whatever they are.

    Raises
    ------
    MemoryError
        If there is no room for it.
    """
    dtype = np.dtype(dtype)
    size = math.prod(shape) * dtype.itemsize
    stretch = _take(-(-size // PIECE)) if size >= LEAST else None
    if stretch is None:
        return np.empty(shape, dtype)
    return np.asarray(_Lease(stretch, tuple(int(n) for n in shape), dtype))


def empty_like(map: np.ndarray) -> np.ndarray:
    """A new array of another's shape and numbers."""
    return empty_map(map.shape, map.dtype)


def let_go() -> None:
    """Hand all that waits back to the system."""
    with _lock:
        _hand_back(0)


_lock = threading.Lock()
_waiting: deque[Stretch] = deque()
"""What may be used again, the newest last."""


class _Lease:
    """What an array in some memory rests on, with all parts of it; once it is gone, that waits again."""

    def __init__(self, stretch: Stretch, shape: tuple[int, ...], dtype: np.dtype[Any]) -> None:
        where = stretch.address, False  # not read-only
        self.__array_interface__ = {"shape": shape, "typestr": dtype.str, "data": where, "version": 3}
        finalize(self, _give_back, stretch).atexit = False


def _give_back(stretch: Stretch) -> None:
    """Let memory wait, and hand on what is too much."""
    _waiting.append(stretch)
    # An array may go at any moment, even while this thread looks for memory: never wait here.
    if _lock.acquire(blocking=False):
        try:
            _hand_back(MOST)
        finally:
            _lock.release()


def _hand_back(most: int) -> None:
    """Give to the system what has waited longest, until no more bytes than so many wait."""
    while _waiting and sum(stretch.pieces for stretch in tuple(_waiting)) * PIECE > most:
        _unmap(*_waiting.popleft())


def _take(pieces: int) -> Stretch | None:
    """So much memory, as far as there is of what waits and else new; None if the system has none."""
    with _lock:
        alike = next((stretch for stretch in reversed(tuple(_waiting)) if stretch.pieces == pieces), None)
        if alike is not None:
            _waiting.remove(alike)
            return alike
        start = _reserve(pieces)
        if start is None:
            return None
        done = 0
        while done < pieces and _waiting:
            done += _move(_waiting.popleft(), start + done * PIECE, pieces - done)
        if done < pieces and not _map(start + done * PIECE, pieces - done):
            _unmap(start, pieces)
            return None
        return Stretch(start, pieces)


def _move(stretch: Stretch, to: int, most: int) -> int:
    """Move up to so many pieces to another address; the others wait again. Gives how many were moved."""
    address, pieces = stretch
    count = min(pieces, most)
    for number in range(count):
        way = number * PIECE
        if _system.mremap(address + way, PIECE, PIECE, MOVE, to + way) == FAILED:
            _unmap(address + way, pieces - number)
            return number
    if count < pieces:
        _waiting.appendleft(Stretch(address + count * PIECE, pieces - count))
    return count


def _reserve(pieces: int) -> int | None:
    """Addresses that nothing else gets, from the beginning of a large page on, without memory."""
    size = pieces * PIECE
    found = _system.mmap(None, size + PIECE, NO_USE, ANONYMOUS, -1, 0)
    if found == FAILED:
        return None
    start = -(-found // PIECE) * PIECE
    for first, end in ((found, start), (start + size, found + size + PIECE)):
        if end > first:
            _system.munmap(first, end - first)
    return start


def _map(start: int, pieces: int) -> bool:
    """Put new memory at reserved addresses; tells whether there was any."""
    size, use = pieces * PIECE, mmap.PROT_READ | mmap.PROT_WRITE
    if _system.mmap(start, size, use, ANONYMOUS | FIXED, -1, 0) == FAILED:
        return False
    _system.madvise(start, size, mmap.MADV_HUGEPAGE)
    return True


def _unmap(start: int, pieces: int) -> None:
    _system.munmap(start, pieces * PIECE)


def _declared() -> ctypes.CDLL:
    """The C library's functions for memory, which Python's own `mmap` has only without addresses."""
    system = ctypes.CDLL(None)
    address, size, number = ctypes.c_void_p, ctypes.c_size_t, ctypes.c_int
    system.mmap.argtypes, system.mmap.restype = (
        (address, size, number, number, number, ctypes.c_long),
        address,
    )
    system.mremap.argtypes, system.mremap.restype = (address, size, size, number, address), address
    system.munmap.argtypes, system.madvise.argtypes = (address, size), (address, size, number)
    return system


_system = _declared()
