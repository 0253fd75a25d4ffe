"""Makes small wrong changes in a copy of the sources and sees whether the checks named for them fail.

A check that cannot fail is worse than none. `python tools/mutants.py` tries all of them, with names only
those; `--fast` leaves out what compiles kernels anew, opens windows or waits long. A change that is not
caught, or no longer applies, is told, and the exit status is 1.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from mutant import Mutant
from wrong_changes import MUTANTS

ROOT = Path(__file__).resolve().parents[1]


SPARE = "        out = np.empty_like(maps[0]) if channels is None else self.empty(channels)\n"


def trouble_with(mutant: Mutant) -> str:
    """What is wrong with the checks for a mutant, or nothing."""
    with tempfile.TemporaryDirectory(prefix="reedloom-mutant-") as folder:
        package = Path(folder) / "reedloom"
        shutil.copytree(ROOT / "src" / "reedloom", package, ignore=shutil.ignore_patterns("__pycache__"))
        file = package / mutant.file
        text = file.read_text()
        if text.count(mutant.right) != 1:
            return (
                f"no longer applies: what it changes stands {text.count(mutant.right)} times in {mutant.file}"
            )
        text = text.replace(mutant.right, mutant.wrong)
        if "spare[" in mutant.wrong:  # the memory that the bands share
            text = text.replace(SPARE, SPARE + "        spare = np.empty_like(out)\n")
        file.write_text(text)
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "-p", "no:xdist"]
        done = subprocess.run(
            [*command, mutant.caught_by], cwd=ROOT, env=os.environ | {"PYTHONPATH": folder},
            capture_output=True, text=True, check=False,
        )  # fmt: skip
    if done.returncode == 0:
        return f"is not caught by {mutant.caught_by}"
    return "" if done.returncode == 1 else f"could not be tried: {done.stdout[-400:]}{done.stderr[-400:]}"


def main(asked: list[str]) -> int:
    """Try the mutants named, or all, or the fast ones; returns the exit status."""
    fast, names = "--fast" in asked, [name for name in asked if name != "--fast"]
    chosen = [m for m in MUTANTS if (m.fast or not fast) and (not names or m.name in names)]
    missed = 0
    for mutant in chosen:
        trouble = trouble_with(mutant)
        missed += bool(trouble)
        print(
            f"{'MISSED' if trouble else 'caught'}  {mutant.name}{': ' + trouble if trouble else ''}",
            flush=True,
        )
    print(f"{len(chosen) - missed} of {len(chosen)} caught")
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
