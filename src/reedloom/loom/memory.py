"""How much memory the machine, or the container that this runs in, has left."""

from __future__ import annotations

import ctypes
from contextlib import suppress
from pathlib import Path

UNKNOWN = 2**62
TRIM_THRESHOLD, MMAP_THRESHOLD = -1, -3
"""Numbers of glibc's options, from its `malloc.h`."""
KEPT = 16
"""Of the machine's memory the allocator keeps one part in so many that is free at the end of its heap."""
GROUP = Path("/sys/fs/cgroup")


def keep_freed_memory() -> None:
    """Let the allocator hold on to memory of maps below 32 MB that are let go, for the next ones.

    What is fresh from the system is cleared page by page as it is first written, which was a fifth of what a
    dragged value takes. Larger maps still go back at once. Without such a setting in the C library nothing
    happens.
    """
    set_option = getattr(ctypes.CDLL(None), "mallopt", None)
    if set_option is not None:
        set_option(MMAP_THRESHOLD, 32 << 20)
        set_option(TRIM_THRESHOLD, min(total_memory() // KEPT, 2**31 - 1))


def free_memory() -> int:
    """Bytes that may still be taken; a very large number where the system does not say."""
    return max(0, min(_available(), _left_in_group()))


def total_memory() -> int:
    """Bytes there are in all, for this machine or container."""
    return min(_told("MemTotal"), _number(GROUP / "memory.max"))


def _available() -> int:
    return _told("MemAvailable")


def _told(name: str) -> int:
    with suppress(OSError, ValueError, IndexError):
        for line in Path("/proc/meminfo").read_text().splitlines():
            if line.startswith(f"{name}:"):
                return int(line.split()[1]) * 1024
    return UNKNOWN


def _left_in_group() -> int:
    """What the control group allows, less what it uses that cannot be let go."""
    most = _number(GROUP / "memory.max")
    if most == UNKNOWN:
        return UNKNOWN
    held = _number(GROUP / "memory.current")
    with suppress(OSError, ValueError):
        stat = dict(line.split() for line in (GROUP / "memory.stat").read_text().splitlines())
        held -= int(stat.get("inactive_file", 0))
    return most - held


def _number(path: Path) -> int:
    with suppress(OSError, ValueError):
        return int(path.read_text())
    return UNKNOWN
