"""Names of any signs for weaves, files, folders, templates: written, or refused in a sentence."""

from __future__ import annotations

import os
import random
import tempfile
from collections.abc import Callable
from functools import partial
from pathlib import Path

from hostile import TEXTS, FaultError, in_a_sentence

import reedloom as rl

SIGNS = "aZ0 ._-~#%&{}[]()<>'\"\\/|:;,?*!\t\n\r\x00\x1b\x7fäß中🪢\u200b\u202e\ud800\udcff"


def some_name(chance: random.Random) -> str:
    """A name as nobody would give it."""
    if chance.random() < 0.3:
        return chance.choice(TEXTS)
    return "".join(chance.choices(SIGNS, k=chance.choice((1, 3, 8, 30, 250))))


def uses(weave: rl.Weave, name: str, folder: Path, format_: str) -> list[Callable[[], object]]:
    """All that a name can be given to."""
    inside = os.path.join(folder, name.replace("/", "-").lstrip("~") or "x")  # noqa: PTH118 - any text at all
    return [
        partial(weave.rename, name),
        partial(rl.save_weave, weave, inside),
        partial(rl.deliver, weave, inside, 4, name=name),
        partial(rl.deliver, weave, folder / "maps", 4, format=format_),
    ]


def run(count: int, seed: int) -> int:
    """Try so many names; returns how many files were written."""
    written = 0
    weave = rl.Weave()
    weave.tie(weave.add("solid"), "base_colour")
    for number in range(seed, seed + count):
        chance = random.Random(number)
        name = some_name(chance)
        with tempfile.TemporaryDirectory() as top:
            folder = Path(top)
            for use in uses(weave, name, folder, chance.choice(("png8", "exr_half"))):
                try:
                    use()
                except Exception as error:
                    in_a_sentence(error, f"name {number} ({name[:40]!r})")
            for path in folder.rglob("*"):
                if path.name.startswith(".reedloom-") or path.name.endswith(".part"):
                    raise FaultError(f"name {number} ({name[:40]!r}) leaves {path.name!r}")
                written += path.is_file()
    return written
