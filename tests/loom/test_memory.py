"""That memory of maps that are let go is there for the next ones."""

from __future__ import annotations

import ctypes
import subprocess
import sys

import pytest

from reedloom.loom.memory import keep_freed_memory

TWICE = """
import resource
import sys
import numpy as np
from reedloom.loom.memory import keep_freed_memory

if sys.argv[1] == "kept":
    keep_freed_memory()

def fresh_pages() -> int:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_minflt
    maps = [np.ones((512, 512, 3), np.float32) for _ in range(30)]
    del maps
    return resource.getrusage(resource.RUSAGE_SELF).ru_minflt - before

fresh_pages()
print(fresh_pages())
"""


def fresh_pages(how: str) -> int:
    """Pages that the second thirty maps took from the system, in a program of its own."""
    told = subprocess.run([sys.executable, "-c", TWICE, how], capture_output=True, text=True, check=True)
    return int(told.stdout)


def test_maps_take_over_the_memory_of_those_before_them() -> None:
    assert fresh_pages("kept") < 0.1 * fresh_pages("as it is")


def test_without_such_a_setting_nothing_happens(monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []

    class Plain:
        """A C library that has no settings, and notes what is looked for in it."""

        def __getattr__(self, name: str) -> object:
            asked.append(name)
            raise AttributeError(name)

    monkeypatch.setattr(ctypes, "CDLL", lambda name: Plain())
    keep_freed_memory()
    assert asked == ["mallopt"]
