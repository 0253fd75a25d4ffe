"""How much memory the machine, or the container that this runs in, has left."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

UNKNOWN = 2**62
GROUP = Path("/sys/fs/cgroup")


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
