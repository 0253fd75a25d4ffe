"""Kills in the middle of saving and delivering: files are whole afterwards, and nothing is left about."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from hostile import FaultError

import reedloom as rl
from reedloom.picture_files import read_map

SAVING = """
import sys, reedloom as rl
from pathlib import Path
weave = rl.Weave()
for number in range(400):
    weave.add("blur")
rl.save_weave(weave, sys.argv[1])
print("ready", flush=True)
for turn in range(10**6):
    weave.rename(f"turn {turn}")
    rl.save_weave(weave, sys.argv[1])
"""
DELIVERING = """
import sys, reedloom as rl
weave = rl.Weave()
for channel in ("height", "roughness", "metallic"):
    weave.tie(weave.add("number", value=0.25), channel)
rl.deliver(weave, sys.argv[1], 64)
print("ready", flush=True)
for turn in range(10**6):
    rl.deliver(weave, sys.argv[1], 64, format=("png8", "exr_half")[turn % 2])
"""


def _kill_each(program: str, target: Path, count: int, seed: int, look: Callable[[int], None]) -> None:
    for number in range(seed, seed + count):
        chance = random.Random(number)
        with subprocess.Popen([sys.executable, "-c", program, str(target)], stdout=subprocess.PIPE) as run_:
            assert run_.stdout is not None
            if run_.stdout.readline().strip() != b"ready":
                raise FaultError(f"kill {number}: the program did not begin")
            time.sleep(chance.random() * 0.05)
            os.kill(run_.pid, signal.SIGKILL)
        look(number)


def saving(count: int, seed: int) -> int:
    """Kill a program that saves, so many times; returns how often."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "mat.reed"

        def look(number: int) -> None:
            for path in (file, file.with_name("mat.reed.previous")):
                if path.exists() and len(rl.open_weave(path).document.graph.nodes) != 400:
                    raise FaultError(f"kill {number}: {path.name} is not whole")
            rl.save_weave(rl.open_weave(file), file)
            names = {path.name for path in Path(folder).iterdir()} - {"mat.reed", "mat.reed.previous"}
            if names:
                raise FaultError(f"kill {number}: {names} are left after the next save")

        _kill_each(SAVING, file, count, seed, look)
    return count


def delivering(count: int, seed: int) -> int:
    """Kill a program that delivers, so many times; returns how often."""
    weave = rl.Weave()
    weave.tie(weave.add("number", value=0.25), "height")
    with tempfile.TemporaryDirectory() as top:
        folder = Path(top) / "maps"

        def look(number: int) -> None:
            for path in folder.glob("*.*"):
                if not path.name.startswith((".", "look")) and read_map(path).shape != (64, 64):
                    raise FaultError(f"kill {number}: {path.name} is not whole")
            rl.deliver(weave, folder, 8, name="look")
            left = [path.name for path in folder.iterdir() if path.name.startswith(".")]
            if left:
                raise FaultError(f"kill {number}: {left} are left after the next delivery")

        _kill_each(DELIVERING, folder, count, seed, look)
    return count
