"""Kills in the middle of saving and delivering: files are whole afterwards, and nothing is left about."""

from __future__ import annotations

import os
import random
import signal
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from hostile import FaultError

import reedloom as rl
from reedloom.picture_files import read_map

MOST_WAIT = 0.06
"""Seconds in which a program that saves, or delivers, is killed at the latest: a few times what one takes."""


def _mat() -> rl.Weave:
    """A weave of many nodes."""
    weave = rl.Weave()
    for _ in range(400):
        weave.add("blur")
    return weave


def _three_maps() -> rl.Weave:
    """A weave with three maps."""
    weave = rl.Weave()
    for channel in ("height", "roughness", "metallic"):
        weave.tie(weave.add("number", value=0.25), channel)
    return weave


def _kill_each(
    work: Callable[[int], object], target: Path, count: int, seed: int, look: Callable[[int], None]
) -> None:
    for number in range(seed, seed + count):
        wait = MOST_WAIT * random.Random(number).random()
        child = os.fork()
        if child == 0:
            try:
                for turn in range(10**6):
                    work(turn)
            finally:
                os._exit(1)
        while not target.exists():  # its first time is not what is tried
            time.sleep(0.001)
        time.sleep(wait)
        os.kill(child, signal.SIGKILL)
        if os.waitpid(child, 0)[1] != signal.SIGKILL:
            raise FaultError(f"kill {number}: the program ended before it was killed")
        look(number)


def saving(count: int, seed: int) -> int:
    """Kill a program that saves, so many times; returns how often."""
    weave = _mat()
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "mat.reed"

        def save(turn: int) -> None:
            weave.rename(f"turn {turn}")
            rl.save_weave(weave, file)

        def look(number: int) -> None:
            for path in (file, file.with_name("mat.reed.previous")):
                if path.exists() and len(rl.open_weave(path).document.graph.nodes) != 400:
                    raise FaultError(f"kill {number}: {path.name} is not whole")
            rl.save_weave(rl.open_weave(file), file)
            names = {path.name for path in Path(folder).iterdir()} - {"mat.reed", "mat.reed.previous"}
            if names:
                raise FaultError(f"kill {number}: {names} are left after the next save")

        _kill_each(save, file, count, seed, look)
    return count


def delivering(count: int, seed: int) -> int:
    """Kill a program that delivers, so many times; returns how often."""
    weave = _three_maps()
    with tempfile.TemporaryDirectory() as top:
        folder = Path(top) / "maps"

        def deliver(turn: int) -> None:
            rl.deliver(weave, folder, 64, format=("png8", "exr_half")[turn % 2])

        def look(number: int) -> None:
            for path in folder.glob("*.*"):
                if not path.name.startswith((".", "look")) and read_map(path).shape != (64, 64):
                    raise FaultError(f"kill {number}: {path.name} is not whole")
            rl.deliver(weave, folder, 8, maps=["height"], name="look")
            left = [path.name for path in folder.iterdir() if path.name.startswith(".")]
            if left:
                raise FaultError(f"kill {number}: {left} are left after the next delivery")

        _kill_each(deliver, folder, count, seed, look)
    return count
